import type { Levels, Recipe, Tone } from './recipe.ts';

/** Weights of red, green and blue in the luminance of what screens show (ITU-R BT.709). */
export const LUMA = [0.2126, 0.7152, 0.0722] as const;

/** A tone as what is done to each pixel: a table for each channel, then a 3 x 3 matrix by rows, then what is added. */
export interface ToneTables {
  red: Uint8Array;
  green: Uint8Array;
  blue: Uint8Array;
  /** Nine numbers; undefined: channels stay apart. */
  matrix: readonly number[] | undefined;
  add: readonly [number, number, number];
}

/** The weights in parts of 65,536, which are counted faster: together they are all of them, so that white stays 255. */
const [RED, GREEN, BLUE] = [13933, 46871, 4732];

/** How many pixels have each luminance of 0 to 255. @param pixels 3 or 4 bytes each; what is transparent is not counted */
export function histogramOf(pixels: Uint8Array | Uint8ClampedArray, channels: 3 | 4): Uint32Array {
  return histogramWithin(
    pixels,
    channels,
    { left: 0, top: 0, width: Math.floor(pixels.length / channels), height: 1 },
    0,
  );
}

/** The same of a part of an image, in pixels. @param stride pixels of one of its lines */
export function histogramWithin(
  pixels: Uint8Array | Uint8ClampedArray,
  channels: 3 | 4,
  part: { left: number; top: number; width: number; height: number },
  stride: number,
): Uint32Array {
  const counts = new Uint32Array(256);
  for (let y = part.top; y < part.top + part.height; y++) {
    const start = (y * stride + part.left) * channels;
    const end = start + part.width * channels;
    for (let at = start; at < end; at += channels) {
      if (channels === 4 && pixels[at + 3]! < 128) continue;
      counts[(RED * pixels[at]! + GREEN * pixels[at + 1]! + BLUE * pixels[at + 2]! + 32768) >> 16]!++;
    }
  }
  return counts;
}

/** Levels by which the darkest and lightest half percent of an image become black and white, its median grey where that helps. */
export function levelsOf(histogram: Uint32Array, percentile = 0.005): Levels {
  const total = histogram.reduce((sum, count) => sum + count, 0);
  if (total === 0) return { black: 0, mid: 128, white: 255 };
  const at = (share: number) => {
    let sum = 0;
    for (let level = 0; level < 256; level++) {
      sum += histogram[level]!;
      if (sum >= share * total) return level;
    }
    return 255;
  };
  const black = Math.min(253, at(percentile));
  const white = Math.max(black + 2, at(1 - percentile));
  // Half way from the middle to the median: an image that is dark on purpose stays so.
  const mid = Math.round(((black + white) / 2 + at(0.5)) / 2);
  return { black, mid: Math.min(white - 1, Math.max(black + 1, mid)), white };
}

/** The recipe with levels as numbers, where they were to be found from what its frame holds. */
export function withLevels(recipe: Recipe, histogram: Uint32Array): Recipe {
  return recipe.tone?.levels === 'auto'
    ? { ...recipe, tone: { ...recipe.tone, levels: levelsOf(histogram) } }
    : recipe;
}

/**
 * What a tone does to each pixel; undefined where it does nothing.
 * @throws Error when levels are still to be found
 */
export function toneTables(tone: Tone | undefined): ToneTables | undefined {
  if (!tone || Object.keys(tone).length === 0) return undefined;
  const { levels, brightness = 0, contrast = 0, saturation = 0, warmth = 0, blackAndWhite, veil } = tone;
  if (levels === 'auto') throw new Error('levels are found from an image before its tone is applied');
  const table = new Uint8Array(256);
  for (let value = 0; value < 256; value++) {
    let level = levelled(value / 255, levels);
    level += brightness / 200;
    // Contrast turns the line about middle grey: 100 doubles it and more, -100 makes all of it grey.
    level = 0.5 + (level - 0.5) * (contrast >= 0 ? 1 + contrast / 50 : 1 + contrast / 100);
    table[value] = Math.round(255 * Math.min(1, Math.max(0, level)));
  }
  const matrix = blackAndWhite
    ? [...LUMA, ...LUMA, ...LUMA]
    : saturation === 0
      ? undefined
      : saturated(1 + saturation / 100);
  const red = warmed(table, 1 + warmth / 400);
  const blue = warmed(table, 1 - warmth / 400);
  return { red, green: table, blue, ...veiled(matrix, veil) };
}

/** Applies a tone in place. @param pixels 3 or 4 bytes each, sRGB; transparency stays */
export function applyTone(
  pixels: Uint8Array | Uint8ClampedArray,
  channels: 3 | 4,
  { red, green, blue, matrix, add }: ToneTables,
): void {
  const end = pixels.length - channels + 1;
  if (!matrix) {
    for (let at = 0; at < end; at += channels) {
      pixels[at] = red[pixels[at]!]!;
      pixels[at + 1] = green[pixels[at + 1]!]!;
      pixels[at + 2] = blue[pixels[at + 2]!]!;
    }
    return;
  }
  const [a, b, c, d, e, f, g, h, i] = matrix as [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  const [x, y, z] = add;
  for (let at = 0; at < end; at += channels) {
    const r = red[pixels[at]!]!;
    const s = green[pixels[at + 1]!]!;
    const t = blue[pixels[at + 2]!]!;
    pixels[at] = byte(a * r + b * s + c * t + x);
    pixels[at + 1] = byte(d * r + e * s + f * t + y);
    pixels[at + 2] = byte(g * r + h * s + i * t + z);
  }
}

/** The same in ordinary arrays of bytes and in those of a canvas, which round and hold by themselves. */
const byte = (value: number) => (value <= 0 ? 0 : value >= 255 ? 255 : (value + 0.5) | 0);

function levelled(value: number, levels: Levels | undefined): number {
  if (!levels) return value;
  const [black, mid, white] = [levels.black / 255, levels.mid / 255, levels.white / 255];
  const within = Math.min(1, Math.max(0, (value - black) / (white - black)));
  // The exponent by which the mid-tone becomes one half.
  return within ** (Math.log(0.5) / Math.log((mid - black) / (white - black)));
}

const warmed = (table: Uint8Array, gain: number) =>
  gain === 1 ? table : table.map((value) => Math.min(255, Math.round(value * gain)));

/** Between grey and the colour, and beyond it. */
function saturated(share: number): number[] {
  return [0, 1, 2].flatMap((row) =>
    LUMA.map((weight, column) => (1 - share) * weight + (row === column ? share : 0)),
  );
}

function veiled(
  matrix: readonly number[] | undefined,
  veil: Tone['veil'],
): Pick<ToneTables, 'matrix' | 'add'> {
  if (!veil) return { matrix, add: [0, 0, 0] };
  const through = 1 - veil.opacity;
  const [red, green, blue] = rgbOf(veil.colour);
  return {
    matrix: (matrix ?? [1, 0, 0, 0, 1, 0, 0, 0, 1]).map((value) => value * through),
    add: [red * veil.opacity, green * veil.opacity, blue * veil.opacity],
  };
}

/** The three bytes of '#rrggbb'. */
export function rgbOf(colour: string): [number, number, number] {
  const value = Number.parseInt(colour.slice(1), 16);
  return [value >> 16, (value >> 8) & 255, value & 255];
}
