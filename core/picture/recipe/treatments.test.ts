import { expect, test } from 'vitest';
import { describe as tell } from './describe.ts';
import { geometry } from './geometry.ts';
import { recipeFor, Treatment, TREATMENTS } from './treatments.ts';

test('the treatments that come along are ones that could be kept, and say what they do', () => {
  expect(TREATMENTS).toHaveLength(6);
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
