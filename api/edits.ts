import { z } from 'zod';
import { Frame, Orient, Recipe } from '../core/picture/recipe/recipe.ts';
import { idsUpTo } from '../core/plan/ids.ts';
import { Treatment } from '../core/picture/recipe/treatments.ts';

/** An image on the bench: its original, and what has been made of it so far. */
export const EditView = z.object({
  name: z.string(),
  original: z.object({ sha256: z.string(), mime: z.string(), width: z.int(), height: z.int() }),
  bytes: z.int(),
  /** It is not on the site: nothing lies beside it. */
  draft: z.boolean(),
  recipe: Recipe,
  /** Files beside it that are sizes of it. */
  sizes: z.int(),
  /** CSS pixels that pages show it wide at most; null: not known. */
  widest: z.int().nullable(),
  /** Width to height that its folder asks for; null: none. */
  ratio: z.tuple([z.number(), z.number()]).nullable(),
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

const Box = z.object({ x: z.number(), y: z.number(), width: z.number(), height: z.number() });

/** The thing on an image, in parts of it upright; null: none is clear, and `why`. */
export const SubjectView = z.object({ subject: Box.nullable(), why: z.string() });
export type SubjectView = z.infer<typeof SubjectView>;

/** Images and a treatment that they are to be looked at with. */
export const FramingRequest = z.strictObject({
  itemIds: idsUpTo(24),
  treatment: Treatment,
});

/** How a treatment frames an image. */
export const FramingView = z.object({
  itemId: z.int(),
  path: z.string(),
  /** Null: it can’t be treated, and `why`. */
  original: z.object({ sha256: z.string(), mime: z.string(), width: z.int(), height: z.int() }).nullable(),
  orient: Orient.nullable(),
  /** In parts of the oriented image. */
  frame: Frame,
  /** What was found on its ground, in parts of the oriented image. */
  subject: Box.nullable(),
  why: z.string(),
});
export type FramingView = z.infer<typeof FramingView>;
