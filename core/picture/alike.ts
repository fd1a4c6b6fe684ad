/**
 * Compares pictures by what they show, whatever their size, format, crop, border, mirroring or turning: windows of one whose
 * hash is near the whole of the other are aligned and verified. Sums over areas after F. Crow, "Summed-Area Tables for Texture
 * Mapping" (SIGGRAPH 1984); correlation after J. P. Lewis, "Fast Normalized Cross-Correlation" (1995).
 */
import { bitsOf, NEAR } from './hash-index.ts';
import {
  correlation,
  detailOf,
  deviation,
  hashOf,
  lowCoefficients,
  mean,
  orient,
  PLANE,
  textureOf,
} from './signature.ts';

const HASH_SIDE = 32;
const VERIFY_SIDE = 64;

/** Part of a picture: offsets and sizes as parts of its width and height, 0 to 1. */
export interface Window {
  x: number;
  y: number;
  w: number;
  h: number;
}
const WHOLE: Window = { x: 0, y: 0, w: 1, h: 1 };

/** What is known of a picture to be compared. */
export interface Picture {
  /** Luminance, PLANE x PLANE, 0 to 255, upright, its shape ignored. */
  plane: Uint8Array;
  /** Pixels, upright. */
  width: number;
  height: number;
  /** Mean colour differences R-Y and B-Y on 8 x 8 fields, 128 numbers; null: not known. */
  chroma: Int8Array | null;
}

/** A hash of part of a picture. */
export interface WindowHash {
  high: number;
  low: number;
  window: Window;
}

/** A picture made ready: sums over its plane, its windows and orientations as hashes. */
export class Prepared {
  readonly sums: Float64Array;
  readonly deviation: number;
  /** The whole in 8 orientations (bit 0 mirrors x, bit 1 mirrors y, bit 2 swaps them); of flat pictures only upright. */
  readonly oriented: readonly (readonly [number, number])[];

  constructor(readonly picture: Picture) {
    this.sums = sumsOf(picture.plane);
    const means = sampled(this.sums, WHOLE, HASH_SIDE);
    this.deviation = deviation(means);
    const low = lowCoefficients(means);
    this.oriented = Array.from({ length: this.isFlat ? 1 : 8 }, (_, orientation) => hashOf(low, orientation));
  }

  /** Hardly anything can be told from it: no windows, no turning. */
  get isFlat(): boolean {
    return this.deviation < 4;
  }

  /** The whole, and windows within that a crop may have left; of a flat picture only the whole, of a blank one nothing. */
  get windows(): readonly WindowHash[] {
    return (this.hashed ??= this.hashWindows());
  }
  private hashed: readonly WindowHash[] | undefined;

  private hashWindows(): WindowHash[] {
    if (this.deviation < 1) return [];
    return windowsOf(this.picture.width / this.picture.height, this.isFlat).map((window) => {
      const [high, low] = hashOf(lowCoefficients(sampled(this.sums, window, HASH_SIDE)), 0);
      return { high, low, window };
    });
  }
}

/** The windows of a picture of an aspect: the whole, nine tenths and so on at the centre and the corners, one side less, its square. */
function windowsOf(aspect: number, flat: boolean): readonly Window[] {
  const windows = [WHOLE];
  if (flat) return windows;
  for (const scale of [0.95, 0.9, 0.8]) {
    const rest = 1 - scale;
    for (const [x, y] of [
      [rest / 2, rest / 2],
      [0, 0],
      [rest, 0],
      [0, rest],
      [rest, rest],
    ] as const)
      windows.push({ x, y, w: scale, h: scale });
  }
  // One side cut off alone changes the shape, and with it every coefficient of its axis.
  for (const rest of [0.06, 0.12])
    windows.push(
      { x: 0, y: 0, w: 1 - rest, h: 1 },
      { x: rest, y: 0, w: 1 - rest, h: 1 },
      { x: 0, y: 0, w: 1, h: 1 - rest },
      { x: 0, y: rest, w: 1, h: 1 - rest },
    );
  if (Math.abs(Math.log(aspect)) > 0.02) {
    const w = Math.min(1, 1 / aspect);
    const h = Math.min(1, aspect);
    windows.push({ x: (1 - w) / 2, y: (1 - h) / 2, w, h });
  }
  return windows;
}

/** What a picture is found by: two words for each hash. */
export interface PictureHashes {
  /** Of its windows, in their order. */
  windows: Int32Array;
  /** Of the whole, as it would be turned. */
  oriented: Int32Array;
}

/** The hashes of a picture as they are kept; none of a blank one. */
export function hashesOf(picture: Prepared): PictureHashes {
  const windows = picture.windows.flatMap(({ high, low }) => [high, low]);
  return {
    windows: Int32Array.from(windows),
    oriented: Int32Array.from(windows.length > 0 ? picture.oriented.flat() : []),
  };
}

/** Which part of a picture a kept window is. */
export function windowAt(aspect: number, hashes: PictureHashes, at: number): Window {
  return windowsOf(aspect, hashes.oriented.length === 2)[at]!;
}

/** Sums of all pixels above and to the left, (PLANE + 1) squared. */
function sumsOf(plane: Uint8Array): Float64Array {
  const side = PLANE + 1;
  const sums = new Float64Array(side * side);
  for (let y = 0; y < PLANE; y++) {
    let row = 0;
    for (let x = 0; x < PLANE; x++) {
      row += plane[y * PLANE + x]!;
      sums[(y + 1) * side + x + 1] = sums[y * side + x + 1]! + row;
    }
  }
  return sums;
}

/** Area means of a window on side x side fields; borders between pixels are met by their parts. */
function sampled(sums: Float64Array, window: Window, side: number): Float64Array {
  const stride = PLANE + 1;
  const columns = new Int32Array(side + 1);
  const columnParts = new Float64Array(side + 1);
  const rows = new Int32Array(side + 1);
  const rowParts = new Float64Array(side + 1);
  for (let i = 0; i <= side; i++) {
    const x = Math.min(PLANE, Math.max(0, (window.x + (window.w * i) / side) * PLANE));
    const y = Math.min(PLANE, Math.max(0, (window.y + (window.h * i) / side) * PLANE));
    columns[i] = Math.min(PLANE - 1, Math.floor(x));
    columnParts[i] = x - columns[i]!;
    rows[i] = Math.min(PLANE - 1, Math.floor(y));
    rowParts[i] = y - rows[i]!;
  }
  /** The sum up to a point: between the four nearest, as the pixels are squares of one value. */
  const upTo = new Float64Array((side + 1) * (side + 1));
  for (let j = 0; j <= side; j++)
    for (let i = 0; i <= side; i++) {
      const at = rows[j]! * stride + columns[i]!;
      const [px, py] = [columnParts[i]!, rowParts[j]!];
      const top = sums[at]! + (sums[at + 1]! - sums[at]!) * px;
      const bottom = sums[at + stride]! + (sums[at + stride + 1]! - sums[at + stride]!) * px;
      upTo[j * (side + 1) + i] = top + (bottom - top) * py;
    }
  const area = ((window.w * PLANE) / side) * ((window.h * PLANE) / side);
  const means = new Float64Array(side * side);
  for (let j = 0; j < side; j++)
    for (let i = 0; i < side; i++)
      means[j * side + i] =
        (upTo[(j + 1) * (side + 1) + i + 1]! -
          upTo[j * (side + 1) + i + 1]! -
          upTo[(j + 1) * (side + 1) + i]! +
          upTo[j * (side + 1) + i]!) /
        area;
  return means;
}

/** Two pictures whose hashes are near: which window of the one, and how the other must be turned to fit. */
export interface Candidate {
  window: Window;
  orientation: number;
  bits: number;
}

/** The nearest window of `a` for the whole of `b`; undefined: none is near enough. */
export function candidate(a: readonly WindowHash[], b: Prepared): Candidate | undefined {
  let best: Candidate | undefined;
  for (const [orientation, [high, low]] of b.oriented.entries())
    for (const one of a) {
      const bits = bitsOf(one.high ^ high) + bitsOf(one.low ^ low);
      if (bits <= NEAR && bits < (best?.bits ?? NEAR + 1)) best = { window: one.window, orientation, bits };
    }
  return best;
}

export const RELATIONS = ['re-encoded', 'resized', 'cropped', 'edited', 'turned'] as const;
export type Relation = (typeof RELATIONS)[number];

/** How two pictures show the same. */
export interface Alike {
  relation: Relation;
  /** Part of the first picture (or, when exchanged, of the second) that the other shows. */
  window: Window;
  exchanged: boolean;
  orientation: number;
  /** How sure: from 0 (just accepted) to 1. */
  sure: number;
  /** Accepted by hardly any structure: it joins no others. */
  weak: boolean;
}

interface Aligned {
  window: Window;
  score: number;
  means: Float64Array;
}

/** Shifts and sizes a window of a picture until it fits best; undefined: it never will. */
function align(a: Prepared, start: Window, other: Float64Array): Aligned | undefined {
  const at = (window: Window): Aligned => {
    const means = sampled(a.sums, window, HASH_SIDE);
    return { window, means, score: correlation(means, other) };
  };
  const inner = 0.97;
  const rest = 1 - inner;
  let best = at(start);
  for (const [dx, dy] of [
    [rest / 2, rest / 2],
    [0, 0],
    [rest, 0],
    [0, rest],
    [rest, rest],
  ] as const) {
    const one = at({
      x: start.x + dx * start.w,
      y: start.y + dy * start.h,
      w: start.w * inner,
      h: start.h * inner,
    });
    if (one.score > best.score) best = one;
  }
  if (best.score < 0.6) return undefined;
  for (let step = 0.03; step >= 0.0018; step /= 2) {
    for (let moves = 0; moves < 6; moves++) {
      const { x, y, w, h } = best.window;
      let better: Aligned | undefined;
      for (const next of [
        { x: x - step, y, w, h },
        { x: x + step, y, w, h },
        { x, y: y - step, w, h },
        { x, y: y + step, w, h },
        { x, y, w: w - step, h },
        { x, y, w: w + step, h },
        { x, y, w, h: h - step },
        { x, y, w, h: h + step },
        { x: x + step / 2, y: y + step / 2, w: w - step, h: h - step },
        { x: x - step / 2, y: y - step / 2, w: w + step, h: h + step },
      ]) {
        if (next.x < 0 || next.y < 0 || next.w < 0.3 || next.h < 0.3) continue;
        if (next.x + next.w > 1 || next.y + next.h > 1) continue;
        const one = at(next);
        if (one.score > (better ?? best).score) better = one;
      }
      if (!better) break;
      best = better;
    }
  }
  return best;
}

/** Of a transposed orientation, the way back exchanges its two mirrors. */
const inverse = (orientation: number) =>
  orientation & 4 ? 4 | ((orientation & 1) << 1) | ((orientation & 2) >> 1) : orientation;

/**
 * Verifies a candidate. Undefined: they show something else. Shape, correlation of the whole, of the details and of the
 * textured blocks one by one must all agree; pictures with hardly any structure only when they are the same but for size.
 */
export function verify(
  a: Prepared,
  b: Prepared,
  { window, orientation, bits }: Candidate,
): Alike | undefined {
  const tries: { one: Prepared; other: Prepared; turn: number; aligned: Aligned; exchanged: boolean }[] = [];
  const attempt = (one: Prepared, other: Prepared, start: Window, turn: number, exchanged: boolean) => {
    const aligned = align(one, start, orient(sampled(other.sums, WHOLE, HASH_SIDE), HASH_SIDE, turn));
    if (aligned) tries.push({ one, other, turn, aligned, exchanged });
  };
  attempt(a, b, window, orientation, false);
  // The hash cannot tell which of two is the crop when it is a small one.
  if (window.w >= 0.95 || window.h >= 0.95) attempt(b, a, WHOLE, inverse(orientation), true);
  let found: Alike | undefined;
  for (const one of tries) {
    const alike = judged(one.one, one.other, one.aligned.window, one.turn, bits);
    if (alike && (!found || alike.sure > found.sure)) found = { ...alike, exchanged: one.exchanged };
  }
  return found;
}

function judged(
  a: Prepared,
  b: Prepared,
  window: Window,
  orientation: number,
  bits: number,
): Omit<Alike, 'exchanged'> | undefined {
  const shape = (window.w * a.picture.width) / (window.h * a.picture.height);
  const other = orientation & 4 ? b.picture.height / b.picture.width : b.picture.width / b.picture.height;
  if (Math.abs(Math.log(shape / other)) > 0.12) return undefined;
  const p = sampled(a.sums, window, VERIFY_SIDE);
  const q = orient(sampled(b.sums, WHOLE, VERIFY_SIDE), VERIFY_SIDE, orientation);
  const whole = correlation(p, q);
  const [pd, qd] = [detailOf(p), detailOf(q)];
  const detail = correlation(pd, qd);
  const { textured, agreeing } = textureOf(pd, qd);
  // There are many ways to crop and turn: more is asked of what fits by one of them.
  const strict = orientation !== 0 || Math.min(window.w, window.h) < 0.93;
  const weak = textured < 0.08;
  if (weak) {
    const plain = orientation === 0 && window.w > 0.98 && window.h > 0.98 && bits <= 4;
    if (!plain || deviation(p) <= 4 || whole < 0.99 || !sameColours(a.picture.chroma, b.picture.chroma))
      return undefined;
  } else if (
    whole < 0.88 ||
    detail < 0.72 ||
    agreeing < (strict ? 0.8 : 0.6) ||
    !sameMiddle(pd, qd, strict ? 0.75 : 0.6)
  )
    return undefined;
  const over = (value: number, least: number) => Math.max(0, (value - least) / (1 - least));
  return {
    relation: relationOf(a, b, window, orientation, p, q),
    window,
    orientation,
    sure: weak ? over(whole, 0.99) : Math.min(over(whole, 0.88), over(detail, 0.72), over(agreeing, 0.6)),
    weak,
  };
}

/** Prints in one frame, pages of one form: all that is strong in them agrees, and what they are about does not. So the middle must agree, too. */
function sameMiddle(p: Float64Array, q: Float64Array, least: number): boolean {
  const [side, from] = [VERIFY_SIDE / 2, VERIFY_SIDE / 4];
  const middle = (plane: Float64Array) =>
    Float64Array.from(
      { length: side * side },
      (_, i) => plane[(from + Math.floor(i / side)) * VERIFY_SIDE + from + (i % side)]!,
    );
  const [a, b] = [middle(p), middle(q)];
  // Hardly anything there in either: nothing to be compared.
  return (deviation(a) <= 3 && deviation(b) <= 3) || correlation(a, b) >= least;
}

function energy(chroma: Int8Array): number {
  let sum = 0;
  for (const value of chroma) sum += value * value;
  return Math.sqrt(sum / chroma.length);
}

function sameColours(a: Int8Array | null, b: Int8Array | null): boolean {
  if (!a || !b) return false;
  const [one, other] = [energy(a), energy(b)];
  if (Math.abs(one - other) > 6) return false;
  return (one < 3 && other < 3) || correlation(Float64Array.from(a), Float64Array.from(b)) > 0.9;
}

/** The first that fits, from what changes a picture most to what changes it least. */
function relationOf(
  a: Prepared,
  b: Prepared,
  window: Window,
  orientation: number,
  p: Float64Array,
  q: Float64Array,
): Relation {
  if (orientation !== 0) return 'turned';
  if (window.w < 0.985 || window.h < 0.985) return rimIsFlat(a, window) ? 'edited' : 'cropped';
  const [pm, qm] = [mean(p), mean(q)];
  let [pq, pp] = [0, 0];
  for (let i = 0; i < p.length; i++) {
    pq += (p[i]! - pm) * (q[i]! - qm);
    pp += (p[i]! - pm) ** 2;
  }
  const gain = pp < 1e-9 ? 1 : pq / pp;
  const offset = qm - gain * pm;
  const left = p.map((value, i) => q[i]! - gain * value - offset);
  let good = 0;
  for (let by = 0; by < VERIFY_SIDE; by += 8)
    for (let bx = 0; bx < VERIFY_SIDE; bx += 8) {
      let sum = 0;
      for (let i = 0; i < 64; i++) sum += left[(by + (i >> 3)) * VERIFY_SIDE + bx + (i & 7)]! ** 2;
      if (Math.sqrt(sum / 64) < 14) good++;
    }
  const [ca, cb] = [a.picture.chroma, b.picture.chroma];
  const recoloured =
    ca && cb && energy(ca) + energy(cb) > 6 && Math.abs(Math.log((energy(ca) + 1) / (energy(cb) + 1))) > 0.22;
  if (gain < 0.93 || gain > 1.07 || Math.abs(offset + (gain - 1) * pm) > 6 || recoloured || good / 64 < 0.95)
    return 'edited';
  const sameSize = a.picture.width === b.picture.width && a.picture.height === b.picture.height;
  return sameSize ? 're-encoded' : 'resized';
}

/** A border: what lies outside the window has one brightness. */
function rimIsFlat(a: Prepared, { x, y, w, h }: Window): boolean {
  const values: number[] = [];
  const { plane } = a.picture;
  for (let row = 0; row < PLANE; row++)
    for (let column = 0; column < PLANE; column++) {
      const [cx, cy] = [(column + 0.5) / PLANE, (row + 0.5) / PLANE];
      const inside = cx > x - 0.01 && cx < x + w + 0.01 && cy > y - 0.01 && cy < y + h + 0.01;
      if (!inside) values.push(plane[row * PLANE + column]!);
    }
  return values.length > 30 && deviation(Float64Array.from(values)) < 3;
}
