/** How alike two images look: 1 is the same. */
export interface Likeness {
  /** The mean over all windows. */
  mean: number;
  /** Below it lie five in a hundred windows: what a person would notice first. */
  worst: number;
}

const WINDOW = 8;
const C1 = (0.01 * 255) ** 2;
const C2 = (0.03 * 255) ** 2;

/**
 * The structural similarity of two images of one size (Wang, Bovik, Sheikh, Simoncelli 2004), over windows of 8 x 8 pixels.
 * @param one luminance, one byte a pixel
 * @throws RangeError when their sizes differ
 */
export function ssim(one: Uint8Array, other: Uint8Array, width: number, height: number): Likeness {
  if (one.length !== width * height || other.length !== one.length)
    throw new RangeError('both images must have the size that is told');
  const values: number[] = [];
  for (let top = 0; top < height; top += WINDOW)
    for (let left = 0; left < width; left += WINDOW) {
      const right = Math.min(width, left + WINDOW);
      const bottom = Math.min(height, top + WINDOW);
      let [sumA, sumB, sumAA, sumBB, sumAB] = [0, 0, 0, 0, 0];
      for (let y = top; y < bottom; y++)
        for (let x = left; x < right; x++) {
          const a = one[y * width + x]!;
          const b = other[y * width + x]!;
          sumA += a;
          sumB += b;
          sumAA += a * a;
          sumBB += b * b;
          sumAB += a * b;
        }
      const count = (right - left) * (bottom - top);
      const [meanA, meanB] = [sumA / count, sumB / count];
      const [varA, varB] = [sumAA / count - meanA * meanA, sumBB / count - meanB * meanB];
      const covariance = sumAB / count - meanA * meanB;
      values.push(
        ((2 * meanA * meanB + C1) * (2 * covariance + C2)) /
          ((meanA * meanA + meanB * meanB + C1) * (varA + varB + C2)),
      );
    }
  if (values.length === 0) return { mean: 1, worst: 1 };
  values.sort((a, b) => a - b);
  return {
    mean: values.reduce((sum, value) => sum + value, 0) / values.length,
    worst: values[Math.floor(values.length * 0.05)]!,
  };
}

/** Bounds above which hardly anyone tells two images apart beside each other. */
export const LOOKS_SAME: Likeness = { mean: 0.98, worst: 0.93 };

export const looksSame = ({ mean, worst }: Likeness) => mean >= LOOKS_SAME.mean && worst >= LOOKS_SAME.worst;

/** Below and above these qualities, nobody wants what comes out. */
const LEAST = 55;
const MOST = 92;

/**
 * The least quality of an encoder that passes, found by halving what is left: between 55 and 92 in five tries at most.
 * @param passes encodes with a quality of 1 to 100 and says whether that will do; asked for each at most once
 * @returns the highest quality where none passes
 */
export async function leastQuality(passes: (quality: number) => Promise<boolean>): Promise<number> {
  let low = LEAST;
  let high: number = MOST;
  // Within two of it is near enough: nobody sees that.
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (await passes(middle)) high = middle;
    else low = middle + 1;
  }
  return high;
}
