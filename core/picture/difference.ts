import { mean, orient } from './signature.ts';
import type { Window } from './windows.ts';

/** Two images are laid over each other on so many points a side. */
export const OVERLAY = 256;
const CELL = 4;
const CELLS = OVERLAY / CELL;
/** Levels, 0 to 255, by which a point must differ to be seen; lossy formats differ by less. */
const SEEN = 20;
/** More places than that are not marked one by one. */
export const MOST_MARKS = 40;

/** Hardly anything is missing of it. */
export const isWhole = ({ w, h }: Window) => w > 0.985 && h > 0.985;

/** Where two images that show the same differ, when one is laid over the other. */
export interface Difference {
  /** Part of the first that the other shows; undefined: the whole of it. */
  window?: Window;
  /** Part of what both show that differs, 0 to 1. */
  share: number;
  /** By how many levels the other is lighter in all, -255 to 255. */
  lighter: number;
  /** Places that differ, the largest first: where they are in each image, as parts of it. At most MOST_MARKS. */
  marks: { one: Window; other: Window }[];
}

/** The same of two images of which either may be the part. */
export interface Differing extends Difference {
  /** The window is of the second: the first shows a part of it. */
  exchanged: boolean;
  /** How the part must be turned to fit. */
  orientation: number;
}

/**
 * Lays two images over each other.
 * @param one OVERLAY x OVERLAY x 3 levels of the part of the first that the other shows
 * @param other the same of the whole of the other, as it is
 * @param window that part of the first
 * @param orientation how the other must be turned to fit (bit 0 mirrors x, bit 1 mirrors y, bit 2 swaps them)
 */
export function differenceOf(
  one: Uint8Array,
  other: Uint8Array,
  window: Window,
  orientation: number,
): Difference {
  const [a, b] = [planesOf(one), planesOf(other).map((plane) => orient(plane, OVERLAY, orientation))];
  const light = (planes: Float64Array[]) => planes.reduce((sum, plane) => sum + mean(plane), 0) / 3;
  // A part is laid over less exactly than a whole.
  const reach = isWhole(window) && orientation === 0 ? 1 : 2;
  // What was painted over must not sway how the rest is fitted: the second time it is left out.
  let differing = pointsApart(
    a.map((plane, at) => fittedTo(plane, b[at]!)),
    b,
    reach,
  );
  if (mean(Float64Array.from(differing)) < 0.7)
    differing = pointsApart(
      a.map((plane, at) => fittedTo(plane, b[at]!, differing)),
      b,
      reach,
    );
  const cells = new Uint8Array(CELLS * CELLS);
  for (let y = 0; y < OVERLAY; y++)
    for (let x = 0; x < OVERLAY; x++)
      cells[Math.floor(y / CELL) * CELLS + Math.floor(x / CELL)]! += differing[y * OVERLAY + x]!;
  // A cell differs when a quarter of its points do: single ones are noise.
  const differs = cells.map((points) => (points * 4 >= CELL * CELL ? 1 : 0));
  const share = mean(Float64Array.from(differs));
  const marks = placesOf(differs)
    .sort((p, q) => q.w * q.h - p.w * p.h)
    .slice(0, MOST_MARKS)
    .map((place) => ({
      one: {
        x: window.x + place.x * window.w,
        y: window.y + place.y * window.h,
        w: place.w * window.w,
        h: place.h * window.h,
      },
      other: turnedBack(place, orientation),
    }));
  return { ...(isWhole(window) ? {} : { window }), share, lighter: Math.round(light(b) - light(a)), marks };
}

function planesOf(rgb: Uint8Array): Float64Array[] {
  return [0, 1, 2].map((channel) =>
    Float64Array.from({ length: OVERLAY * OVERLAY }, (_, i) => rgb[3 * i + channel]!),
  );
}

/** The first in the light of the other, by the points that are not left out: other light and contrast are told in words and are no places. */
function fittedTo(plane: Float64Array, other: Float64Array, leftOut?: Uint8Array): Float64Array {
  let [count, pm, qm] = [0, 0, 0];
  for (let i = 0; i < plane.length; i++) {
    if (leftOut?.[i]) continue;
    count++;
    pm += plane[i]!;
    qm += other[i]!;
  }
  pm /= Math.max(1, count);
  qm /= Math.max(1, count);
  let [pq, pp] = [0, 0];
  for (let i = 0; i < plane.length; i++) {
    if (leftOut?.[i]) continue;
    const p = plane[i]! - pm;
    pq += p * (other[i]! - qm);
    pp += p * p;
  }
  const gain = pp < 1e-9 ? 1 : Math.max(0.5, Math.min(2, pq / pp));
  return plane.map((value) => Math.max(0, Math.min(255, qm + gain * (value - pm))));
}

/** By point: 1 where the two are apart. */
function pointsApart(a: Float64Array[], b: Float64Array[], reach: number): Uint8Array {
  return Uint8Array.from({ length: OVERLAY * OVERLAY }, (_, at) =>
    isApart(a, b, at % OVERLAY, Math.floor(at / OVERLAY), reach) ? 1 : 0,
  );
}

/** True when a point differs from it and all points within reach: edges may lie a point or two apart. */
function isApart(a: Float64Array[], b: Float64Array[], x: number, y: number, reach: number): boolean {
  const at = y * OVERLAY + x;
  const near = (to: number) => {
    let sum = 0;
    for (let channel = 0; channel < 3; channel++) sum += Math.abs(a[channel]![at]! - b[channel]![to]!);
    return sum <= 3 * SEEN;
  };
  if (near(at)) return false;
  for (let sy = Math.max(0, y - reach); sy <= Math.min(OVERLAY - 1, y + reach); sy++)
    for (let sx = Math.max(0, x - reach); sx <= Math.min(OVERLAY - 1, x + reach); sx++)
      if (near(sy * OVERLAY + sx)) return false;
  return true;
}

/** Cells that hang together, as rectangles around them; one or two alone are passed over. */
function placesOf(differs: Uint8Array): Window[] {
  const seen = new Uint8Array(differs.length);
  const places: Window[] = [];
  for (let start = 0; start < differs.length; start++) {
    if (!differs[start] || seen[start]) continue;
    seen[start] = 1;
    const queue = [start];
    let [x0, y0, x1, y1] = [CELLS, CELLS, 0, 0];
    let count = 0;
    for (let at = queue.pop(); at !== undefined; at = queue.pop()) {
      const [x, y] = [at % CELLS, Math.floor(at / CELLS)];
      [x0, y0, x1, y1] = [Math.min(x0, x), Math.min(y0, y), Math.max(x1, x), Math.max(y1, y)];
      count++;
      for (let dy = -1; dy <= 1; dy++)
        for (let dx = -1; dx <= 1; dx++) {
          const [nx, ny] = [x + dx, y + dy];
          const next = ny * CELLS + nx;
          if (nx < 0 || ny < 0 || nx >= CELLS || ny >= CELLS || !differs[next] || seen[next]) continue;
          seen[next] = 1;
          queue.push(next);
        }
    }
    if (count > 2)
      places.push({ x: x0 / CELLS, y: y0 / CELLS, w: (x1 + 1 - x0) / CELLS, h: (y1 + 1 - y0) / CELLS });
  }
  return places;
}

/** Where a place of the turned image is in the image as it is. */
function turnedBack({ x, y, w, h }: Window, orientation: number): Window {
  const mx = orientation & 1 ? 1 - x - w : x;
  const my = orientation & 2 ? 1 - y - h : y;
  return orientation & 4 ? { x: my, y: mx, w: h, h: w } : { x: mx, y: my, w, h };
}
