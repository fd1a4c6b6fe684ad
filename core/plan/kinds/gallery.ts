import { z } from 'zod';
import { GalleryView } from '../../reference/schema.ts';
import { idsUpTo } from '../ids.ts';
import { folder } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** A gallery, new on a page or in place of the one that stands there. */
export const gallery = kindOfPlan('gallery', {
  right: 'place',
  changes: 'files',
  request: {
    page: folder,
    spot: z.union([z.strictObject({ at: z.int().min(0) }), z.strictObject({ gallery: z.int().min(0) })]),
    ...GalleryView.shape,
    itemIds: idsUpTo(2000),
  },
});
