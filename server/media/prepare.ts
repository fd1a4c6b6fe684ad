import { readFile, stat, writeFile } from 'node:fs/promises';
import sharp, { type Sharp } from 'sharp';
import type { FocalPoint } from '../../core/picture/focal.ts';
import { applyCovers, type Pixels } from '../../core/picture/recipe/cover.ts';
import { isDrawing, recipeOfDrawing } from '../../core/picture/recipe/drawing.ts';
import { edgeColour } from '../../core/picture/recipe/edge.ts';
import { geometry, type Box, type Geometry } from '../../core/picture/recipe/geometry.ts';
import type { Beyond, Format, Recipe } from '../../core/picture/recipe/recipe.ts';
import {
  applyTone,
  histogramOf,
  LUMA,
  rgbOf,
  toneTables,
  withLevels,
} from '../../core/picture/recipe/tone.ts';
import { leastQuality, looksSame, ssim } from '../../core/picture/ssim.ts';
import { LIMITS } from '../limits.ts';
import { encoded, LEAST_QUALITY, QUALITY, type Written } from './encode.ts';
import { HEIF, heifPixels, rgba } from './heif.ts';
import { Undecodable } from './undecodable.ts';

export interface Preparing {
  recipe: Recipe;
  /** Media type of the original. */
  mime: string;
  focal?: FocalPoint | undefined;
  /** A TIFF stays one, though no browser shows it. */
  keepTiff?: boolean | undefined;
  /** Of an animation, its first image is taken. */
  still?: boolean | undefined;
  /** Nothing that the original tells of itself goes along. */
  bare?: boolean | undefined;
}

export interface Prepared {
  width: number;
  height: number;
  bytes: number;
  mime: string;
  /** That it was encoded with; for formats that have one. */
  quality?: number;
  /** What the original tells of itself stands in the file already, but for its colour profile: that is sRGB. */
  carried: boolean;
  /** The original tells something of itself: when, where, by whom. */
  tells: boolean;
  /** What was not done as asked, in sentences. */
  notes: string[];
}

const FORMAT_OF: Record<string, Format> = {
  'image/jpeg': 'jpeg',
  'image/png': 'png',
  'image/webp': 'webp',
  'image/avif': 'avif',
};
const WHITE = '#ffffff';

/**
 * Makes of an original what its recipe says, and writes it to a file: sRGB, eight bits a channel, without metadata unless it is
 * `carried`. Runs in workers; what needs no reckoning with pixels goes through in one stream.
 * @throws Undecodable with a sentence when it cannot be decoded, is animated, or no pixel would be left
 */
export async function prepare(file: string, to: string, asked: Preparing): Promise<Prepared> {
  if (!isDrawing(asked.mime)) return made(await opened(file, asked.mime, asked.still), to, asked);
  const [drawn, recipe] = await pixelsOf(file, asked);
  return made(drawn, to, { ...asked, recipe });
}

async function made({ open, width, height, tells }: Opened, to: string, asked: Preparing): Promise<Prepared> {
  const made = shaped(() => geometry(asked.recipe, { width, height }, asked.focal));
  const notes: string[] = [];
  const { output } = made;
  const format: Written =
    asked.recipe.file?.format ??
    FORMAT_OF[asked.mime] ??
    (asked.keepTiff && asked.mime === 'image/tiff' ? 'tiff' : 'png');
  if (made.keptSmall) notes.push('Already small enough: it isn’t enlarged.');
  const told = async (quality: number | undefined, carried: boolean): Promise<Prepared> => ({
    width: output.width,
    height: output.height,
    bytes: (await stat(to)).size,
    mime: `image/${format}`,
    ...(quality === undefined ? {} : { quality }),
    carried,
    tells,
    notes,
  });
  const stream = streamed(open, made, asked.recipe);
  if (stream && !HEIF.has(asked.mime)) {
    const { hasAlpha } = await open().metadata();
    const wanted = asked.recipe.file?.quality ?? QUALITY;
    if (wanted !== 'same' && !(format === 'jpeg' && hasAlpha)) {
      // Whoever asks for less weight may get several encodings: each is a stream of its own.
      const source = () => (asked.bare ? stream() : stream().keepMetadata().withIccProfile('srgb'));
      const bytesOf = (quality: number) => encoded(source(), format, quality).toBuffer().catch(damaged);
      return told(await written(bytesOf, to, format, wanted, notes), !asked.bare);
    }
  }

  const placed = await content(open, made, asked.recipe).catch(damaged);
  // Counted only where something goes by it: that is a tenth of the work.
  const recipe =
    asked.recipe.tone?.levels === 'auto'
      ? withLevels(asked.recipe, histogramOf(placed.pixels.data, placed.pixels.channels))
      : asked.recipe;
  const { veil, ...tone } = recipe.tone ?? {};
  const tables = toneTables(tone);
  if (tables) applyTone(placed.pixels.data, placed.pixels.channels, tables);
  let pixels = await grounded(placed, made, recipe);
  const veils = veil && toneTables({ veil });
  if (veils) applyTone(pixels.data, pixels.channels, veils);
  applyCovers(pixels, recipe, made);
  if (format === 'jpeg' && pixels.channels === 4) {
    if (seenThrough(pixels)) notes.push(`What was transparent is now ${recipe.file?.ground ?? 'white'}.`);
    pixels = await flattened(pixels, recipe.file?.ground ?? WHITE);
  }
  const smaller = output.width < made.frame.width;
  const sharpened = await sharpen(pixels, smaller ? recipe.size?.sharpen : undefined);
  const quality = await encode(sharpened, to, format, recipe.file?.quality ?? QUALITY, notes);
  return told(quality, false);
}

function damaged(error: Error): never {
  throw error instanceof Undecodable
    ? error
    : new Undecodable('The image can’t be decoded: it is damaged or cut off.');
}

/** The image as one stream of pixels, where a recipe only crops within it and makes it smaller; else undefined. */
function streamed(open: () => Sharp, made: Geometry, recipe: Recipe): (() => Sharp) | undefined {
  const { orient, tone, covers, size } = recipe;
  if (orient || tone || covers?.length || made.beyond) return undefined;
  const { frame, output, oriented } = made;
  const whole = frame.width === oriented.width && frame.height === oriented.height;
  const smaller = output.width < frame.width;
  return () => {
    let image = open();
    if (!whole)
      image = image.extract({ left: frame.x, top: frame.y, width: frame.width, height: frame.height });
    image = image.resize({ ...output, fit: 'fill' }).toColourspace('srgb');
    return smaller && size?.sharpen ? image.sharpen(SHARPENED[size.sharpen]) : image;
  };
}

function shaped<Result>(compute: () => Result): Result {
  try {
    return compute();
  } catch (error) {
    if (error instanceof RangeError) throw new Undecodable(error.message);
    throw error;
  }
}

/** An original, upright; its size as that. */
interface Opened {
  open: () => Sharp;
  width: number;
  height: number;
  tells: boolean;
}

/** Dots per inch: one for each CSS pixel, and as many as the library draws with. */
const [PLAIN_DENSITY, MOST_DENSITY] = [72, 100_000];

/**
 * A drawing in the pixels that its recipe needs, and what is left to be done. It is read first: what stands beside it on the disk is none of
 * its business.
 */
async function pixelsOf(file: string, { recipe: asked, focal }: Preparing): Promise<[Opened, Recipe]> {
  const recipe = shaped(() => recipeOfDrawing(asked));
  const bytes = await readFile(file);
  const { width, height } = await sharp(bytes).metadata().catch(damaged);
  const { output, frame } = shaped(() => geometry(recipe, { width, height }, focal));
  const scale = output.width / frame.width;
  const density = Math.min(MOST_DENSITY, Math.max(1, PLAIN_DENSITY * scale));
  const { size, ...rest } = recipe;
  // What is cropped is drawn whole first.
  const crops = size?.by === 'cover';
  const drawn = crops ? { width: Math.round(width * scale), height: Math.round(height * scale) } : output;
  const pixels = await rawOf(
    sharp(bytes, { density, limitInputPixels: LIMITS.framePixels }).resize({ ...drawn, fit: 'fill' }),
  ).catch(damaged);
  return [{ open: () => sharpOf(pixels), ...drawn, tells: false }, crops ? recipe : rest];
}

/** The original, upright; its size as that. */
export async function opened(file: string, mime: string, still = false): Promise<Opened> {
  if (HEIF.has(mime)) {
    const pixels = await heifPixels(file);
    if (!pixels) throw new Undecodable('The image can’t be decoded here.');
    return {
      open: () => sharp(pixels.data, rgba(pixels)),
      width: pixels.width,
      height: pixels.height,
      // What a phone says stands elsewhere in its file.
      tells: true,
    };
  }
  const open = () => sharp(file, { limitInputPixels: LIMITS.framePixels, failOn: 'truncated' }).autoOrient();
  const meta = await open()
    .metadata()
    .catch(() => {
      throw new Undecodable(
        'The image can’t be decoded here: it is damaged, or of a kind that isn’t edited.',
      );
    });
  if ((meta.pages ?? 1) > 1 && !still) throw new Undecodable('An animated image can’t be edited here.');
  const tells = Boolean(meta.exif ?? meta.xmp ?? meta.iptc ?? meta.tifftagPhotoshop ?? meta.comments);
  return { open, width: meta.autoOrient.width, height: meta.autoOrient.height, tells };
}

/** Pixels, and where they lie in the output. */
interface Placed {
  pixels: Pixels;
  left: number;
  top: number;
}

/** What of the frame is of the image, in the size that it has in the output. */
async function content(open: () => Sharp, made: Geometry, recipe: Recipe): Promise<Placed> {
  const { frame, output } = made;
  const straightened = await turned(open, recipe);
  const room: Box = {
    x: (made.oriented.width - straightened.width) / 2,
    y: (made.oriented.height - straightened.height) / 2,
    width: straightened.width,
    height: straightened.height,
  };
  const left = Math.max(frame.x, Math.round(room.x));
  const top = Math.max(frame.y, Math.round(room.y));
  const right = Math.min(frame.x + frame.width, Math.round(room.x + room.width));
  const bottom = Math.min(frame.y + frame.height, Math.round(room.y + room.height));
  if (right <= left || bottom <= top)
    throw new Undecodable('The frame holds nothing of the image. Move it back over the image.');
  const [across, down] = [output.width / frame.width, output.height / frame.height];
  const edges = {
    left: Math.round((left - frame.x) * across),
    top: Math.round((top - frame.y) * down),
    right: Math.max(1, Math.round((right - frame.x) * across)),
    bottom: Math.max(1, Math.round((bottom - frame.y) * down)),
  };
  const at = { left: Math.min(edges.left, edges.right - 1), top: Math.min(edges.top, edges.bottom - 1) };
  const pixels = await rawOf(
    straightened
      .open()
      .extract({
        left: left - Math.round(room.x),
        top: top - Math.round(room.y),
        width: right - left,
        height: bottom - top,
      })
      .resize({ width: edges.right - at.left, height: edges.bottom - at.top, fit: 'fill' }),
  );
  // Only what was turned is seen through at its corners; none of them is in sight.
  const opaque = pixels.channels === 4 && (!seenThrough(pixels) || !(straightened.clear || made.beyond));
  return { pixels: opaque ? await withoutAlpha(pixels) : pixels, ...at };
}

/** The image after quarter turns, mirrors and straightening, to be read from: straightened, it has grown about its middle. */
async function turned(
  open: () => Sharp,
  recipe: Recipe,
): Promise<{ open: () => Sharp; width: number; height: number; clear: boolean }> {
  const { turns = 0, mirror = false, flip = false, straighten = 0 } = recipe.orient ?? {};
  const flat = () => open().toColourspace('srgb');
  // One step after the other, as the library has an order of its own.
  const steps: ((image: Sharp) => Sharp)[] = [];
  if (turns) steps.push((image) => image.rotate(90 * turns));
  if (mirror) steps.push((image) => image.flop());
  if (flip) steps.push((image) => image.flip());
  if (straighten)
    steps.push((image) =>
      image.ensureAlpha().rotate(straighten, { background: { r: 0, g: 0, b: 0, alpha: 0 } }),
    );
  if (steps.length === 0) {
    const { autoOrient } = await open().metadata();
    return { open: flat, ...autoOrient, clear: true };
  }
  let pixels = await rawOf(flat());
  const clear = pixels.channels === 4;
  for (const step of steps) pixels = await rawOf(step(sharpOf(pixels)));
  return { open: () => sharpOf(pixels), width: pixels.width, height: pixels.height, clear };
}

async function rawOf(image: Sharp): Promise<Pixels> {
  const { data, info } = await image.raw({ depth: 'uchar' }).toBuffer({ resolveWithObject: true });
  return { data, width: info.width, height: info.height, channels: info.channels as 3 | 4 };
}

/** The content on what fills the frame beyond it. */
async function grounded(placed: Placed, made: Geometry, recipe: Recipe): Promise<Pixels> {
  const { pixels, left, top } = placed;
  const { output } = made;
  const whole = pixels.width === output.width && pixels.height === output.height;
  if (whole && !made.beyond) return pixels;
  const beyond = recipe.frame?.beyond ?? { fill: 'colour', colour: WHITE };
  const raw = { raw: { width: pixels.width, height: pixels.height, channels: pixels.channels } };
  const ground = await groundOf(pixels, beyond, output);
  const all = await rawOf(ground.composite([{ input: Buffer.from(pixels.data), ...raw, left, top }]));
  return beyond.fill === 'none' ? all : withoutAlpha(all);
}

async function groundOf(
  pixels: Pixels,
  beyond: Beyond,
  output: { width: number; height: number },
): Promise<Sharp> {
  const plain = (background: { r: number; g: number; b: number; alpha: number }, channels: 3 | 4) =>
    sharp({ create: { ...output, channels, background } });
  if (beyond.fill === 'none') return plain({ r: 0, g: 0, b: 0, alpha: 0 }, 4);
  if (beyond.fill === 'blur') {
    const raw = { raw: { width: pixels.width, height: pixels.height, channels: pixels.channels } };
    const blurred = await sharp(Buffer.from(pixels.data), raw)
      .removeAlpha()
      .resize({ ...output, fit: 'cover' })
      .blur(Math.max(1, Math.max(output.width, output.height) / 30))
      .raw()
      .toBuffer();
    return sharp(blurred, { raw: { ...output, channels: 3 } });
  }
  const [r, g, b] = beyond.fill === 'colour' ? rgbOf(beyond.colour) : edgeColour(pixels);
  return plain({ r, g, b, alpha: 1 }, 3);
}

function seenThrough({ data }: Pixels): boolean {
  for (let at = 3; at < data.length; at += 4) if (data[at]! < 255) return true;
  return false;
}

const sharpOf = ({ data, width, height, channels }: Pixels) =>
  sharp(Buffer.from(data.buffer, data.byteOffset, data.byteLength), { raw: { width, height, channels } });

const withoutAlpha = (pixels: Pixels) => rawOf(sharpOf(pixels).removeAlpha());

async function flattened(pixels: Pixels, ground: string): Promise<Pixels> {
  const data = await sharpOf(pixels).flatten({ background: ground }).raw().toBuffer();
  return { ...pixels, data, channels: 3 };
}

const SHARPENED = { light: { sigma: 0.6, m1: 0.6 }, strong: { sigma: 1, m1: 1.2 } } as const;

async function sharpen(pixels: Pixels, how: 'light' | 'strong' | undefined): Promise<Pixels> {
  if (!how) return pixels;
  const data = await sharpOf(pixels).sharpen(SHARPENED[how]).raw().toBuffer();
  return { ...pixels, data };
}

/** Writes the file. @returns the quality that it got; undefined for what loses nothing */
async function encode(
  pixels: Pixels,
  to: string,
  format: Written,
  wanted: number | 'same' | { mostBytes: number },
  notes: string[],
): Promise<number | undefined> {
  const bytesOf = (quality: number) => encoded(sharpOf(pixels), format, quality).toBuffer();
  if (wanted !== 'same' || format === 'png' || format === 'tiff')
    return written(bytesOf, to, format, wanted === 'same' ? QUALITY : wanted, notes);
  const tried = new Map<number, Buffer>();
  const reference = luminance(pixels);
  const quality = await leastQuality(async (one) => {
    const bytes = await bytesOf(one);
    tried.set(one, bytes);
    const { data } = await sharp(bytes).removeAlpha().raw().toBuffer({ resolveWithObject: true });
    const seen = luminance({ ...pixels, data, channels: 3 });
    return looksSame(ssim(reference, seen, pixels.width, pixels.height));
  });
  await writeFile(to, tried.get(quality) ?? (await bytesOf(quality)));
  return quality;
}

/** Writes it with the quality that is wanted, or with the usual one, or less where it must be lighter. */
async function written(
  bytesOf: (quality: number) => Promise<Buffer>,
  to: string,
  format: Written,
  wanted: number | { mostBytes: number },
  notes: string[],
): Promise<number | undefined> {
  const lossless = format === 'png' || format === 'tiff';
  let quality = typeof wanted === 'number' && !lossless ? wanted : QUALITY;
  let bytes = await bytesOf(quality);
  if (typeof wanted === 'object' && bytes.length > wanted.mostBytes && format !== 'tiff') {
    // The highest that fits; where none does, the least, which is tried last.
    let [low, high, fits] = [LEAST_QUALITY, quality - 1, false];
    while (low <= high) {
      const middle = (low + high) >> 1;
      const made = await bytesOf(middle);
      const light = made.length <= wanted.mostBytes;
      if (light || !fits) [bytes, quality] = [made, middle];
      fits ||= light;
      if (light) low = middle + 1;
      else high = middle - 1;
    }
  }
  if (typeof wanted === 'object' && bytes.length > wanted.mostBytes)
    notes.push(
      `It can’t be made smaller than ${Math.round(bytes.length / 1000)} kB at a quality that is still fit to look at.`,
    );
  await writeFile(to, bytes);
  return lossless && quality === QUALITY ? undefined : quality;
}

function luminance({ data, width, height, channels }: Pixels): Uint8Array {
  const out = new Uint8Array(width * height);
  for (let at = 0; at < out.length; at++)
    out[at] = Math.round(
      LUMA[0] * data[at * channels]! +
        LUMA[1] * data[at * channels + 1]! +
        LUMA[2] * data[at * channels + 2]!,
    );
  return out;
}
