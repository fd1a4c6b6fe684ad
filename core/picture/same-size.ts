import { PLANE } from './signature.ts';

/** How a whole image looks, small. */
export interface SmallLook {
  /** Luminance of PLANE x PLANE pixels, 0 to 255. */
  plane: Uint8Array;
  /** Mean colour differences R-Y and B-Y on 8 x 8 fields, -128 to 127. */
  chroma: Int8Array;
}

/** Fields on each side that two images are compared on: what sizing blurs is left out. */
const SIDE = 16;
/** Grey levels by which two may differ on the mean of all fields, and on any one. */
const MEAN = 6;
const ONE = 40;

/**
 * Whether two images of one shape are the same image in two sizes: nothing is moved, cropped or drawn over. Sizing and encoding
 * change a field by a few levels at most; another image differs by tens.
 */
export function showsTheSame(one: SmallLook, other: SmallLook): boolean {
  const [a, b] = [fields(one.plane), fields(other.plane)];
  let sum = 0;
  for (let i = 0; i < a.length; i++) {
    const difference = Math.abs(a[i]! - b[i]!);
    if (difference > ONE) return false;
    sum += difference;
  }
  if (sum / a.length > MEAN) return false;
  let colours = 0;
  for (let i = 0; i < one.chroma.length; i++) colours += Math.abs(one.chroma[i]! - other.chroma[i]!);
  return colours / one.chroma.length <= MEAN;
}

function fields(plane: Uint8Array): Float64Array {
  const step = PLANE / SIDE;
  const means = new Float64Array(SIDE * SIDE);
  for (let y = 0; y < PLANE; y++)
    for (let x = 0; x < PLANE; x++)
      means[Math.floor(y / step) * SIDE + Math.floor(x / step)]! += plane[y * PLANE + x]! / (step * step);
  return means;
}
