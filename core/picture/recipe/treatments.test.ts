import { expect, test } from 'vitest';
import { describe as tell } from './describe.ts';
import { geometry } from './geometry.ts';
import type { Recipe } from './recipe.ts';
import { asTreatment, recipeFor, Treatment, TREATMENTS } from './treatments.ts';

test('the treatments that come along are ones that could be kept, and say what they do', () => {
  expect(TREATMENTS).toHaveLength(7);
  for (const treatment of TREATMENTS) {
    expect(Treatment.parse(treatment)).toEqual(treatment);
    expect(tell(recipeFor(treatment, { width: 3000, height: 2000 }))).not.toBe('Nothing is changed.');
  }
});

test.each([
  [3000, 2000],
  [2000, 3000],
  [1000, 1000],
  [400, 9000],
])('%i × %i: a shape is met, all of the image is in it or none of the ground', (width, height) => {
  for (const how of ['whole', 'filled'] as const)
    for (const ratio of [
      [1, 1],
      [16, 9],
      [4, 5],
    ] as [number, number][]) {
      const { output, beyond, frame } = geometry(
        recipeFor({ recipe: { version: 1 }, shape: { ratio, how } }, { width, height }),
        { width, height },
      );
      expect(output.width / output.height / (ratio[0] / ratio[1])).toBeCloseTo(1, 1);
      if (how === 'filled') expect(beyond).toBe(false);
      else {
        expect(frame.width).toBeGreaterThanOrEqual(width - 1);
        expect(frame.height).toBeGreaterThanOrEqual(height - 1);
      }
    }
});

test('framed by what stands on it, it lies in the middle with its margin; turned images too', () => {
  const subject = { x: 0.1, y: 0.2, width: 0.2, height: 0.4 };
  const size = { width: 1000, height: 500 };
  for (const turns of [0, 1, 2, 3] as const) {
    const recipe = recipeFor(
      { recipe: { version: 1, orient: { turns } }, shape: { ratio: [1, 1], how: 'subject', margin: 0.1 } },
      size,
      subject,
    );
    const { toOutput, output } = geometry(recipe, size);
    const middle = toOutput({ x: 0.2, y: 0.4 });
    expect(middle.x).toBeCloseTo(0.5, 1);
    expect(middle.y).toBeCloseTo(0.5, 1);
    // Two hundred pixels each way, and a tenth of the frame free on either side.
    expect(Math.abs(output.width - 250)).toBeLessThanOrEqual(1);
    expect(output.height).toBe(output.width);
  }
});

test('what was made of one image becomes a treatment of many: its shape stays, its place and what was covered do not', () => {
  const frame = { x: 0.3, y: 0.1, width: 0.4, height: 0.6, ratio: [3, 2] as [number, number] };
  const cover = { x: 0, y: 0, width: 0.1, height: 0.1, as: 'blur' as const };
  const own: Recipe = { version: 1, frame, tone: { brightness: 10 }, covers: [cover] };
  expect(asTreatment(own)).toEqual({
    recipe: { version: 1, tone: { brightness: 10 } },
    shape: { ratio: [3, 2], how: 'filled' },
  });
  const free: Recipe = {
    version: 1,
    frame: { x: 0, y: 0, width: 0.5, height: 1 },
    size: { by: 'width', width: 9 },
  };
  expect(asTreatment(free)).toEqual({ recipe: { version: 1, size: { by: 'width', width: 9 } } });
  // Of another image it is another frame, of the same shape.
  expect(recipeFor(asTreatment(own), { width: 900, height: 900 }).frame).toMatchObject({
    x: 0,
    width: 1,
    height: 0.66667,
  });
});
