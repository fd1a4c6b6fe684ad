import { expect, test } from 'vitest';
import { seeded } from '../test/chance.ts';
import { leastQuality, looksSame, ssim } from './ssim.ts';

const [width, height] = [96, 70];
const noise = (chance: ReturnType<typeof seeded>, spread: number, base?: Uint8Array) =>
  Uint8Array.from({ length: width * height }, (_, at) =>
    Math.min(255, Math.max(0, (base?.[at] ?? 128) + chance.whole(-spread, spread))),
  );

test('the same image is the same; the more it is disturbed, the less it looks so', () => {
  const chance = seeded(1);
  const image = noise(chance, 100);
  expect(ssim(image, image, width, height)).toEqual({ mean: 1, worst: 1 });
  let before = 1;
  for (const spread of [2, 8, 30, 90]) {
    const { mean, worst } = ssim(image, noise(chance, spread, image), width, height);
    expect(mean).toBeLessThan(before);
    expect(worst).toBeLessThanOrEqual(mean);
    before = mean;
  }
});

test('a small damage hardly moves the mean, but the worst windows tell', () => {
  const chance = seeded(4);
  const image = noise(chance, 60);
  const damaged = Uint8Array.from(image);
  // One window in ten is grey.
  for (let y = 0; y < 24; y++) for (let x = 0; x < 32; x++) damaged[y * width + x] = 128;
  const likeness = ssim(image, damaged, width, height);
  expect(likeness.mean).toBeGreaterThan(0.85);
  expect(likeness.worst).toBeLessThan(0.3);
  expect(looksSame(likeness)).toBe(false);
});

test('sizes that differ are refused', () => {
  expect(() => ssim(new Uint8Array(4), new Uint8Array(9), 2, 2)).toThrow(RangeError);
});

test('the least quality that passes is found in at most five tries, each once', async () => {
  for (let bound = 1; bound <= 100; bound++) {
    const tried: number[] = [];
    const found = await leastQuality((quality) => {
      tried.push(quality);
      return Promise.resolve(quality >= bound);
    });
    expect(tried.length).toBeLessThanOrEqual(5);
    expect(new Set(tried).size).toBe(tried.length);
    // Within two of the bound, never below it where one passes.
    if (bound >= 55 && bound <= 92) {
      expect(found).toBeGreaterThanOrEqual(bound);
      expect(found).toBeLessThanOrEqual(bound + 2);
    }
  }
});
