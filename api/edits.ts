import { z } from 'zod';
import { Recipe } from '../core/picture/recipe/recipe.ts';

/** An image on the bench: its original, and what has been made of it so far. */
export const EditView = z.object({
  name: z.string(),
  original: z.object({ sha256: z.string(), mime: z.string(), width: z.int(), height: z.int() }),
  bytes: z.int(),
  recipe: Recipe,
  /** Files beside it that are sizes of it. */
  sizes: z.int(),
});
export type EditView = z.infer<typeof EditView>;

export const TryRecipe = z.strictObject({ recipe: Recipe });

/** What a recipe would come to: really encoded, and let go of. */
export const TriedView = z.object({
  width: z.int(),
  height: z.int(),
  bytes: z.int(),
  mime: z.string(),
  quality: z.int().optional(),
  notes: z.array(z.string()),
});
export type TriedView = z.infer<typeof TriedView>;
