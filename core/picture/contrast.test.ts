import { expect, test } from 'vitest';
import { seeded } from '../test/chance.ts';
import { cellsOf, contrastOf, contrastOver, luminanceOf, readableVeil } from './contrast.ts';
import { applyTone, toneTables } from './recipe/tone.ts';

test('contrast of two colours as the guidelines count it', () => {
  expect(contrastOf(luminanceOf(255, 255, 255), luminanceOf(0, 0, 0))).toBeCloseTo(21, 5);
  // #767676 on white is the lightest grey that may be read.
  expect(contrastOf(1, luminanceOf(0x76, 0x76, 0x76))).toBeGreaterThan(4.5);
  expect(contrastOf(1, luminanceOf(0x77, 0x77, 0x77))).toBeLessThan(4.5);
});

/** Black on the left, white on the right, and one white pixel that decides nothing. */
const halves = (width: number, height: number) => {
  const pixels = new Uint8Array(width * height * 3);
  for (let y = 0; y < height; y++)
    for (let x = width / 2; x < width; x++) pixels.fill(255, (y * width + x) * 3, (y * width + x) * 3 + 3);
  return pixels;
};

test('the least contrast is that of the worst part, the mean lies between; only the region counts', () => {
  const pixels = halves(80, 40);
  const all = cellsOf(pixels, 80, 3, { left: 0, top: 0, width: 80, height: 40 });
  expect(contrastOver(all, '#ffffff').least).toBeCloseTo(1, 5);
  expect(contrastOver(all, '#ffffff').mean).toBeCloseTo(11, 5);
  const left = cellsOf(pixels, 80, 3, { left: 0, top: 0, width: 40, height: 40 });
  expect(contrastOver(left, '#ffffff')).toEqual({ least: 21, mean: 21 });
  expect(contrastOver(left, '#000000').least).toBe(1);
});

test('the veil that makes text readable does, drawn by the code that draws it, and one hundredth less does not', () => {
  const chance = seeded(4);
  for (let round = 0; round < 40; round++) {
    const [width, height] = [chance.whole(8, 60), chance.whole(8, 60)];
    const pixels = Uint8Array.from({ length: width * height * 3 }, () => chance.whole(0, 255));
    const box = { left: 0, top: 0, width, height };
    const text = chance.pick(['#ffffff', '#000000', '#ffd76a']);
    const colour = chance.pick(['#000000', '#ffffff', '#20344a']);
    const cells = cellsOf(pixels, width, 3, box);
    const opacity = readableVeil(cells, text, colour);
    if (opacity === undefined) {
      expect(contrastOver(cells, text, { colour, opacity: 1 }).least).toBeLessThan(4.5);
      continue;
    }
    const least = (of: number) => {
      const veiled = pixels.slice();
      if (of > 0) applyTone(veiled, 3, toneTables({ veil: { colour, opacity: of } })!);
      return contrastOver(cellsOf(veiled, width, 3, box), text).least;
    };
    // Rounding to bytes once for all pixels of a cell, or for each, differs by a hair.
    expect(least(opacity)).toBeGreaterThan(4.4);
    if (opacity > 0.02) expect(least(opacity - 0.02)).toBeLessThan(4.5);
  }
});

test('what is seen through counts for nothing', () => {
  const pixels = new Uint8Array(16 * 16 * 4);
  expect(cellsOf(pixels, 16, 4, { left: 0, top: 0, width: 16, height: 16 })).toHaveLength(0);
  expect(contrastOver(new Uint8Array(), '#ffffff')).toEqual({ least: 1, mean: 1 });
});
