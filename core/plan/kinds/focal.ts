import { z } from 'zod';
import { Place } from '../../reference/schema.ts';
import { kindOfPlan } from './kind.ts';

/** What must be seen of an image; the placements that are to follow it. */
export const focal = kindOfPlan('focal', {
  right: 'place',
  changes: 'files',
  request: {
    itemId: z.int(),
    focal: z.string().regex(/^(?:\d{1,3} \d{1,3})?$/),
    places: z.array(Place).max(1000),
  },
});
