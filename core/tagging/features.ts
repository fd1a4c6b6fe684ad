import { labOf } from '../picture/lab.ts';
import { halved, hashOf, lowCoefficients } from '../picture/signature.ts';

/**
 * What an image is known by: numbers of its colours, edges, texture and layout, each from 0 to 1, in groups that are compared each for itself.
 * After M. Swain and D. Ballard, "Color Indexing" (1991), and the edge histogram of MPEG-7 (ISO/IEC 15938-3).
 */
export interface Features {
  /** Colours by hue, and what has none by lightness; together 1. */
  hues: Float32Array;
  /** Mean lightness and colour of each field of the layout. */
  layout: Float32Array;
  /** Directions of its edges in each quarter, as shares; and how many there are in each field. */
  edges: Float32Array;
  /** How much each field varies within itself. */
  texture: Float32Array;
  /** What describes all of it: lightness, its spread, colourfulness, plain ground, horizon, shape, writing on it. */
  whole: Float32Array;
  /** The bits of its perceptual hash: the same for an image that shows the same. */
  likeness: Float32Array;
}
export const FEATURE_GROUPS = ['hues', 'layout', 'edges', 'texture', 'whole', 'likeness'] as const;

/** Side of the square that an image is brought to before, in pixels: its shape is told beside. */
export const FEATURE_SIDE = 64;
/** Fields on each side of the layout. */
const FIELDS = 4;
const HUES = 12;
const GREYS = 6;
const DIRECTIONS = 6;
/** Below this distance from grey a colour is none. */
const COLOURLESS = 10;
/** What the hash counts beside the other groups: half of its bits differ between images that have nothing in common. */
const LIKENESS = 0.3;
/** Differences from the border by which a pixel is still its ground. */
const GROUND = 9;
/** Change of lightness from one pixel to the next that is an edge. */
const EDGE = 5;

/**
 * The features of an image.
 * @param rgb FEATURE_SIDE x FEATURE_SIDE pixels, 3 bytes each, however the image is shaped
 * @param aspect its width by its height
 * @param writing how much of it is writing, 0 to 1
 */
export function featuresOf(rgb: Uint8Array, aspect: number, writing = 0): Features {
  const lab = labOf(rgb, 3);
  const light = (x: number, y: number) => lab[3 * (y * FEATURE_SIDE + x)]!;
  return {
    hues: huesOf(lab),
    ...fieldsOf(lab),
    edges: edgesOf(light),
    whole: Float32Array.from([...wholeOf(lab, light, aspect), writing]),
    likeness: likenessOf(rgb),
  };
}

function huesOf(lab: Float32Array): Float32Array {
  const counts = new Uint32Array(HUES + GREYS);
  for (let at = 0; at < lab.length; at += 3) {
    const [lightness, a, b] = [lab[at]!, lab[at + 1]!, lab[at + 2]!];
    const chroma = Math.hypot(a, b);
    if (chroma < COLOURLESS) counts[HUES + binOf(lightness / 100, GREYS)]!++;
    else counts[binOf((Math.atan2(b, a) + Math.PI) / (2 * Math.PI), HUES)]!++;
  }
  return Float32Array.from(counts, (count) => (3 * count) / lab.length);
}

/** Means and spreads of the fields, by rows. */
function fieldsOf(lab: Float32Array): Pick<Features, 'layout' | 'texture'> {
  const fields = FIELDS * FIELDS;
  const [sums, squares] = [new Float64Array(3 * fields), new Float64Array(fields)];
  const side = FEATURE_SIDE / FIELDS;
  for (let y = 0; y < FEATURE_SIDE; y++)
    for (let x = 0; x < FEATURE_SIDE; x++) {
      const field = Math.floor(y / side) * FIELDS + Math.floor(x / side);
      const at = 3 * (y * FEATURE_SIDE + x);
      for (let channel = 0; channel < 3; channel++) sums[3 * field + channel]! += lab[at + channel]!;
      squares[field]! += lab[at]! ** 2;
    }
  const pixels = side * side;
  const layout = Float32Array.from(sums, (sum, at) =>
    at % 3 === 0 ? held(sum / pixels / 100) : held(0.5 + sum / pixels / 160),
  );
  const texture = Float32Array.from(squares, (sum, field) =>
    held(Math.sqrt(Math.max(0, sum / pixels - (sums[3 * field]! / pixels) ** 2)) / 30),
  );
  return { layout, texture };
}

function edgesOf(light: (x: number, y: number) => number): Float32Array {
  const quarters = new Float64Array(4 * DIRECTIONS);
  const counts = new Float64Array(FIELDS * FIELDS);
  const side = FEATURE_SIDE / FIELDS;
  for (let y = 1; y < FEATURE_SIDE - 1; y++)
    for (let x = 1; x < FEATURE_SIDE - 1; x++) {
      const across = (light(x + 1, y) - light(x - 1, y)) / 2;
      const down = (light(x, y + 1) - light(x, y - 1)) / 2;
      const strength = Math.hypot(across, down);
      if (strength < EDGE) continue;
      const quarter = 2 * Number(2 * y >= FEATURE_SIDE) + Number(2 * x >= FEATURE_SIDE);
      // An edge from dark to light lies as one from light to dark.
      const turn = (Math.atan2(down, across) + Math.PI) / Math.PI;
      quarters[quarter * DIRECTIONS + binOf(turn % 1, DIRECTIONS)]! += strength;
      counts[Math.floor(y / side) * FIELDS + Math.floor(x / side)]! += 1;
    }
  const all = quarters.reduce((sum, one) => sum + one, 0);
  return Float32Array.from([
    ...[...quarters].map((one) => (all > 0 ? one / all : 0)),
    ...[...counts].map((one) => held((2 * one) / (side * side))),
  ]);
}

/** Bits of the hash that look-alikes are found by, of the whole image. */
function likenessOf(rgb: Uint8Array): Float32Array {
  const luminance = Float64Array.from(
    { length: rgb.length / 3 },
    (_, at) => 0.299 * rgb[3 * at]! + 0.587 * rgb[3 * at + 1]! + 0.114 * rgb[3 * at + 2]!,
  );
  const words = hashOf(lowCoefficients(halved(luminance, FEATURE_SIDE)), 0);
  return Float32Array.from({ length: 64 }, (_, bit) => (words[bit >> 5]! >>> (bit & 31)) & 1);
}

function wholeOf(lab: Float32Array, light: (x: number, y: number) => number, aspect: number): number[] {
  const pixels = lab.length / 3;
  let [sum, squares, chroma] = [0, 0, 0];
  for (let at = 0; at < lab.length; at += 3) {
    sum += lab[at]!;
    squares += lab[at]! ** 2;
    chroma += Math.hypot(lab[at + 1]!, lab[at + 2]!);
  }
  const mean = sum / pixels;
  const horizon = horizonOf(light);
  return [
    held(mean / 100),
    held(Math.sqrt(Math.max(0, squares / pixels - mean ** 2)) / 50),
    held(chroma / pixels / 60),
    groundOf(lab),
    horizon.at,
    horizon.strength,
    // 1:1 lies in the middle.
    held(0.5 + Math.log2(aspect) / 4),
  ];
}

/** The share of pixels that are like the middle of the border. */
function groundOf(lab: Float32Array): number {
  const border: number[] = [];
  for (let at = 0; at < FEATURE_SIDE; at++)
    border.push(
      at,
      (FEATURE_SIDE - 1) * FEATURE_SIDE + at,
      at * FEATURE_SIDE,
      at * FEATURE_SIDE + FEATURE_SIDE - 1,
    );
  const middle = [0, 1, 2].map((channel) => {
    const sorted = border.map((pixel) => lab[3 * pixel + channel]!).sort((one, other) => one - other);
    return sorted[sorted.length >> 1]!;
  });
  let like = 0;
  for (let at = 0; at < lab.length; at += 3)
    if (Math.hypot(lab[at]! - middle[0]!, lab[at + 1]! - middle[1]!, lab[at + 2]! - middle[2]!) < GROUND)
      like++;
  return (3 * like) / lab.length;
}

/** Where the lightness of whole rows changes most, from 0 at the top to 1, and by how much. */
function horizonOf(light: (x: number, y: number) => number): { at: number; strength: number } {
  const rows = Array.from({ length: FEATURE_SIDE }, (_, y) => {
    let sum = 0;
    for (let x = 0; x < FEATURE_SIDE; x++) sum += light(x, y);
    return sum / FEATURE_SIDE;
  });
  let [at, most] = [0, 0];
  for (let y = 2; y < FEATURE_SIDE - 2; y++) {
    const step = Math.abs(rows[y + 1]! + rows[y]! - rows[y - 1]! - rows[y - 2]!) / 2;
    if (step > most) [at, most] = [y, step];
  }
  return { at: most === 0 ? 0.5 : at / FEATURE_SIDE, strength: held(most / 40) };
}

const held = (value: number) => Math.min(1, Math.max(0, value));
const binOf = (part: number, bins: number) => Math.min(bins - 1, Math.floor(part * bins));

/** How far apart two images are, each group but the hash counting the same: 0 for the same features, at most 5.3. */
export function distanceOf(one: Features, other: Features): number {
  let sum = 0;
  for (const group of FEATURE_GROUPS) {
    const [a, b] = [one[group], other[group]];
    let apart = 0;
    for (let at = 0; at < a.length; at++) apart += Math.abs(a[at]! - b[at]!);
    // Shares add up to 1, so that two are at most 2 apart.
    sum += group === 'hues' ? apart / 2 : ((group === 'likeness' ? LIKENESS : 1) * apart) / a.length;
  }
  return sum;
}
