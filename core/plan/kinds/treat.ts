import { z } from 'zod';
import { Frame } from '../../picture/recipe/recipe.ts';
import { Treatment } from '../../picture/recipe/treatments.ts';
import { idsUpTo } from '../ids.ts';
import { kindOfPlan } from './kind.ts';

/** Many images made anew from their originals by one treatment, at their addresses or as new items. */
export const treat = kindOfPlan('treat', {
  right: 'clean',
  changes: 'files',
  encodes: true,
  request: {
    itemIds: idsUpTo(500),
    treatment: Treatment,
    /** Images that get a frame of their own instead of the common one. */
    own: z
      .array(z.strictObject({ itemId: z.int(), frame: Frame }))
      .max(500)
      .optional(),
    to: z.union([
      z.strictObject({ as: z.literal('these'), sizes: z.boolean() }),
      z.strictObject({ as: z.literal('new'), folder: z.string().max(1000) }),
    ]),
  },
});
