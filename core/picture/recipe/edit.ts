import { z } from 'zod';
import { isMadePdf } from '../../print/made-pdf.ts';
import { readRecipe, writeRecipe, type Recipe } from './recipe.ts';

/** How an image was made of its original: kept with its record, so that it can be changed or taken back at any time. */
export interface Edit {
  recipe: Recipe;
  original: Original;
}

/** The bytes that a recipe is applied to. */
export interface Original {
  /** SHA-256 of its bytes, in lower-case hex. */
  sha256: string;
  mime: string;
  /** In pixels, upright. */
  width: number;
  height: number;
}

const Kept = z.strictObject({
  original: z.strictObject({
    of: z.string().regex(/^[0-9a-f]{64}$/),
    mime: z.string(),
    width: z.int().min(1),
    height: z.int().min(1),
  }),
  /** The bytes that came out: another file at the same address was not made so. */
  made: z.string(),
  recipe: z.unknown(),
});

/** As records keep it, in JSON. @param made hash of what the recipe made of the original */
export function writeEdit({ recipe, original }: Edit, made: string): string {
  const { sha256: of, mime, width, height } = original;
  return JSON.stringify({
    original: { of, mime, width, height },
    made,
    recipe: JSON.parse(writeRecipe(recipe)) as unknown,
  });
}

/** The hash of the original that a record names, whatever has become of its file since; undefined: none. */
export const originalIn = (text: string): string | undefined =>
  text === '' || isMadePdf(text) ? undefined : Kept.parse(JSON.parse(text)).original.of;

/**
 * Reads how a file was made.
 * @param sha256 of the file as it is
 * @returns undefined when it was not edited here, or its bytes have come from elsewhere since
 * @throws Error with a sentence when a newer version wrote it
 */
export function readEdit(text: string, sha256: string): Edit | undefined {
  if (text === '' || isMadePdf(text)) return undefined;
  const kept = Kept.parse(JSON.parse(text));
  if (kept.made !== sha256) return undefined;
  const { of, ...rest } = kept.original;
  return { original: { sha256: of, ...rest }, recipe: readRecipe(JSON.stringify(kept.recipe)) };
}
