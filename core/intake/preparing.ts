import { geometry, type Extent } from '../picture/recipe/geometry.ts';
import { isNothing, merge, NO_RECIPE, type Recipe, type Size } from '../picture/recipe/recipe.ts';
import { recipeFor } from '../picture/recipe/treatments.ts';
import type { Subject } from '../picture/subject.ts';
import type { Checked } from './finding.ts';
import { shrunkSize } from './rules.ts';

/** Quality of an image that is saved as JPEG because browsers do not show it as it was sent. */
const CONVERTED = 90;

/** Formats that are decoded here, and so can be edited at the door. */
const EDITABLE = new Set([
  'image/jpeg',
  'image/png',
  'image/webp',
  'image/avif',
  'image/tiff',
  'image/heic',
  'image/heif',
]);

/** Whether a file that waits can be edited before it is brought in. */
export function canBeEdited(file: Pick<Checked, 'kind' | 'mime' | 'width' | 'height' | 'frames'>): boolean {
  return (
    file.kind === 'image' && EDITABLE.has(file.mime) && file.frames <= 1 && Boolean(file.width && file.height)
  );
}

/** The folder's treatment is applied: a person has neither edited the image nor said that it stays. */
export function isTreated(file: Checked): boolean {
  return file.rule.treatment !== null && !file.recipe && canBeEdited(file) && file.choices.treat !== 'keep';
}

/** What a person or the folder’s treatment makes of an image, before it is brought within the folder’s limits. */
function madeOf(file: Checked, subject?: Subject): Recipe {
  if (!canBeEdited(file)) return NO_RECIPE;
  if (file.recipe) return file.recipe;
  return isTreated(file) ? recipeFor(file.rule.treatment!, sizeOf(file), subject) : NO_RECIPE;
}
const sizeOf = ({ width, height }: Checked): Extent => ({ width: width ?? 1, height: height ?? 1 });

/** The size an image has once it is edited or treated; null: it is none. */
export function editedSize(file: Checked): Extent | null {
  if (!file.width || !file.height) return null;
  return geometry(madeOf(file), sizeOf(file)).output;
}

/** The size that the folder's limits bring it to then; undefined: none. */
export function limitedSize(file: Checked): Extent | undefined {
  const size = editedSize(file);
  return size ? shrunkSize({ ...file, ...size }, file.rule) : undefined;
}

/**
 * What is made of a file that waits before it goes to the site, as one recipe: what a person or the folder’s treatment says, within
 * the folder's limits, in a format that browsers show. Nothing: it goes as it is.
 * @param subject where the thing on it stands, for a treatment that frames it
 */
export function recipeAtDoor(
  file: Checked,
  { shrink, convert }: { shrink: boolean; convert: boolean },
  subject?: Subject,
): Recipe {
  let recipe = madeOf(file, subject);
  const edited = !isNothing(recipe);
  if (convert || (edited && file.convertible !== null))
    recipe = merge(recipe, { file: { format: 'jpeg', quality: CONVERTED, ...recipe.file } });
  if (!shrink) return recipe;
  const from = editedSize(file);
  const to = limitedSize(file);
  if (!from || !to) return recipe;
  if (to.width < from.width || to.height < from.height)
    recipe = merge(recipe, { size: { ...limited(recipe.size, to) } });
  const most = file.rule.largestBytes;
  return most === null ? recipe : merge(recipe, { file: { ...recipe.file, quality: { mostBytes: most } } });
}

/** Its longer side leads, so that the other one is rounded once. What crops goes on cropping. */
function limited(size: Size | undefined, to: Extent): Size {
  if (size?.by === 'cover') return { ...size, ...to };
  const sharpen = size?.sharpen ? { sharpen: size.sharpen } : {};
  return to.width >= to.height
    ? { by: 'width', width: to.width, ...sharpen }
    : { by: 'height', height: to.height, ...sharpen };
}
