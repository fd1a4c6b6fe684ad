/**
 * Compares images by what they show, whatever their size, format, crop, border, mirroring or turning: windows of one whose
 * hash is near the whole of the other are aligned and verified. Correlation after J. P. Lewis, "Fast Normalized
 * Cross-Correlation" (1995).
 */
import { correlation, detailOf, deviation, mean, orient, PLANE, textureOf } from './signature.ts';
import {
  agreementAt,
  DETAIL_REACH,
  HASH_SIDE,
  sampled,
  WHOLE,
  type Prepared,
  type Window,
} from './windows.ts';

const VERIFY_SIDE = 64;

/** Two images whose hashes are near. */
export interface Candidate {
  /** Which of the windows of the one. */
  window: number;
  /** How the other must be turned to fit. */
  orientation: number;
  bits: number;
  /** The same window of both is near: what lies outside it may have been covered. */
  part?: boolean;
}

export const RELATIONS = ['re-encoded', 'resized', 'cropped', 'edited', 'turned'] as const;
export type Relation = (typeof RELATIONS)[number];

/** How two images show the same. */
export interface Alike {
  relation: Relation;
  /** Part of the first image (or, when exchanged, of the second) that the other shows. */
  window: Window;
  exchanged: boolean;
  orientation: number;
  /** How sure: from 0 (just accepted) to 1. */
  sure: number;
  /** Accepted by hardly any structure: it joins no others. */
  weak: boolean;
}

/** How much the shape of a window may differ from that of the image which it shall show, as a natural logarithm. */
const SHAPE = 0.12;

/** Beside a window itself, some within it, and some of the shape that is wanted, from which the best fit is looked for. */
function startsOf(window: Window, shape: number): Window[] {
  const { x, y, w, h } = window;
  const inner = 0.97;
  const rest = 1 - inner;
  const within = (dx: number, dy: number, pw: number, ph: number): Window => ({
    x: x + dx * w,
    y: y + dy * h,
    w: w * pw,
    h: h * ph,
  });
  const starts: Window[] = [];
  for (const [dx, dy] of [
    [rest / 2, rest / 2],
    [0, 0],
    [rest, 0],
    [0, rest],
    [rest, rest],
  ] as const)
    starts.push(within(dx, dy, inner, inner));
  // Of the right shape: what is too wide or too high in it, or in the whole, lies at either end or at both.
  for (const part of [0, 0.5, 1]) {
    const off = w / h / shape;
    starts.push(off > 1 ? within(part * (1 - 1 / off), 0, 1 / off, 1) : within(0, part * (1 - off), 1, off));
    const [fw, fh] = [Math.min(1, shape), Math.min(1, 1 / shape)];
    starts.push({ x: part * (1 - fw), y: part * (1 - fh), w: fw, h: fh });
  }
  return starts;
}

/** How a window is moved and sized, in steps: x, y, width, height. */
const MOVES = [
  [-1, 0, 0, 0],
  [1, 0, 0, 0],
  [0, -1, 0, 0],
  [0, 1, 0, 0],
  [0, 0, -1, 0],
  [0, 0, 1, 0],
  [0, 0, 0, -1],
  [0, 0, 0, 1],
  [0.5, 0.5, -1, -1],
  [-0.5, -0.5, 1, 1],
] as const;

/**
 * Shifts and sizes a window of an image until another, turned, fits best; undefined: it never will.
 * @param hasty gives up on what is not likely to be accepted in the end
 */
function fitted(
  one: Prepared,
  other: Prepared,
  start: Window,
  turn: number,
  hasty = true,
): { window: Window; score: number } | undefined {
  const shape = shapeOf(other, turn) / (one.picture.width / one.picture.height);
  if (Math.abs(Math.log(start.w / start.h / shape)) > 3 * SHAPE) return undefined;
  // Far off, coarse fields tell as well which way to go.
  const { coarse, fine } = other.turned(turn);
  const at = (window: Window, wanted = fine) => ({
    window,
    score: agreementAt(one.sums, window, wanted, wanted === fine ? HASH_SIDE : HASH_SIDE / 2),
  });
  let best = at(start, coarse);
  // The hashes tell that it nearly fits: what does not at all was near by chance.
  if (hasty && best.score < 0.5) return undefined;
  if (Math.abs(Math.log(start.w / start.h / shape)) > SHAPE) best = { window: start, score: -Infinity };
  for (const window of startsOf(start, shape)) {
    if (Math.abs(Math.log(window.w / window.h / shape)) > SHAPE) continue;
    const next = at(window, coarse);
    if (next.score > best.score) best = next;
  }
  if (best.score < (hasty ? 0.68 : -1)) return undefined;
  const detail = () =>
    correlation(
      detailOf(sampled(one.sums, best.window, HASH_SIDE), HASH_SIDE, DETAIL_REACH),
      other.turned(turn).details,
    );
  if (hasty && detail() < 0.1) return undefined;
  // What fits nearly already is moved by little.
  for (let step = at(best.window).score > 0.985 ? 0.0075 : 0.03; step >= 0.0018; step /= 2) {
    const wanted = step > 0.01 ? coarse : fine;
    best = at(best.window, wanted);
    for (let moved = true, rounds = 0; moved && rounds < 6; rounds++) {
      moved = false;
      for (const [dx, dy, dw, dh] of MOVES) {
        const { x, y, w, h }: Window = best.window;
        const next = { x: x + dx * step, y: y + dy * step, w: w + dw * step, h: h + dh * step };
        if (next.x < 0 || next.y < 0 || next.w < 0.3 || next.h < 0.3) continue;
        if (next.x + next.w > 1 || next.y + next.h > 1) continue;
        if (Math.abs(Math.log(next.w / next.h / shape)) > SHAPE) continue;
        const tried = at(next, wanted);
        if (tried.score <= best.score) continue;
        best = tried;
        moved = true;
      }
    }
    // Far from what is asked of it in the end; of true pairs hardly one in a hundred is, of others four in five.
    if (hasty && step > 0.02 && (best.score < 0.84 || detail() < 0.5)) return undefined;
  }
  return best;
}

/** Width by height of an image that is turned. */
const shapeOf = ({ picture: { width, height } }: Prepared, orientation: number) =>
  orientation & 4 ? height / width : width / height;

/** Of a transposed orientation, the way back exchanges its two mirrors. */
const inverse = (orientation: number) =>
  orientation & 4 ? 4 | ((orientation & 1) << 1) | ((orientation & 2) >> 1) : orientation;

/**
 * Verifies a candidate. Undefined: they show something else. Shape, correlation of the whole, of the details and of the
 * textured blocks one by one must all agree; images with hardly any structure only when they are the same but for size.
 */
export function verify(
  a: Prepared,
  b: Prepared,
  { window: at, orientation, bits, part }: Candidate,
): Alike | undefined {
  const window = a.windows[at]!;
  if (part) return samePart(a, b, window);
  const attempt = (one: Prepared, other: Prepared, start: Window, turn: number, exchanged: boolean) => {
    const fits = fitted(one, other, start, turn);
    const alike = fits && judged(one, other, fits.window, turn, bits);
    return alike && { ...alike, exchanged };
  };
  const found = attempt(a, b, window, orientation, false);
  // The hash cannot tell which of two is the crop when it is a small one.
  if ((found && found.sure > 0.5) || (window.w < 0.95 && window.h < 0.95)) return found;
  const exchanged = attempt(b, a, WHOLE, inverse(orientation), true);
  return found && exchanged ? (found.sure >= exchanged.sure ? found : exchanged) : (found ?? exchanged);
}

/** Two images of one shape that agree in a large part, at the same place; what lies outside it has been changed. */
function samePart(a: Prepared, b: Prepared, window: Window): Alike | undefined {
  if (Math.abs(Math.log(shapeOf(a, 0) / shapeOf(b, 0))) > SHAPE / 3) return undefined;
  const [p, q] = [sampled(a.sums, window, VERIFY_SIDE), sampled(b.sums, window, VERIFY_SIDE)];
  const { whole, detail, textured, agreeing, middle } = agreement(p, q);
  if (textured < 0.08 || whole < 0.95 || detail < 0.9 || agreeing < 0.85 || !middle(0.92)) return undefined;
  return {
    relation: 'edited',
    window: WHOLE,
    exchanged: false,
    orientation: 0,
    weak: false,
    sure: sureness(whole, detail, agreeing),
  };
}

/** How one image lies on another. */
export interface Fit {
  window: Window;
  exchanged: boolean;
  orientation: number;
  /** How well, as a correlation. */
  score: number;
}

/** Lays a candidate over, also when too much has been changed to say by itself that they are alike. Undefined: nothing fits. */
export function laidOver(
  a: Prepared,
  b: Prepared,
  { window, orientation, part }: Candidate,
): Fit | undefined {
  if (part) {
    const score = correlation(a.whole(HASH_SIDE), b.whole(HASH_SIDE));
    return { window: WHOLE, exchanged: false, orientation: 0, score };
  }
  const attempt = (one: Prepared, other: Prepared, start: Window, turn: number, exchanged: boolean) => {
    const fits = fitted(one, other, start, turn, false);
    return fits && { ...fits, exchanged, orientation: turn };
  };
  const [first, second] = [
    attempt(a, b, a.windows[window]!, orientation, false),
    attempt(b, a, WHOLE, inverse(orientation), true),
  ];
  return first && second && second.score > first.score ? second : (first ?? second);
}

function judged(
  a: Prepared,
  b: Prepared,
  window: Window,
  orientation: number,
  bits: number,
): Omit<Alike, 'exchanged'> | undefined {
  const p = sampled(a.sums, window, VERIFY_SIDE);
  const q = orient(b.whole(VERIFY_SIDE), VERIFY_SIDE, orientation);
  const { whole, detail, textured, agreeing, middle } = agreement(p, q);
  const turned = orientation !== 0;
  const cropped = Math.min(window.w, window.h) < 0.93;
  // A few stars on black are structure enough when all of them agree.
  const weak = textured < 0.05 || (textured < 0.08 && Math.min(whole, detail, agreeing) < 0.9);
  if (weak) {
    const plain = orientation === 0 && window.w > 0.98 && window.h > 0.98 && bits <= 4;
    if (!plain || deviation(p) <= 4 || whole < 0.99 || !sameColours(a.picture.chroma, b.picture.chroma))
      return undefined;
  } else {
    // There are many ways to crop and to turn: more is asked of what fits by one of them.
    const doubtful = (turned || cropped) && (whole < 0.95 || detail < 0.85);
    if (whole < 0.88 || detail < (turned ? 0.85 : 0.72)) return undefined;
    if (agreeing < (doubtful ? 0.8 : 0.6)) return undefined;
    if (!middle(turned ? 0.9 : cropped ? 0.8 : 0.75)) return undefined;
  }
  return {
    relation: relationOf(a, b, window, orientation, p, q),
    window,
    orientation,
    sure: weak ? over(whole, 0.99) : sureness(whole, detail, agreeing),
    weak,
  };
}

/** How well two images agree, VERIFY_SIDE squared each. */
function agreement(p: Float64Array, q: Float64Array) {
  const [pd, qd] = [detailOf(p, VERIFY_SIDE, 3), detailOf(q, VERIFY_SIDE, 3)];
  return {
    whole: correlation(p, q),
    detail: correlation(pd, qd),
    ...textureOf(pd, qd),
    middle: (least: number) => sameMiddle(pd, qd, least),
  };
}

const over = (value: number, least: number) => Math.max(0, (value - least) / (1 - least));
/** 0: just accepted; 1: nothing differs. */
const sureness = (whole: number, detail: number, agreeing: number) =>
  Math.min(over(whole, 0.88), over(detail, 0.72), over(agreeing, 0.6));

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

/** The first that fits, from what changes an image most to what changes it least. */
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
