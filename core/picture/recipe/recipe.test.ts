import { expect, test } from 'vitest';
import { seeded, type Chance } from '../../test/chance.ts';
import { describe as tell, stepTexts } from './describe.ts';
import { geometry, withinStraightened, type Extent } from './geometry.ts';
import { isNothing, merge, NO_RECIPE, normalise, readRecipe, Recipe, STEPS, writeRecipe } from './recipe.ts';

const colour = (chance: Chance) => `#${chance.below(0xffffff).toString(16).padStart(6, '0')}`;
const maybe = <Value>(chance: Chance, value: () => Value) => (chance.below(2) === 0 ? value() : undefined);

/** Any recipe that the schema takes. */
export function randomRecipe(chance: Chance): Recipe {
  const side = () => chance.whole(1, 3000);
  const rectangle = () => ({
    x: chance.whole(-50, 80) / 100,
    y: chance.whole(-50, 80) / 100,
    width: chance.whole(5, 150) / 100,
    height: chance.whole(5, 150) / 100,
  });
  const sizes = [
    () => ({ by: 'fit', width: side(), height: side() }) as const,
    () => ({ by: 'cover', width: side(), height: side() }) as const,
    () => ({ by: 'width', width: side() }) as const,
    () => ({ by: 'height', height: side() }) as const,
    () => ({ by: 'longest', pixels: side() }) as const,
    () => ({ by: 'percent', percent: chance.whole(1, 400) }) as const,
  ];
  const part = (from: number, to: number) => maybe(chance, () => chance.whole(from, to));
  const steps = {
    orient: maybe(chance, () => ({
      turns: chance.pick([0, 1, 2, 3] as const),
      mirror: chance.below(2) === 0,
      flip: chance.below(2) === 0,
      straighten: chance.whole(-450, 450) / 10,
    })),
    frame: maybe(chance, () => ({
      ...rectangle(),
      beyond: chance.pick([
        { fill: 'colour', colour: colour(chance) },
        { fill: 'edge' },
        { fill: 'blur' },
        { fill: 'none' },
      ] as const),
    })),
    tone: maybe(chance, () => ({
      levels: maybe(chance, () => ({
        black: chance.whole(0, 80),
        mid: chance.whole(90, 160),
        white: chance.whole(170, 255),
      })),
      brightness: part(-100, 100),
      contrast: part(-100, 100),
      saturation: part(-100, 100),
      warmth: part(-100, 100),
      blackAndWhite: maybe(chance, () => true),
      veil: maybe(chance, () => ({ colour: colour(chance), opacity: chance.whole(0, 100) / 100 })),
    })),
    covers: maybe(chance, () =>
      Array.from({ length: chance.whole(0, 3) }, () => ({
        ...rectangle(),
        as: chance.pick(['blur', 'mosaic', 'colour'] as const),
      })),
    ),
    size: maybe(chance, () => ({
      ...chance.pick(sizes)(),
      enlarge: maybe(chance, () => true),
      sharpen: maybe(chance, () => chance.pick(['light', 'strong'] as const)),
    })),
    file: maybe(chance, () => ({
      format: maybe(chance, () => chance.pick(['jpeg', 'png', 'webp', 'avif'] as const)),
      quality: maybe(chance, () => chance.pick([80, 'same' as const, { mostBytes: 200_000 }])),
    })),
  };
  // Without what is undefined: JSON knows none.
  return Recipe.parse(JSON.parse(JSON.stringify({ version: 1, ...steps })));
}
const randomExtent = (chance: Chance): Extent => ({
  width: chance.whole(1, 4000),
  height: chance.whole(1, 4000),
});

test('whatever the recipe: written and read again it is the same, and its sentence names every step', () => {
  const chance = seeded(11);
  for (let round = 0; round < 3000; round++) {
    const recipe = normalise(randomRecipe(chance));
    expect(readRecipe(writeRecipe(recipe))).toEqual(recipe);
    expect(normalise(recipe)).toEqual(recipe);
    expect(stepTexts(recipe).map(({ step }) => step)).toEqual(STEPS.filter((step) => step in recipe));
    const sentence = tell(recipe);
    for (const { text } of stepTexts(recipe)) expect(sentence.toLowerCase()).toContain(text.toLowerCase());
    expect(sentence).not.toMatch(/undefined|null|NaN|, ,/);
  }
});

test('whatever the recipe: points go where a mapping step by step takes them, and come back', () => {
  const chance = seeded(5);
  for (let round = 0; round < 3000; round++) {
    const recipe = randomRecipe(chance);
    const size = randomExtent(chance);
    let made;
    try {
      made = geometry(recipe, size);
    } catch (error) {
      expect(error).toBeInstanceOf(RangeError);
      continue;
    }
    const from = { x: chance.below(1001) / 1000, y: chance.below(1001) / 1000 };
    const to = made.toOutput(from);
    const back = made.toSource(to);
    expect(back.x).toBeCloseTo(from.x, 6);
    expect(back.y).toBeCloseTo(from.y, 6);
    // The same by hand: complex numbers about the middle, one quarter turn after the other.
    let [x, y] = [from.x * size.width, from.y * size.height];
    let [width, height] = [size.width, size.height];
    for (let turn = 0; turn < (recipe.orient?.turns ?? 0); turn++) {
      [x, y] = [height - y, x];
      [width, height] = [height, width];
    }
    if (recipe.orient?.mirror) x = width - x;
    if (recipe.orient?.flip) y = height - y;
    const angle = ((recipe.orient?.straighten ?? 0) * Math.PI) / 180;
    const length = Math.hypot(x - width / 2, y - height / 2);
    const way = Math.atan2(y - height / 2, x - width / 2) + angle;
    [x, y] = [width / 2 + length * Math.cos(way), height / 2 + length * Math.sin(way)];
    const { frame, output } = made;
    expect(to.x * output.width).toBeCloseTo(((x - frame.x) / frame.width) * output.width, 4);
    expect(to.y * output.height).toBeCloseTo(((y - frame.y) / frame.height) * output.height, 4);
  }
});

test('whatever the recipe: nothing is larger than what it is made of, unless that is wanted; sizes are met', () => {
  const chance = seeded(7);
  for (let round = 0; round < 3000; round++) {
    const recipe = randomRecipe(chance);
    const size = randomExtent(chance);
    let made;
    try {
      made = geometry(recipe, size);
    } catch {
      continue;
    }
    const { output, frame, keptSmall } = made;
    expect(Number.isInteger(output.width) && Number.isInteger(output.height)).toBe(true);
    expect(Math.min(output.width, output.height)).toBeGreaterThanOrEqual(1);
    if (!recipe.size?.enlarge) {
      expect(output.width).toBeLessThanOrEqual(frame.width);
      expect(output.height).toBeLessThanOrEqual(frame.height);
    }
    if (!recipe.size || keptSmall) expect(output).toEqual({ width: frame.width, height: frame.height });
    else if (recipe.size.by === 'cover')
      expect(output).toEqual({ width: recipe.size.width, height: recipe.size.height });
    else if (recipe.size.by === 'fit') {
      expect(output.width).toBeLessThanOrEqual(recipe.size.width);
      expect(output.height).toBeLessThanOrEqual(recipe.size.height);
    }
  }
});

test('straightened without a frame, no corner lies beyond the image, and none larger would do', () => {
  const chance = seeded(3);
  for (let round = 0; round < 500; round++) {
    const size = { width: chance.whole(50, 4000), height: chance.whole(50, 4000) };
    const straighten = chance.whole(-450, 450) / 10;
    const { beyond } = geometry({ version: 1, orient: { straighten } }, size);
    expect(beyond).toBe(false);
    if (Math.abs(straighten) < 2 || Math.min(size.width, size.height) < 400) continue;
    const more = withinStraightened(size, straighten) * 1.01;
    const frame = { x: (1 - more) / 2, y: (1 - more) / 2, width: more, height: more };
    expect(geometry({ version: 1, orient: { straighten }, frame }, size).beyond).toBe(true);
  }
});

test('a quarter turn, a mirror, a crop of a known image', () => {
  const size = { width: 400, height: 200 };
  const turned = geometry({ version: 1, orient: { turns: 1 } }, size);
  expect(turned.output).toEqual({ width: 200, height: 400 });
  // What is at the left top comes to the right top.
  expect(turned.toOutput({ x: 0, y: 0 })).toEqual({ x: 1, y: 0 });
  const mirrored = geometry({ version: 1, orient: { mirror: true } }, size);
  expect(mirrored.toOutput({ x: 0.25, y: 0.5 })).toEqual({ x: 0.75, y: 0.5 });
  const cropped = geometry({ version: 1, frame: { x: 0.5, y: 0, width: 0.5, height: 1 } }, size);
  expect(cropped.output).toEqual({ width: 200, height: 200 });
  expect(cropped.toOutput({ x: 0.5, y: 0 })).toEqual({ x: 0, y: 0 });
  expect(cropped.beyond).toBe(false);
  const wide = geometry({ version: 1, frame: { x: 0, y: -0.5, width: 1, height: 2 } }, size);
  expect(wide).toMatchObject({ output: { width: 400, height: 400 }, beyond: true });
});

test('what fills a size keeps what must be seen', () => {
  const size = { width: 3000, height: 1000 };
  const recipe: Recipe = { version: 1, size: { by: 'cover', width: 500, height: 500 } };
  for (const x of [0, 0.2, 0.5, 0.9, 1]) {
    const made = geometry(recipe, size, { x, y: 0.5 });
    const at = made.toOutput({ x, y: 0.5 });
    expect(at.x).toBeGreaterThanOrEqual(-0.001);
    expect(at.x).toBeLessThanOrEqual(1.001);
    expect(made.output).toEqual({ width: 500, height: 500 });
  }
});

test('a frame without a pixel is refused; a recipe of later is told, nonsense is not taken', () => {
  expect(() =>
    geometry({ version: 1, frame: { x: 0, y: 0, width: 0.001, height: 1 } }, { width: 100, height: 100 }),
  ).toThrow('This frame leaves no pixel of the image. Make it larger.');
  expect(() => readRecipe('{"version":2,"glow":{}}')).toThrow('newer version of Iconomos');
  expect(() => readRecipe('{"version":1,"frame":{"x":"left"}}')).toThrow('can’t be read');
  expect(Recipe.safeParse({ version: 1, orient: { straighten: 1.25 } }).success).toBe(false);
  expect(
    Recipe.safeParse({ version: 1, tone: { levels: { black: 200, mid: 100, white: 255 } } }).success,
  ).toBe(false);
});

test('a step that does not change is the same object after another has changed', () => {
  const first = merge(NO_RECIPE, { orient: { straighten: 2 }, tone: { brightness: 10, warmth: 5 } });
  const next = merge(first, { tone: { brightness: 11, warmth: 5 } });
  expect(next.orient).toBe(first.orient);
  expect(next.tone).toEqual({ brightness: 11, warmth: 5 });
  expect(first.tone).toEqual({ brightness: 10, warmth: 5 });
  expect(merge(next, { tone: { brightness: 11, warmth: 5 } }).tone).toBe(next.tone);
});

test('changes are merged step by step; what does nothing is left out', () => {
  const square = merge(NO_RECIPE, { frame: { x: 0, y: 0, width: 0.5, height: 1, ratio: [1, 1] } });
  const dark = merge(square, { tone: { brightness: -20 } });
  expect(dark).toMatchObject({ frame: { width: 0.5 }, tone: { brightness: -20 } });
  expect(merge(dark, { frame: null })).toEqual({ version: 1, tone: { brightness: -20 } });
  expect(merge(dark, { frame: null, tone: { brightness: 0 } })).toEqual(NO_RECIPE);
  expect(isNothing({ version: 1, orient: { turns: 0, mirror: false }, covers: [] })).toBe(true);
  expect(isNothing({ version: 1, orient: { turns: 1 } })).toBe(false);
});

test('a recipe in words', () => {
  expect(tell(NO_RECIPE)).toBe('Nothing is changed.');
  expect(
    tell({
      version: 1,
      orient: { turns: 1, straighten: -1.5 },
      frame: {
        x: -0.1,
        y: 0,
        width: 1.2,
        height: 1,
        ratio: [1, 1],
        beyond: { fill: 'colour', colour: '#ffffff' },
      },
      tone: { levels: 'auto', blackAndWhite: true, veil: { colour: '#1a2b3c', opacity: 0.4 } },
      size: { by: 'fit', width: 1600, height: 1600, sharpen: 'light' },
      file: { format: 'webp', quality: 'same' },
    }),
  ).toBe(
    'Turned right, straightened by 1.5° left, framed to 1:1 with #ffffff beyond the image, automatic levels, black and white, a veil of #1a2b3c at 40 %, resized to fit 1600 × 1600 px, lightly sharpened, saved as WebP, as small as looks the same.',
  );
});
