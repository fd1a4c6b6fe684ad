import { z } from 'zod';
import { patternInWords, PLAIN_PATTERN } from '../../naming/pattern.ts';
import { NamePattern } from '../../naming/schema.ts';
import { FORMAT_NAMES, stepTexts } from './describe.ts';
import { framing, type Subject } from '../subject.ts';
import { geometry, type Box as Rect, type Extent } from './geometry.ts';
import { Beyond, merge, Recipe, type Orient } from './recipe.ts';

/**
 * A recipe for many images: steps that are the same for all, and a shape that each is brought to, whatever its own. A frame of
 * its own would be of one image only.
 */
export const Treatment = z.strictObject({
  name: z.string().trim().min(1).max(100),
  recipe: Recipe.omit({ frame: true, covers: true }),
  shape: z
    .strictObject({
      /** Width to height. */
      ratio: z.tuple([z.number().positive().max(100), z.number().positive().max(100)]),
      /**
       * 'whole': all of the image, with a ground where it is missing; 'filled': as much of it as fills the shape; 'subject':
       * what stands on its plain ground, with the same margin around each.
       */
      how: z.enum(['whole', 'filled', 'subject']),
      /** Free room on either side of the subject, in parts of the frame. */
      margin: z.number().min(0).max(0.45).optional(),
      place: z.enum(['centred', 'base']).optional(),
      beyond: Beyond.optional(),
    })
    .optional(),
  /** How what comes of it is named; left out: as it is. */
  pattern: NamePattern.optional(),
  /** Where it goes; left out: it is asked each time. */
  target: z
    .union([
      z.strictObject({ as: z.literal('these') }),
      z.strictObject({ as: z.literal('new'), folder: z.string().max(1000) }),
    ])
    .optional(),
});
export type Treatment = z.infer<typeof Treatment>;

/** What comes with the application. */
export const TREATMENTS: readonly Treatment[] = [
  {
    name: 'Web photo',
    recipe: {
      version: 1,
      size: { by: 'fit', width: 1600, height: 1600 },
      file: { quality: 'same' },
    },
  },
  {
    name: 'Press photo',
    recipe: {
      version: 1,
      size: { by: 'fit', width: 2000, height: 2000 },
      file: { format: 'jpeg', quality: 92 },
    },
  },
  {
    name: 'Square shop image on white',
    shape: { ratio: [1, 1], how: 'subject', margin: 0.08, beyond: { fill: 'colour', colour: '#ffffff' } },
    recipe: {
      version: 1,
      size: { by: 'fit', width: 1200, height: 1200 },
      file: { format: 'jpeg', quality: 85 },
    },
  },
  {
    name: 'Event gallery',
    recipe: {
      version: 1,
      size: { by: 'fit', width: 800, height: 600, sharpen: 'light' },
      file: { format: 'jpeg', quality: 82 },
    },
    pattern: {
      ...PLAIN_PATTERN,
      pieces: [
        { piece: 'folder', levels: 1 },
        { piece: 'counter', start: 1, step: 1, width: 3, restart: 'folder' },
      ],
    },
  },
  {
    name: 'Page header',
    recipe: {
      version: 1,
      size: { by: 'cover', width: 1600, height: 600 },
      file: { quality: 'same' },
    },
  },
  {
    name: 'Black-and-white portrait',
    shape: { ratio: [4, 5], how: 'filled' },
    recipe: {
      version: 1,
      tone: { blackAndWhite: true, levels: 'auto', contrast: 8 },
      size: { by: 'fit', width: 1200, height: 1500 },
    },
  },
  {
    name: 'Document scan',
    recipe: {
      version: 1,
      tone: { blackAndWhite: true, levels: 'auto', contrast: 30 },
      size: { by: 'longest', pixels: 2000, sharpen: 'light' },
    },
  },
];

const SHAPES = {
  whole: 'brought to',
  filled: 'cropped to',
  subject: 'the thing on it framed alike,',
} as const;

/** What a treatment does, in a few words. */
export function treatmentInWords({ recipe, shape, pattern }: Omit<Treatment, 'name'>): string {
  const on =
    shape?.beyond?.fill === 'colour'
      ? ` on ${shape.beyond.colour === '#ffffff' ? 'white' : shape.beyond.colour}`
      : '';
  return [
    shape ? `${SHAPES[shape.how]} ${shape.ratio.join(':')}${on}` : '',
    ...stepTexts(recipe).map(({ text }) => text),
    pattern && pattern.pieces.length > 0 ? `named by ${patternInWords(pattern)}` : '',
  ]
    .filter(Boolean)
    .join(', ');
}

/**
 * The recipe that a treatment is for an image of this size, upright, in pixels.
 * @param subject where it stands in the upright image; without it, a shape takes all of the image
 */
export function recipeFor(
  { recipe, shape }: Omit<Treatment, 'name'>,
  size: Extent,
  subject?: Pick<Subject, 'x' | 'y' | 'width' | 'height'>,
): Recipe {
  if (!shape) return merge(recipe, {});
  const { oriented } = geometry({ version: 1, ...(recipe.orient ? { orient: recipe.orient } : {}) }, size);
  const beyond = shape.beyond ? { beyond: shape.beyond } : {};
  if (shape.how === 'subject' && subject) {
    const box = inOriented(subject, recipe.orient, size);
    const { ratio, margin = 0.08, place = 'centred' } = shape;
    return merge(recipe, { frame: { ...framing(box, { ratio, margin, place }, oriented), ...beyond } });
  }
  // Width to height in parts of the image.
  const parts = ((shape.ratio[0] / shape.ratio[1]) * oriented.height) / oriented.width;
  const grows = shape.how === 'filled' ? parts < 1 : parts > 1;
  const frame = grows ? { width: parts, height: 1 } : { width: 1, height: 1 / parts };
  return merge(recipe, {
    frame: {
      ...frame,
      x: (1 - frame.width) / 2,
      y: (1 - frame.height) / 2,
      ratio: shape.ratio,
      ...beyond,
    },
  });
}

/** What of one image's recipe can be made of others: all but its covers and the place of its frame. */
export function asTreatment(recipe: Recipe): Omit<Treatment, 'name'> {
  const { frame, covers: _, ...steps } = recipe;
  if (!frame?.ratio) return { recipe: steps };
  const beyond = frame.beyond ? { beyond: frame.beyond } : {};
  const whole = frame.width >= 1 - 1e-4 && frame.height >= 1 - 1e-4;
  return { recipe: steps, shape: { ratio: frame.ratio, how: whole ? 'whole' : 'filled', ...beyond } };
}

/** Where a box of the upright image lies once that is turned and mirrored; both in parts. */
export function inOriented({ x, y, width, height }: Rect, orient: Orient | undefined, size: Extent): Rect {
  const { toOutput } = geometry({ version: 1, ...(orient ? { orient } : {}) }, size);
  const one = toOutput({ x, y });
  const other = toOutput({ x: x + width, y: y + height });
  return {
    x: Math.min(one.x, other.x),
    y: Math.min(one.y, other.y),
    width: Math.abs(one.x - other.x),
    height: Math.abs(one.y - other.y),
  };
}

/** How far a shape may be off before it counts as another one. */
const SHAPE_TOLERANCE = 0.02;

/**
 * What an image is not that a treatment would make of it, as the end of a sentence; undefined: it may have been treated. Only what
 * can be told without looking at pixels counts: its format, its size, its shape.
 */
export function missesTreatment(
  { mime, width, height }: { mime: string; width: number; height: number },
  treatment: Omit<Treatment, 'name'>,
): string | undefined {
  const { recipe, shape } = treatment;
  const { format } = recipe.file ?? {};
  if (format && mime !== `image/${format}`) return `makes ${FORMAT_NAMES[format]} files`;
  if (shape && Math.abs(width / height / (shape.ratio[0] / shape.ratio[1]) - 1) > SHAPE_TOLERANCE)
    return `gives images the shape ${shape.ratio.join(':')}`;
  if (recipe.size) {
    const { output } = geometry({ version: 1, size: recipe.size }, { width, height });
    if (output.width < width - 1 || output.height < height - 1)
      return `makes images of this shape ${output.width} × ${output.height} px`;
  }
  return undefined;
}
