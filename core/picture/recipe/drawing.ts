import { STEPS, type Recipe } from './recipe.ts';

/** Drawings (SVG) have no pixels: an image is made of one in any size. */
export const isDrawing = (mime: string): boolean => mime === 'image/svg+xml';

/**
 * A recipe as it is applied to a drawing, which is as sharp when it is made larger.
 * @throws RangeError with a sentence when it asks for more than another size and format, or for no format
 */
export function recipeOfDrawing(recipe: Recipe): Recipe {
  if (STEPS.some((step) => recipe[step] && step !== 'size' && step !== 'file'))
    throw new RangeError('It is a drawing: only its size and format can be changed.');
  if (!recipe.file?.format)
    throw new RangeError('It is a drawing, sharp at any size. Choose a format to save it as an image.');
  return recipe.size ? { ...recipe, size: { ...recipe.size, enlarge: true } } : recipe;
}
