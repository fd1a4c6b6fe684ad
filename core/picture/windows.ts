/**
 * An image made ready to be compared: sums over its plane, and hashes of windows of it and of the whole turned. Sums over areas after
 * F. Crow, "Summed-Area Tables for Texture Mapping" (SIGGRAPH 1984).
 */
import {
  detailOf,
  deviation,
  halved,
  hashOf,
  lowCoefficients,
  normalised,
  orient,
  PLANE,
} from './signature.ts';

/** Hashes are made of so many means a side. */
export const HASH_SIDE = 32;

/** Part of an image: offsets and sizes as parts of its width and height, 0 to 1. */
export interface Window {
  x: number;
  y: number;
  w: number;
  h: number;
}
export const WHOLE: Window = { x: 0, y: 0, w: 1, h: 1 };

/** What is known of an image to be compared. */
export interface Picture {
  /** Luminance, PLANE x PLANE, 0 to 255, upright, its shape ignored. */
  plane: Uint8Array;
  /** Pixels, upright. */
  width: number;
  height: number;
  /** Mean colour differences R-Y and B-Y on 8 x 8 fields, 128 numbers; null: not known. */
  chroma: Int8Array | null;
}

/** An image made ready: sums over its plane, its windows and orientations as hashes. */
export class Prepared {
  readonly sums: Int32Array;
  readonly deviation: number;
  private readonly wholes = new Map<number, Float64Array>();

  constructor(readonly picture: Picture) {
    this.sums = sumsOf(picture.plane);
    this.deviation = deviation(this.whole(HASH_SIDE));
  }

  /** Area means of all of it, on side x side fields. */
  whole(side: number): Float64Array {
    let means = this.wholes.get(side);
    if (!means) this.wholes.set(side, (means = sampled(this.sums, WHOLE, side)));
    return means;
  }

  /** The whole turned, as it is looked for in another: on HASH_SIDE and half as many fields, and its details. */
  turned(orientation: number): Wanted {
    return (this.wanted[orientation] ??= wantedOf(orient(this.whole(HASH_SIDE), HASH_SIDE, orientation)));
  }
  private readonly wanted: (Wanted | undefined)[] = [];

  /** Hashes of the whole in 8 orientations (bit 0 mirrors x, bit 1 mirrors y, bit 2 swaps them); of flat images only upright. */
  get oriented(): readonly (readonly [number, number])[] {
    if (this.turnedHashes) return this.turnedHashes;
    const low = lowCoefficients(this.whole(HASH_SIDE));
    return (this.turnedHashes = Array.from({ length: this.isFlat ? 1 : 8 }, (_, orientation) =>
      hashOf(low, orientation),
    ));
  }
  private turnedHashes: readonly (readonly [number, number])[] | undefined;

  /** Hardly anything can be told from it: no windows, no turning. */
  get isFlat(): boolean {
    return this.deviation < 4;
  }

  /** The whole, and windows within that a crop may have left; of a flat image only the whole, of a blank one nothing. */
  get windows(): readonly Window[] {
    return (this.parts ??= this.deviation < 1 ? [] : this.isFlat ? [WHOLE] : windowsOf(this.picture));
  }
  private parts: readonly Window[] | undefined;

  /** Their hashes, in their order. */
  get hashes(): readonly (readonly [number, number])[] {
    return (this.hashed ??= this.windows.map((window) =>
      hashOf(lowCoefficients(sampled(this.sums, window, HASH_SIDE)), 0),
    ));
  }
  private hashed: readonly (readonly [number, number])[] | undefined;
}

/** What is looked for in another image: normalised means, and what is left of the fine ones without those around. */
interface Wanted {
  fine: Float64Array;
  coarse: Float64Array;
  details: Float64Array;
}

function wantedOf(means: Float64Array): Wanted {
  let details: Float64Array | undefined;
  return {
    fine: normalised(means),
    coarse: normalised(halved(means, HASH_SIDE)),
    // Many are given up before they are needed.
    get details() {
      return (details ??= detailOf(means, HASH_SIDE, DETAIL_REACH));
    },
  };
}
/** So far around a field its details are told from its surroundings. */
export const DETAIL_REACH = 2;

/** Where the rest around a smaller window is left out: in the middle it is so all around. */
const CORNERS = [
  [0.5, 0.5],
  [0, 0],
  [1, 0],
  [0, 1],
  [1, 1],
] as const;
const EDGES = [
  [0.5, 0],
  [0.5, 1],
  [0, 0.5],
  [1, 0.5],
] as const;
const SCALES = [0.95, 0.9, 0.8];
const placesAt = (scale: number) => (scale === 0.95 ? CORNERS : [...CORNERS, ...EDGES]);
/** How much one side less is. */
const ONE_SIDE = [0.06, 0.12, 0.2];
/**
 * Which windows leave out a fifth at one side: there stand captions, logos and dates. Images that agree in one of them, at the same
 * place, show the same but for what has been put over it.
 */
export const PARTS: readonly number[] = [0, 1, 2, 3].map(
  (at) => 1 + SCALES.reduce((sum, scale) => sum + placesAt(scale).length, 0) + 4 * (ONE_SIDE.length - 1) + at,
);
/** Shapes to which images are cropped, width by height. */
const SHAPES = [16 / 9, 3 / 2, 4 / 3, 1, 3 / 4, 2 / 3];

/**
 * Windows of an image that is not flat: the whole; nine tenths and so on at the centre and the corners; one side less; both sides of one
 * axis less; the middle in another shape; what a border leaves. Crops between these are near enough to one of them.
 */
function windowsOf(picture: Picture): readonly Window[] {
  const windows = [WHOLE];
  for (const scale of SCALES) {
    const rest = 1 - scale;
    for (const [px, py] of placesAt(scale)) windows.push({ x: px * rest, y: py * rest, w: scale, h: scale });
  }
  // What is cut off one axis alone changes the shape, and with it every coefficient of that axis.
  const ofOneAxis = (from: number, rest: number) => {
    const [at, left] = [from * rest, 1 - rest];
    windows.push({ x: at, y: 0, w: left, h: 1 }, { x: 0, y: at, w: 1, h: left });
  };
  for (const rest of ONE_SIDE) for (const from of [0, 1]) ofOneAxis(from, rest);
  for (const rest of [0.12, 0.22]) ofOneAxis(0.5, rest);
  const aspect = picture.width / picture.height;
  for (const shape of SHAPES) {
    const [w, h] = [Math.min(1, shape / aspect), Math.min(1, aspect / shape)];
    const rest = 1 - Math.min(w, h);
    if (rest > 0.26 && rest < 0.5) windows.push({ x: (1 - w) / 2, y: (1 - h) / 2, w, h });
  }
  const inner = withinBorder(picture.plane);
  if (inner) windows.push(inner);
  return windows;
}

/** What a border of one brightness leaves of an image; undefined: it has none, or hardly anything else. */
export function withinBorder(plane: Uint8Array): Window | undefined {
  const flat = (at: (i: number) => number, from: number, to: number) => {
    let [least, most] = [255, 0];
    for (let i = from; i < to; i++) {
      const value = plane[at(i)]!;
      least = Math.min(least, value);
      most = Math.max(most, value);
    }
    return most - least <= 12 && Math.abs((most + least) / 2 - plane[0]!) <= 8;
  };
  const row = (y: number) => flat((i) => y * PLANE + i, 0, PLANE);
  let [top, bottom, left, right] = [0, PLANE, 0, PLANE];
  while (top < PLANE && row(top)) top++;
  while (bottom > top && row(bottom - 1)) bottom--;
  const column = (x: number) => flat((i) => i * PLANE + x, top, bottom);
  while (left < PLANE && column(left)) left++;
  while (right > left && column(right - 1)) right--;
  const window = {
    x: left / PLANE,
    y: top / PLANE,
    w: (right - left) / PLANE,
    h: (bottom - top) / PLANE,
  };
  if (window.w > 0.98 && window.h > 0.98) return undefined;
  return window.w < 0.3 || window.h < 0.3 ? undefined : window;
}

/** What an image is found by: two words for each hash. */
export interface PictureHashes {
  /** Of its windows, in their order. */
  windows: Int32Array;
  /** Of the whole, as it would be turned. */
  oriented: Int32Array;
}

/** The hashes of an image as they are kept; none of a blank one. */
export function hashesOf(picture: Prepared): PictureHashes {
  const windows = picture.hashes.flat();
  return {
    windows: Int32Array.from(windows),
    oriented: Int32Array.from(windows.length > 0 ? picture.oriented.flat() : []),
  };
}

/** Sums of all pixels above and to the left, (PLANE + 1) squared. */
function sumsOf(plane: Uint8Array): Int32Array {
  const side = PLANE + 1;
  const sums = new Int32Array(side * side);
  for (let y = 0; y < PLANE; y++) {
    let row = 0;
    for (let x = 0; x < PLANE; x++) {
      row += plane[y * PLANE + x]!;
      sums[(y + 1) * side + x + 1] = sums[y * side + x + 1]! + row;
    }
  }
  return sums;
}

/** Largest number of fields a side that is sampled. */
const MOST_FIELDS = 64;
// One window is sampled after the other: what is only needed on the way is kept.
const columns = new Int32Array(MOST_FIELDS + 1);
const columnParts = new Float64Array(MOST_FIELDS + 1);
const above = new Float64Array(MOST_FIELDS + 1);
const fields = new Float64Array(MOST_FIELDS * MOST_FIELDS);

const withinPlane = (at: number) => Math.min(PLANE, Math.max(0, at * PLANE));

/** Sums over the fields of a window, side x side of them, into `fields`; borders between pixels are met by their parts. */
function fill(sums: Int32Array, { x, y, w, h }: Window, side: number): void {
  // This runs some hundred times for two images: what it works on is held in variables of its own.
  const [left, parts, last, to] = [columns, columnParts, above, fields];
  const stride = PLANE + 1;
  for (let i = 0; i <= side; i++) {
    const at = withinPlane(x + (w * i) / side);
    const column = Math.min(PLANE - 1, at | 0);
    left[i] = column;
    parts[i] = at - column;
  }
  for (let j = 0, field = 0; j <= side; j++) {
    const at = withinPlane(y + (h * j) / side);
    const row = Math.min(PLANE - 1, at | 0);
    const part = at - row;
    const base = row * stride;
    // The sum up to a point lies between those of the four pixels around it, as these are squares of one value.
    let before = 0;
    let beforeAbove = 0;
    for (let i = 0; i <= side; i++) {
      const corner = base + left[i]!;
      const along = parts[i]!;
      const top = sums[corner]!;
      const bottom = sums[corner + stride]!;
      const upper = top + (sums[corner + 1]! - top) * along;
      const sum = upper + (bottom + (sums[corner + stride + 1]! - bottom) * along - upper) * part;
      const over = last[i]!;
      if (j > 0 && i > 0) to[field++] = sum - before - over + beforeAbove;
      last[i] = sum;
      before = sum;
      beforeAbove = over;
    }
  }
}

const areaOf = ({ w, h }: Window, side: number) => ((w * PLANE) / side) * ((h * PLANE) / side);

/**
 * Area means of a window on side x side fields.
 * @param side at most 64
 */
export function sampled(sums: Int32Array, window: Window, side: number): Float64Array {
  fill(sums, window, side);
  const area = areaOf(window, side);
  const means = new Float64Array(side * side);
  for (let i = 0; i < means.length; i++) means[i] = fields[i]! / area;
  return means;
}

/**
 * How well a window agrees with an image, as correlation(sampled(...), ...) tells it, without keeping the means.
 * @param wanted means of the image, less their mean, of length 1; of side x side fields
 */
export function agreementAt(sums: Int32Array, window: Window, wanted: Float64Array, side: number): number {
  fill(sums, window, side);
  let sum = 0;
  let squares = 0;
  let products = 0;
  const from = fields;
  for (let i = 0; i < wanted.length; i++) {
    const value = from[i]!;
    sum += value;
    squares += value * value;
    products += value * wanted[i]!;
  }
  const energy = squares - (sum * sum) / wanted.length;
  return energy < 1e-9 * areaOf(window, side) ** 2 ? 0 : products / Math.sqrt(energy);
}
