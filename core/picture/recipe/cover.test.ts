import { expect, test } from 'vitest';
import { seeded } from '../../test/chance.ts';
import { applyCovers, type Pixels } from './cover.ts';
import { edgeColour } from './edge.ts';
import { geometry } from './geometry.ts';
import type { Cover, Recipe } from './recipe.ts';

const [width, height] = [80, 60];
const picture = (): Pixels => {
  const chance = seeded(6);
  return {
    data: Uint8Array.from({ length: width * height * 3 }, () => chance.below(256)),
    width,
    height,
    channels: 3,
  };
};
const covered = (cover: Omit<Cover, 'x' | 'y' | 'width' | 'height'>, recipe: Partial<Recipe> = {}) => {
  const pixels = picture();
  const whole: Recipe = {
    version: 1,
    ...recipe,
    covers: [{ x: 0.25, y: 0.5, width: 0.25, height: 0.25, ...cover }],
  };
  applyCovers(pixels, whole, geometry(whole, { width, height }));
  return pixels;
};
const at = ({ data }: Pixels, x: number, y: number) => [
  ...data.subarray((y * width + x) * 3, (y * width + x) * 3 + 3),
];

test.each(['blur', 'mosaic', 'colour'] as const)(
  '%s: the part is covered to its edge, and no pixel beside it is touched',
  (as) => {
    const before = picture();
    const after = covered({ as, colour: '#123456' });
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const inside = x >= 20 && x < 40 && y >= 30 && y < 45;
        if (!inside) expect(at(after, x, y)).toEqual(at(before, x, y));
        else if (as === 'colour') expect(at(after, x, y)).toEqual([0x12, 0x34, 0x56]);
      }
    if (as !== 'colour') {
      // What was there cannot be read any more: neighbours are almost the same now, and were not.
      const roughness = (pixels: Pixels) => {
        let sum = 0;
        for (let y = 30; y < 45; y++)
          for (let x = 20; x < 39; x++) sum += Math.abs(at(pixels, x, y)[0]! - at(pixels, x + 1, y)[0]!);
        return sum;
      };
      expect(roughness(after)).toBeLessThan(roughness(before) / 4);
    }
  },
);

test('a part stays on what it covers when the image is mirrored or cropped', () => {
  // In parts of the oriented image: where it is drawn, whatever lies beneath.
  const cropped = covered(
    { as: 'colour', colour: '#ff0000' },
    { frame: { x: 0.25, y: 0.5, width: 0.75, height: 0.5 } },
  );
  expect(at(cropped, 0, 0)).toEqual([255, 0, 0]);
  expect(at(cropped, Math.floor(width / 3) - 1, 0)).toEqual([255, 0, 0]);
  expect(at(cropped, Math.ceil(width / 3) + 1, 0)).not.toEqual([255, 0, 0]);
});

test('the colour of an edge is the mean of the outermost pixels; what is seen through counts for nothing', () => {
  const [width, height] = [10, 10];
  const data = new Uint8Array(width * height * 4).fill(255);
  // Red within, one transparent corner, and an edge that is grey on one side.
  for (let y = 1; y < 9; y++) for (let x = 1; x < 9; x++) data.set([255, 0, 0, 255], (y * width + x) * 4);
  data.set([0, 0, 0, 0], 0);
  for (let y = 0; y < height; y++) data.set([100, 100, 100, 255], (y * width + 9) * 4);
  const [red, green, blue] = edgeColour({ data, width, height, channels: 4 });
  expect([green, blue]).toEqual([red, red]);
  expect(red).toBe(Math.round((25 * 255 + 10 * 100) / 35));
  const clear = new Uint8Array(width * height * 4);
  expect(edgeColour({ data: clear, width, height, channels: 4 })).toEqual([255, 255, 255]);
});
