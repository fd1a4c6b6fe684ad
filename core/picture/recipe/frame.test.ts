import { expect, test } from 'vitest';
import { seeded } from '../../test/chance.ts';
import { drawn, heldTo, inPixels, levelling, moved, typed, WHOLE, type Grip } from './frame.ts';
import type { Frame } from './recipe.ts';

const oriented = { width: 1200, height: 800 };
const shapeOf = (frame: Frame) => {
  const { width, height } = { width: frame.width * oriented.width, height: frame.height * oriented.height };
  return width / height;
};

test('held to a ratio it is as large as the image takes, and within it', () => {
  for (const ratio of [
    [1, 1],
    [3, 2],
    [16, 9],
    [1, 4],
  ] as const) {
    const frame = heldTo({ x: 0.7, y: 0.1, width: 0.4, height: 0.2 }, ratio, oriented);
    expect(shapeOf(frame)).toBeCloseTo(ratio[0] / ratio[1], 6);
    expect(Math.max(frame.width, frame.height)).toBeCloseTo(1, 6);
    expect(frame.x).toBeGreaterThanOrEqual(0);
    expect(frame.x + frame.width).toBeLessThanOrEqual(1 + 1e-9);
  }
  expect(heldTo(heldTo(WHOLE, [1, 1], oriented), undefined, oriented)).not.toHaveProperty('ratio');
});

test('whatever grip is drawn: the opposite edge stays, a ratio is kept, something is always left', () => {
  const chance = seeded(12);
  const ways = [-1, 0, 1] as const;
  for (let round = 0; round < 2000; round++) {
    const ratio = chance.below(2) ? heldTo(WHOLE, [chance.whole(1, 5), chance.whole(1, 5)], oriented) : WHOLE;
    const grip: Grip = { x: chance.pick(ways), y: chance.pick(ways) };
    if (grip.x === 0 && grip.y === 0) continue;
    const by = { x: chance.whole(-2000, 2000), y: chance.whole(-2000, 2000) };
    const after = drawn(ratio, grip, by, oriented);
    expect(after.width * oriented.width).toBeGreaterThan(0);
    expect(after.height * oriented.height).toBeGreaterThan(0);
    if (ratio.ratio) expect(shapeOf(after)).toBeCloseTo(shapeOf(ratio), 5);
    if (grip.x < 0) expect(after.x + after.width).toBeCloseTo(ratio.x + ratio.width, 6);
    if (grip.x > 0) expect(after.x).toBeCloseTo(ratio.x, 6);
    if (grip.y < 0) expect(after.y + after.height).toBeCloseTo(ratio.y + ratio.height, 6);
    if (grip.y > 0) expect(after.y).toBeCloseTo(ratio.y, 6);
  }
});

test('moved by pixels, beyond the edge too, but never away from the image', () => {
  const half: Frame = { x: 0, y: 0, width: 0.5, height: 0.5 };
  expect(inPixels(moved(half, { x: 1, y: -10 }, oriented), oriented)).toMatchObject({ x: 1, y: -10 });
  const away = moved(half, { x: 5000, y: -5000 }, oriented);
  expect(away.x).toBeLessThan(1);
  expect(away.y + away.height).toBeGreaterThan(0);
});

test('typed numbers are met to the pixel; of a square both sides follow', () => {
  expect(inPixels(typed(WHOLE, 'width', 333, oriented), oriented)).toEqual({
    x: 0,
    y: 0,
    width: 333,
    height: 800,
  });
  const square = heldTo(WHOLE, [1, 1], oriented);
  expect(inPixels(typed(square, 'height', 300, oriented), oriented)).toMatchObject({
    width: 300,
    height: 300,
  });
  expect(inPixels(typed(square, 'x', -20, oriented), oriented)).toMatchObject({ x: -20, width: 800 });
});

test('a line drawn along the horizon or a mast says by how much it is off', () => {
  expect(levelling({ from: { x: 0, y: 0 }, to: { x: 100, y: 0 } })).toBe(0);
  expect(levelling({ from: { x: 0, y: 0 }, to: { x: 100, y: 10 } })).toBe(-5.7);
  expect(levelling({ from: { x: 100, y: 10 }, to: { x: 0, y: 0 } })).toBe(-5.7);
  expect(levelling({ from: { x: 0, y: 0 }, to: { x: -10, y: 100 } })).toBe(-5.7);
});
