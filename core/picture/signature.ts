/**
 * What images are compared by: 64-bit hashes of the lowest coefficients of a DCT, correlation, detail and texture of their luminance.
 * After C. Zauner, "Implementation and Benchmarking of Perceptual Image Hash Functions" (2010), and
 * J. P. Lewis, "Fast Normalized Cross-Correlation" (1995).
 */

/** Side of the luminance plane, in pixels. */
export const PLANE = 128;
/** Side that hashes are computed on, and the one that pairs are verified on. */
const HASH_SIDE = 32;
const VERIFY_SIDE = 64;
/** Luminance (ITU-R BT.601) of an RGB image of PLANE x PLANE pixels, 3 bytes each. */
export function planeOf(rgb: Uint8Array): Uint8Array {
  const plane = new Uint8Array(PLANE * PLANE);
  for (let i = 0; i < plane.length; i++)
    plane[i] = Math.round(0.299 * rgb[3 * i]! + 0.587 * rgb[3 * i + 1]! + 0.114 * rgb[3 * i + 2]!);
  return plane;
}

/** Fields of the colour grid, on each side. */
const CHROMA_SIDE = 8;

/** Mean colour differences R-Y and B-Y on 8 x 8 fields of an RGB image of PLANE x PLANE pixels, -128 to 127: 128 numbers. */
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

/** What encoding and sizing change of a coefficient: in grey levels, and as a share of the largest. */
const LEAST_NOISE = 4;
const NOISE = 0.003;
/** More coefficients than these do not lie so near to the median by chance. */
const MOST_NOISY = 20;

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
  const sorted = values.slice(1).sort();
  const median = sorted[31]!;
  const noise = Math.max(LEAST_NOISE, NOISE * Math.max(-sorted[0]!, sorted[62]!));
  // Of a symmetric drawing half of the coefficients are nothing but noise around zero: all of these must fall on one side.
  const noisy = sorted.filter((value) => Math.abs(value - median) < noise).length > MOST_NOISY;
  const border = noisy ? median + noise : median;
  const words: [number, number] = [0, 0];
  for (let i = 1; i < 64; i++) if (values[i]! > border) words[i >> 5]! |= 1 << (i & 31);
  return words;
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
  for (let i = 0; i < values.length; i++) sum += values[i]!;
  return sum / values.length;
}

export function deviation(values: Float64Array): number {
  const centre = mean(values);
  let sum = 0;
  for (const value of values) sum += (value - centre) ** 2;
  return Math.sqrt(sum / values.length);
}

/** Means of 2 x 2 fields each. */
export function halved(plane: Float64Array, side: number): Float64Array {
  const half = side / 2;
  const means = new Float64Array(half * half);
  for (let y = 0, to = 0; y < half; y++)
    for (let at = 2 * y * side, end = at + side; at < end; at += 2)
      means[to++] = (plane[at]! + plane[at + 1]! + plane[at + side]! + plane[at + side + 1]!) / 4;
  return means;
}

/** Less their mean, and of length 1; zeros when they are constant. */
export function normalised(values: Float64Array): Float64Array {
  const centre = mean(values);
  const to = new Float64Array(values.length);
  let energy = 0;
  for (let i = 0; i < to.length; i++) {
    const value = values[i]! - centre;
    to[i] = value;
    energy += value * value;
  }
  const scale = energy < 1e-9 ? 0 : 1 / Math.sqrt(energy);
  for (let i = 0; i < to.length; i++) to[i]! *= scale;
  return to;
}

/** Normalised cross-correlation, -1 to 1; 0 when one of the two is constant. */
export function correlation(p: Float64Array, q: Float64Array): number {
  const pm = mean(p);
  const qm = mean(q);
  let pq = 0;
  let pp = 0;
  let qq = 0;
  for (let i = 0; i < p.length; i++) {
    const a = p[i]! - pm;
    const b = q[i]! - qm;
    pq += a * b;
    pp += a * a;
    qq += b * b;
  }
  return pp < 1e-9 || qq < 1e-9 ? 0 : pq / Math.sqrt(pp * qq);
}

/** Each pixel less the mean of the 7 x 7 box around it. */
export function detailOf(plane: Float64Array, side: number, reach: number): Float64Array {
  const stride = side + 1;
  const sums = new Float64Array(stride * stride);
  for (let y = 0; y < side; y++) {
    let row = 0;
    for (let x = 0; x < side; x++) {
      row += plane[y * side + x]!;
      sums[(y + 1) * stride + x + 1] = sums[y * stride + x + 1]! + row;
    }
  }
  const detail = new Float64Array(plane.length);
  for (let y = 0; y < side; y++) {
    const y0 = Math.max(0, y - reach);
    const y1 = Math.min(side, y + reach + 1);
    for (let x = 0; x < side; x++) {
      const x0 = Math.max(0, x - reach);
      const x1 = Math.min(side, x + reach + 1);
      const sum =
        sums[y1 * stride + x1]! - sums[y0 * stride + x1]! - sums[y1 * stride + x0]! + sums[y0 * stride + x0]!;
      detail[y * side + x] = plane[y * side + x]! - sum / ((x1 - x0) * (y1 - y0));
    }
  }
  return detail;
}

/** Of the 8 x 8-pixel blocks: the share with texture in either image, and the share of those that agree. */
export function textureOf(p: Float64Array, q: Float64Array): { textured: number; agreeing: number } {
  const size = 64;
  let [blocks, textured, agreeing] = [0, 0, 0];
  for (let by = 0; by < VERIFY_SIDE; by += 8)
    for (let bx = 0; bx < VERIFY_SIDE; bx += 8) {
      blocks++;
      let ps = 0;
      let qs = 0;
      let pp = 0;
      let qq = 0;
      let pq = 0;
      for (let y = by; y < by + 8; y++)
        for (let i = y * VERIFY_SIDE + bx, end = i + 8; i < end; i++) {
          const a = p[i]!;
          const b = q[i]!;
          ps += a;
          qs += b;
          pp += a * a;
          qq += b * b;
          pq += a * b;
        }
      if (pp <= 9 * size && qq <= 9 * size) continue;
      textured++;
      const energies = [pp - (ps * ps) / size, qq - (qs * qs) / size] as const;
      const agrees = pq - (ps * qs) / size > 0.6 * Math.sqrt(energies[0] * energies[1]);
      if (Math.min(...energies) >= 1e-9 && agrees) agreeing++;
    }
  return { textured: textured / blocks, agreeing: textured === 0 ? 0 : agreeing / textured };
}
