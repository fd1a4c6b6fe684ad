import { z } from 'zod';

/**
 * What is to become of an image, as data: steps in one fixed order, each of which may be left out. A recipe is always
 * applied to the original's bytes, so that editing twice never loses twice, and an empty one is the original.
 */
export const RECIPE_VERSION = 1;

const Colour = z.string().regex(/^#[0-9a-f]{6}$/);
const percent = z.number().min(-100).max(100);
const level = z.int().min(0).max(255);
/** Pixels of a side that encoders here take. */
const pixels = z.int().min(1).max(20_000);

/** The image upright, then turned clockwise by quarters, mirrored, and straightened about its middle. */
export const Orient = z.strictObject({
  turns: z.union([z.literal(0), z.literal(1), z.literal(2), z.literal(3)]).optional(),
  /** Left becomes right. */
  mirror: z.boolean().optional(),
  /** Top becomes bottom. */
  flip: z.boolean().optional(),
  /** Degrees clockwise, in tenths. */
  straighten: z
    .number()
    .min(-45)
    .max(45)
    .refine((value) => Math.abs(value * 10 - Math.round(value * 10)) < 1e-6)
    .optional(),
});
export type Orient = z.infer<typeof Orient>;

/** What fills a frame beyond the image: a colour, the colour of the image's own edge, a blurred copy of it, or nothing. */
export const Beyond = z.union([
  z.strictObject({ fill: z.literal('colour'), colour: Colour }),
  z.strictObject({ fill: z.enum(['edge', 'blur', 'none']) }),
]);
export type Beyond = z.infer<typeof Beyond>;

/** A rectangle in parts of the oriented image's width and height. */
const Rectangle = {
  x: z.number().min(-4).max(5),
  y: z.number().min(-4).max(5),
  width: z.number().positive().max(9),
  height: z.number().positive().max(9),
};

/** What is kept of the oriented image; it may reach beyond it. */
export const Frame = z.strictObject({
  ...Rectangle,
  /** Width to height that it is held to. */
  ratio: z.tuple([z.number().positive().max(10_000), z.number().positive().max(10_000)]).optional(),
  beyond: Beyond.optional(),
});
export type Frame = z.infer<typeof Frame>;

/** Levels of 0 to 255 that become black, middle grey and white. */
export const Levels = z
  .strictObject({ black: level, mid: level, white: level })
  .refine(({ black, mid, white }) => black < mid && mid < white);
export type Levels = z.infer<typeof Levels>;

export const Tone = z.strictObject({
  /** 'auto': by the percentiles of what the frame holds. */
  levels: z.union([Levels, z.literal('auto')]).optional(),
  brightness: percent.optional(),
  contrast: percent.optional(),
  saturation: percent.optional(),
  /** Towards amber, or below 0 towards blue. */
  warmth: percent.optional(),
  blackAndWhite: z.boolean().optional(),
  /** A colour laid over all of it, so that text can stand on it. */
  veil: z.strictObject({ colour: Colour, opacity: z.number().min(0).max(1) }).optional(),
});
export type Tone = z.infer<typeof Tone>;

/** A part that nobody is to recognise, in parts of the oriented image. */
export const Cover = z.strictObject({
  ...Rectangle,
  as: z.enum(['blur', 'mosaic', 'colour']),
  colour: Colour.optional(),
});
export type Cover = z.infer<typeof Cover>;

export const Size = z.intersection(
  z.union([
    z.object({ by: z.literal('fit'), width: pixels, height: pixels }),
    z.object({ by: z.literal('cover'), width: pixels, height: pixels }),
    z.object({ by: z.literal('width'), width: pixels }),
    z.object({ by: z.literal('height'), height: pixels }),
    z.object({ by: z.literal('longest'), pixels }),
    z.object({ by: z.literal('percent'), percent: z.number().min(1).max(400) }),
  ]),
  z.object({
    /** Without it nothing gets larger than it is. */
    enlarge: z.boolean().optional(),
    /** After it was made smaller. */
    sharpen: z.enum(['light', 'strong']).optional(),
  }),
);
export type Size = z.infer<typeof Size>;

export const FORMATS = ['jpeg', 'png', 'webp', 'avif'] as const;
export type Format = (typeof FORMATS)[number];

export const FileStep = z.strictObject({
  /** Left out: as it is. */
  format: z.enum(FORMATS).optional(),
  /** A number as encoders count, the least that looks the same, or whatever keeps it below so many bytes. */
  quality: z
    .union([
      z.int().min(1).max(100),
      z.literal('same'),
      z.strictObject({ mostBytes: z.int().min(1000).max(1e9) }),
    ])
    .optional(),
  /** What is seen through where the format has no transparency. */
  ground: Colour.optional(),
});
export type FileStep = z.infer<typeof FileStep>;

export const Recipe = z.strictObject({
  version: z.literal(RECIPE_VERSION),
  orient: Orient.optional(),
  frame: Frame.optional(),
  tone: Tone.optional(),
  covers: z.array(Cover).max(50).optional(),
  size: Size.optional(),
  file: FileStep.optional(),
});
export type Recipe = z.infer<typeof Recipe>;

export const NO_RECIPE: Recipe = { version: RECIPE_VERSION };

/** The steps in the order in which they are applied. */
export const STEPS = ['orient', 'frame', 'tone', 'covers', 'size', 'file'] as const;
export type Step = (typeof STEPS)[number];

/** A change of a recipe: steps that are set anew; null: the step is left out from now on. */
export type RecipeChange = { readonly [Name in Step]?: Recipe[Name] | null };

/** The recipe with a change made to it. */
export function merge(recipe: Recipe, change: RecipeChange): Recipe {
  const next: Record<string, unknown> = { ...recipe };
  for (const [step, value] of Object.entries(change)) {
    if (value === null) delete next[step];
    else if (value !== undefined) next[step] = value;
  }
  const merged = normalise(next as Recipe);
  // What did not change is the same object, so that whoever shows one step has nothing to do when another changes.
  return Object.fromEntries(
    Object.entries(merged).map(([step, value]) => {
      const before = recipe[step as keyof Recipe];
      return [step, JSON.stringify(before) === JSON.stringify(value) ? before : value];
    }),
  ) as unknown as Recipe;
}

/** The same recipe without what does nothing, numbers rounded as they are kept: two that do the same read the same. */
export function normalise(recipe: Recipe): Recipe {
  const out: Recipe = { version: RECIPE_VERSION };
  const { orient, frame, tone, covers, size, file } = recipe;
  const orients = {
    ...(orient?.turns ? { turns: orient.turns } : {}),
    ...(orient?.mirror ? { mirror: true } : {}),
    ...(orient?.flip ? { flip: true } : {}),
    ...(orient?.straighten ? { straighten: Math.round(orient.straighten * 10) / 10 } : {}),
  };
  if (Object.keys(orients).length > 0) out.orient = orients;
  if (frame && !isWhole(frame)) {
    const beyond = reachesBeyond(frame) || orients.straighten ? frame.beyond : undefined;
    out.frame = {
      x: part(frame.x),
      y: part(frame.y),
      width: part(frame.width),
      height: part(frame.height),
      ...(frame.ratio ? { ratio: frame.ratio } : {}),
      ...(beyond ? { beyond } : {}),
    };
  }
  const tones: Tone = {
    ...(tone?.levels && !isPlain(tone.levels) ? { levels: tone.levels } : {}),
    ...(tone?.brightness ? { brightness: tone.brightness } : {}),
    ...(tone?.contrast ? { contrast: tone.contrast } : {}),
    // Where there is no colour left, its strength says nothing.
    ...(tone?.saturation && !tone.blackAndWhite ? { saturation: tone.saturation } : {}),
    ...(tone?.warmth ? { warmth: tone.warmth } : {}),
    ...(tone?.blackAndWhite ? { blackAndWhite: true } : {}),
    ...(tone?.veil && tone.veil.opacity > 0 ? { veil: tone.veil } : {}),
  };
  if (Object.keys(tones).length > 0) out.tone = tones;
  if (covers && covers.length > 0)
    out.covers = covers.map((one) => ({
      ...one,
      x: part(one.x),
      y: part(one.y),
      width: part(one.width),
      height: part(one.height),
    }));
  if (size && !(size.by === 'percent' && size.percent === 100)) out.size = size;
  if (file && Object.keys(file).length > 0) out.file = file;
  return out;
}

/** Nothing is to become of the image. */
export function isNothing(recipe: Recipe): boolean {
  return Object.keys(normalise(recipe)).length === 1;
}

/** A frame that reaches beyond the image, by more than a rounding. */
export function reachesBeyond({ x, y, width, height }: Frame): boolean {
  return x < -1e-6 || y < -1e-6 || x + width > 1 + 1e-6 || y + height > 1 + 1e-6;
}

/**
 * Reads a recipe as it is kept, in JSON.
 * @throws Error with a sentence when it is of a newer version or cannot be understood
 */
export function readRecipe(text: string): Recipe {
  const value: unknown = JSON.parse(text);
  const version = (value as { version?: unknown } | null)?.version;
  if (typeof version === 'number' && version > RECIPE_VERSION)
    throw new Error(
      `This edit was made by a newer version of Iconomos (recipe ${version}, here ${RECIPE_VERSION}). Nothing was changed; update Iconomos to edit it.`,
    );
  const read = Recipe.safeParse(value);
  if (!read.success) throw new Error('This edit can’t be read. Go back to the original and edit it again.');
  return read.data;
}

export function writeRecipe(recipe: Recipe): string {
  return JSON.stringify(normalise(recipe));
}

/** Parts are kept to a hundred thousandth: less than a pixel of the largest image. */
const part = (value: number) => Math.round(value * 1e5) / 1e5;

const isWhole = (frame: Frame) =>
  Math.abs(frame.x) < 1e-5 &&
  Math.abs(frame.y) < 1e-5 &&
  Math.abs(frame.width - 1) < 1e-5 &&
  Math.abs(frame.height - 1) < 1e-5;

const isPlain = (levels: Levels | 'auto') =>
  levels !== 'auto' &&
  levels.black === 0 &&
  levels.white === 255 &&
  (levels.mid === 127 || levels.mid === 128);
