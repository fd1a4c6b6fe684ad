import { z } from 'zod';
import { classes, folder } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** An item onto a page: between two blocks, in place of an image, or as a background. */
export const place = kindOfPlan('place', {
  right: 'place',
  changes: 'files',
  request: {
    page: folder,
    spot: z.union([
      z.strictObject({ at: z.int().min(0) }),
      z.strictObject({ insteadOf: z.int().min(0) }),
      /** Where its address is written: on the page, or in one of its style sheets. */
      z.strictObject({ background: z.int().min(0), in: folder }),
      /** The block that gets a background, by where it begins. */
      z.strictObject({ behind: z.int().min(0) }),
    ]),
    itemId: z.int(),
    caption: z.boolean(),
    classes,
    shownWidth: z.int().min(16).max(10_000).nullable(),
    sizes: z.boolean(),
    full: z.boolean(),
  },
});
