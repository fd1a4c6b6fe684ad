/**
 * Signatures of pictures, for finding look-alikes: a 64-bit DCT hash of the full frame picks candidates, the luminance
 * plane verifies them. After C. Zauner, "Implementation and Benchmarking of Perceptual Image Hash Functions" (2010), and
 * J. P. Lewis, "Fast Normalized Cross-Correlation" (1995).
 */

/** Side of the luminance plane, in pixels. */
export const PLANE = 128;
/** Side that hashes are computed on, and the one that pairs are verified on. */
const HASH_SIDE = 32;
const VERIFY_SIDE = 64;
/** Bits by which two hashes may differ to be worth verifying. */
const CANDIDATE_BITS = 8;

export interface Signature {
  /** Luminance, PLANE x PLANE, row by row, 0 to 255: the upright picture with its shape ignored. */
  plane: Uint8Array;
  /** The 64-bit hash of the upright picture, as two words of 32 bits. */
  hash: readonly [number, number];
}

/** Luminance (ITU-R BT.601) of an RGB picture of PLANE x PLANE pixels, 3 bytes each. */
export function planeOf(rgb: Uint8Array): Uint8Array {
  const plane = new Uint8Array(PLANE * PLANE);
  for (let i = 0; i < plane.length; i++)
    plane[i] = Math.round(0.299 * rgb[3 * i]! + 0.587 * rgb[3 * i + 1]! + 0.114 * rgb[3 * i + 2]!);
  return plane;
}

export function signatureOf(plane: Uint8Array): Signature {
  return { plane, hash: hashOf(lowCoefficients(shrink(plane, HASH_SIDE)), 0) };
}

/** The hashes of the picture in its 8 orientations: bit 0 mirrors x, bit 1 mirrors y, bit 2 swaps x and y. */
export function orientedHashes(plane: Uint8Array): (readonly [number, number])[] {
  const low = lowCoefficients(shrink(plane, HASH_SIDE));
  return Array.from({ length: 8 }, (_, orientation) => hashOf(low, orientation));
}

/** Fields of the colour grid, on each side. */
const CHROMA_SIDE = 8;

/** Mean colour differences R-Y and B-Y on 8 x 8 fields of an RGB picture of PLANE x PLANE pixels, -128 to 127: 128 numbers. */
export function chromaOf(rgb: Uint8Array): Int8Array {
  const fields = CHROMA_SIDE * CHROMA_SIDE;
  const sums = new Float64Array(2 * fields);
  const step = PLANE / CHROMA_SIDE;
  for (let i = 0; i < PLANE * PLANE; i++) {
    const luminance = 0.299 * rgb[3 * i]! + 0.587 * rgb[3 * i + 1]! + 0.114 * rgb[3 * i + 2]!;
    const field = Math.floor(Math.floor(i / PLANE) / step) * CHROMA_SIDE + Math.floor((i % PLANE) / step);
    sums[field]! += rgb[3 * i]! - luminance;
    sums[fields + field]! += rgb[3 * i + 2]! - luminance;
  }
  return Int8Array.from(sums, (sum) => Math.max(-128, Math.min(127, Math.round(sum / (step * step)))));
}

/** How many bits differ: 0 to 64. */
export function distance(a: readonly [number, number], b: readonly [number, number]): number {
  return bits(a[0] ^ b[0]) + bits(a[1] ^ b[1]);
}

function bits(word: number): number {
  let v = word - ((word >>> 1) & 0x55555555);
  v = (v & 0x33333333) + ((v >>> 2) & 0x33333333);
  return Math.imul((v + (v >>> 4)) & 0x0f0f0f0f, 0x01010101) >>> 24;
}

/** Area means of a square plane on a smaller one whose side divides it. */
function shrink(plane: Uint8Array, side: number): Float64Array {
  const step = PLANE / side;
  const small = new Float64Array(side * side);
  for (let y = 0; y < PLANE; y++) {
    const row = Math.floor(y / step) * side;
    for (let x = 0; x < PLANE; x++) small[row + Math.floor(x / step)]! += plane[y * PLANE + x]!;
  }
  return small.map((sum) => sum / (step * step));
}

const COSINES = Float64Array.from({ length: 8 * HASH_SIDE }, (_, i) =>
  Math.cos((Math.PI / HASH_SIDE) * ((i % HASH_SIDE) + 0.5) * Math.floor(i / HASH_SIDE)),
);

/** The 8 x 8 lowest coefficients of the two-dimensional DCT-II, [v * 8 + u]. */
export function lowCoefficients(means: Float64Array): Float64Array {
  const rows = new Float64Array(HASH_SIDE * 8);
  for (let y = 0; y < HASH_SIDE; y++)
    for (let u = 0; u < 8; u++) {
      let sum = 0;
      for (let x = 0; x < HASH_SIDE; x++) sum += means[y * HASH_SIDE + x]! * COSINES[u * HASH_SIDE + x]!;
      rows[y * 8 + u] = sum;
    }
  const low = new Float64Array(64);
  for (let v = 0; v < 8; v++)
    for (let u = 0; u < 8; u++) {
      let sum = 0;
      for (let y = 0; y < HASH_SIDE; y++) sum += rows[y * 8 + u]! * COSINES[v * HASH_SIDE + y]!;
      low[v * 8 + u] = sum;
    }
  return low;
}

/** A mirror turns the signs of the odd coefficients of its axis; a transpose swaps the axes. */
export function hashOf(low: Float64Array, orientation: number): readonly [number, number] {
  const values = new Float64Array(64);
  for (let v = 0; v < 8; v++)
    for (let u = 0; u < 8; u++) {
      let value = orientation & 4 ? low[u * 8 + v]! : low[v * 8 + u]!;
      if (orientation & 1 && u % 2 === 1) value = -value;
      if (orientation & 2 && v % 2 === 1) value = -value;
      values[v * 8 + u] = value;
    }
  const median = values.slice(1).sort()[31]!;
  const words: [number, number] = [0, 0];
  for (let i = 1; i < 64; i++) if (values[i]! > median) words[i >> 5]! |= 1 << (i & 31);
  return words;
}

/** How two pictures are alike. `turned`: one is mirrored or turned against the other. */
export interface Likeness {
  distance: number;
  turned: boolean;
  /** Correlation of the pictures and of their details, each from -1 to 1. */
  whole: number;
  detail: number;
}

/**
 * Compares a picture, by its plane and its hashes in 8 orientations, with another. Undefined: they are not alike.
 * The hash alone would take flat pictures for one another, so details must correlate too, block by block.
 */
export function likeness(
  a: { plane: Uint8Array; oriented: readonly (readonly [number, number])[] },
  b: { hash: readonly [number, number]; plane: () => Uint8Array },
): Likeness | undefined {
  let best = CANDIDATE_BITS + 1;
  let orientation = 0;
  for (const [index, hash] of a.oriented.entries()) {
    const bitsApart = distance(hash, b.hash);
    if (bitsApart < best) [best, orientation] = [bitsApart, index];
  }
  if (best > CANDIDATE_BITS) return undefined;
  const p = orient(shrink(a.plane, VERIFY_SIDE), VERIFY_SIDE, orientation);
  const q = shrink(b.plane(), VERIFY_SIDE);
  const whole = correlation(p, q);
  const [pd, qd] = [detailOf(p), detailOf(q)];
  const detail = correlation(pd, qd);
  const { textured, agreeing } = textureOf(pd, qd);
  const found = { distance: best, turned: orientation !== 0, whole, detail };
  if (textured >= 0.08) return whole >= 0.88 && detail >= 0.72 && agreeing >= 0.6 ? found : undefined;
  return orientation === 0 && best <= 4 && deviation(p) > 4 && whole >= 0.99 ? found : undefined;
}

export function orient(plane: Float64Array, side: number, orientation: number): Float64Array {
  if (orientation === 0) return plane;
  const turned = new Float64Array(plane.length);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const sx = orientation & 1 ? side - 1 - x : x;
      const sy = orientation & 2 ? side - 1 - y : y;
      turned[y * side + x] = orientation & 4 ? plane[sx * side + sy]! : plane[sy * side + sx]!;
    }
  return turned;
}

export function mean(values: Float64Array): number {
  let sum = 0;
  for (const value of values) sum += value;
  return sum / values.length;
}

export function deviation(values: Float64Array): number {
  const centre = mean(values);
  let sum = 0;
  for (const value of values) sum += (value - centre) ** 2;
  return Math.sqrt(sum / values.length);
}

/** Normalised cross-correlation, -1 to 1; 0 when one of the two is constant. */
export function correlation(p: Float64Array, q: Float64Array): number {
  const [pm, qm] = [mean(p), mean(q)];
  let [pq, pp, qq] = [0, 0, 0];
  for (let i = 0; i < p.length; i++) {
    const [a, b] = [p[i]! - pm, q[i]! - qm];
    pq += a * b;
    pp += a * a;
    qq += b * b;
  }
  return pp < 1e-9 || qq < 1e-9 ? 0 : pq / Math.sqrt(pp * qq);
}

/** Each pixel less the mean of the 7 x 7 box around it. */
export function detailOf(plane: Float64Array): Float64Array {
  const side = VERIFY_SIDE;
  const sums = new Float64Array((side + 1) * (side + 1));
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++)
      sums[(y + 1) * (side + 1) + x + 1] =
        plane[y * side + x]! +
        sums[y * (side + 1) + x + 1]! +
        sums[(y + 1) * (side + 1) + x]! -
        sums[y * (side + 1) + x]!;
  const detail = new Float64Array(plane.length);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const [x0, x1] = [Math.max(0, x - 3), Math.min(side, x + 4)];
      const [y0, y1] = [Math.max(0, y - 3), Math.min(side, y + 4)];
      const sum =
        sums[y1 * (side + 1) + x1]! -
        sums[y0 * (side + 1) + x1]! -
        sums[y1 * (side + 1) + x0]! +
        sums[y0 * (side + 1) + x0]!;
      detail[y * side + x] = plane[y * side + x]! - sum / ((x1 - x0) * (y1 - y0));
    }
  return detail;
}

/** Of the 8 x 8-pixel blocks: the share with texture in either picture, and the share of those that agree. */
export function textureOf(p: Float64Array, q: Float64Array): { textured: number; agreeing: number } {
  let [blocks, textured, agreeing] = [0, 0, 0];
  for (let by = 0; by < VERIFY_SIDE; by += 8)
    for (let bx = 0; bx < VERIFY_SIDE; bx += 8) {
      blocks++;
      const [a, b] = [new Float64Array(64), new Float64Array(64)];
      for (let i = 0; i < 64; i++) {
        const at = (by + (i >> 3)) * VERIFY_SIDE + bx + (i & 7);
        [a[i], b[i]] = [p[at]!, q[at]!];
      }
      const energy = (block: Float64Array) => Math.sqrt(mean(block.map((value) => value * value)));
      if (energy(a) <= 3 && energy(b) <= 3) continue;
      textured++;
      if (correlation(a, b) > 0.6) agreeing++;
    }
  return { textured: textured / blocks, agreeing: textured === 0 ? 0 : agreeing / textured };
}
