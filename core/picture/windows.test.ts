import { describe, expect, test } from 'vitest';
import { seeded } from '../test/chance.ts';
import { correlation, halved, mean, normalised, orient, PLANE } from './signature.ts';
import {
  agreementAt,
  HASH_SIDE,
  hashesOf,
  PARTS,
  Prepared,
  sampled,
  WHOLE,
  withinBorder,
  type Window,
} from './windows.ts';

const dice = seeded(7);
const noise = () => Uint8Array.from({ length: PLANE * PLANE }, () => dice.below(256));
/** Something to be seen: shades that go over into each other, with noise. */
const shaded = () =>
  Uint8Array.from({ length: PLANE * PLANE }, (_, i) =>
    Math.min(255, ((i % PLANE) + Math.floor(i / PLANE)) / 2 + dice.below(90)),
  );
const prepared = (plane: Uint8Array, width = 800, height = 600) =>
  new Prepared({ plane, chroma: null, width, height });
const somewhere = (): Window => {
  const [w, h] = [0.3 + dice.below(700) / 1000, 0.3 + dice.below(700) / 1000];
  return { x: ((1 - w) * dice.below(1001)) / 1000, y: ((1 - h) * dice.below(1001)) / 1000, w, h };
};

describe('area means', () => {
  test('of whole pixels are their means, counted one by one', () => {
    const plane = noise();
    const { sums } = prepared(plane);
    for (const [x, y, side, step] of [
      [0, 0, 64, 2],
      [0, 0, 32, 4],
      [64, 32, 16, 3],
      [96, 96, 32, 1],
    ] as const) {
      const size = (side * step) / PLANE;
      const means = sampled(sums, { x: x / PLANE, y: y / PLANE, w: size, h: size }, side);
      for (let j = 0; j < side; j += 5)
        for (let i = 0; i < side; i += 3) {
          let sum = 0;
          for (let dy = 0; dy < step; dy++)
            for (let dx = 0; dx < step; dx++) sum += plane[(y + j * step + dy) * PLANE + x + i * step + dx]!;
          expect(means[j * side + i]).toBeCloseTo(sum / step ** 2, 6);
        }
    }
  });
  test('of parts of pixels add up to the mean of the window', () => {
    const plane = Uint8Array.from({ length: PLANE * PLANE }, (_, i) => (i % PLANE) * 2);
    const { sums } = prepared(plane);
    for (let round = 0; round < 40; round++) {
      const window = somewhere();
      // Of a ramp, the mean is the value at the middle.
      const wanted = (window.x + window.w / 2) * PLANE * 2 - 1;
      for (const side of [16, 32, 64]) expect(mean(sampled(sums, window, side))).toBeCloseTo(wanted, 0);
    }
  });
  test('of the whole image are found again when it is halved', () => {
    const picture = prepared(noise());
    const coarse = halved(picture.whole(32), 32);
    for (const [i, value] of sampled(picture.sums, WHOLE, 16).entries())
      expect(coarse[i]).toBeCloseTo(value, 6);
  });
});

describe('how well a window agrees with an image', () => {
  test('is the correlation of its means, for any window, as fine as for coarse fields', () => {
    for (let round = 0; round < 60; round++) {
      const [one, other] = [prepared(shaded()), prepared(round % 2 ? noise() : shaded())];
      const window = somewhere();
      const turn = dice.below(8);
      const { fine, coarse } = other.turned(turn);
      const means = orient(other.whole(HASH_SIDE), HASH_SIDE, turn);
      expect(agreementAt(one.sums, window, fine, HASH_SIDE)).toBeCloseTo(
        correlation(sampled(one.sums, window, HASH_SIDE), means),
        9,
      );
      expect(agreementAt(one.sums, window, coarse, HASH_SIDE / 2)).toBeCloseTo(
        correlation(sampled(one.sums, window, HASH_SIDE / 2), halved(means, HASH_SIDE)),
        9,
      );
    }
  });
  test('is 0 where nothing is to be seen in one of the two', () => {
    const blank = prepared(new Uint8Array(PLANE * PLANE).fill(200));
    const picture = prepared(noise());
    expect(agreementAt(blank.sums, WHOLE, picture.turned(0).fine, HASH_SIDE)).toBe(0);
    expect(agreementAt(picture.sums, WHOLE, blank.turned(0).fine, HASH_SIDE)).toBe(0);
  });
  test('is 1 with itself, also when it is lighter or has less contrast', () => {
    const plane = shaded();
    const flat = Uint8Array.from(plane, (value) => 100 + value / 2);
    const wanted = prepared(plane).turned(0).fine;
    expect(agreementAt(prepared(plane).sums, WHOLE, wanted, HASH_SIDE)).toBeCloseTo(1, 9);
    expect(agreementAt(prepared(flat).sums, WHOLE, wanted, HASH_SIDE)).toBeGreaterThan(0.999);
  });
});

test('what is looked for has no mean and the length 1; of what is constant it is nothing', () => {
  const values = Float64Array.from({ length: 256 }, () => dice.below(1000));
  const made = normalised(values);
  expect(mean(made)).toBeCloseTo(0, 12);
  expect(made.reduce((sum, value) => sum + value * value, 0)).toBeCloseTo(1, 12);
  expect(correlation(made, values)).toBeCloseTo(1, 12);
  expect([...normalised(new Float64Array(9).fill(4))]).toEqual(Array(9).fill(0));
});

describe('windows', () => {
  test('lie within the image, the whole first; the parts leave out a fifth at one side', () => {
    for (const [width, height] of [
      [800, 600],
      [600, 800],
      [1000, 1000],
      [3000, 900],
    ] as const) {
      const { windows } = prepared(noise(), width, height);
      expect(windows[0]).toEqual(WHOLE);
      for (const { x, y, w, h } of windows) {
        expect(Math.min(x, y)).toBeGreaterThanOrEqual(0);
        expect(Math.max(x + w, y + h)).toBeLessThanOrEqual(1 + 1e-9);
        expect(Math.min(w, h)).toBeGreaterThan(0.49);
      }
      for (const part of PARTS) {
        const { w, h } = windows[part]!;
        expect(Math.min(w, h)).toBeCloseTo(0.8, 9);
        expect(Math.max(w, h)).toBe(1);
      }
      expect(new Set(PARTS.map((part) => JSON.stringify(windows[part]))).size).toBe(4);
    }
  });
  test('of a flat image are the whole alone, of a blank one none, and neither is turned', () => {
    const flat = prepared(Uint8Array.from({ length: PLANE * PLANE }, (_, i) => (i % PLANE < 64 ? 100 : 105)));
    expect(flat.isFlat).toBe(true);
    expect(flat.windows).toEqual([WHOLE]);
    expect([hashesOf(flat).windows.length, hashesOf(flat).oriented.length]).toEqual([2, 2]);
    const blank = prepared(new Uint8Array(PLANE * PLANE).fill(7));
    expect(blank.windows).toEqual([]);
    expect([hashesOf(blank).windows.length, hashesOf(blank).oriented.length]).toEqual([0, 0]);
    expect(hashesOf(prepared(noise())).oriented).toHaveLength(16);
  });
  test('what a border leaves is one of them: of one brightness, at any side; not where there is none', () => {
    const framed = (top: number, right: number, bottom: number, left: number, shade = 240) => {
      const plane = noise();
      for (let i = 0; i < plane.length; i++) {
        const [x, y] = [i % PLANE, Math.floor(i / PLANE)];
        if (y < top || y >= PLANE - bottom || x < left || x >= PLANE - right) plane[i] = shade;
      }
      return plane;
    };
    expect(withinBorder(framed(8, 16, 24, 4))).toEqual({
      x: 4 / PLANE,
      y: 8 / PLANE,
      w: 108 / PLANE,
      h: 96 / PLANE,
    });
    expect(withinBorder(framed(30, 0, 0, 0))).toEqual({ x: 0, y: 30 / PLANE, w: 1, h: 98 / PLANE });
    // A strip at the foot alone is no border: what it leaves is among the parts.
    expect(withinBorder(framed(0, 0, 30, 0))).toBeUndefined();
    expect(prepared(framed(8, 8, 8, 8)).windows.at(-1)).toEqual(withinBorder(framed(8, 8, 8, 8)));
    expect(withinBorder(noise())).toBeUndefined();
    // One line is no border, and nothing but a border leaves no image.
    expect(withinBorder(framed(1, 1, 1, 1))).toBeUndefined();
    expect(withinBorder(framed(60, 0, 60, 0))).toBeUndefined();
    expect(withinBorder(new Uint8Array(PLANE * PLANE).fill(9))).toBeUndefined();
  });
});
