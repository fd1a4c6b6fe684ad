import { z } from 'zod';
import { Recipe } from '../../picture/recipe/recipe.ts';
import { kindOfPlan } from './kind.ts';

/** What becomes of the sizes that pages offer of an image: made anew with it, they alone, or left. */
export const SIZES_TOO = ['all', 'sizes', 'none'] as const;

/** An image made anew from its original by a recipe: at its address, or as an item of its own. */
export const prepare = kindOfPlan('prepare', {
  right: 'clean',
  changes: 'files',
  encodes: true,
  drafts: true,
  request: {
    itemId: z.int(),
    recipe: Recipe,
    to: z.union([
      z.strictObject({ as: z.literal('this'), sizes: z.enum(SIZES_TOO) }),
      /** A path without the ending, which the format gives. */
      z.strictObject({
        as: z.literal('new'),
        folder: z.string().max(1000),
        stem: z.string().min(1).max(200),
      }),
    ]),
  },
});
