import { describe, expect, test } from 'vitest';
import { seeded } from '../test/chance.ts';
import { DETAIL_SIDE, featureSquare, lookOf } from './computed.ts';
import { FEATURE_SIDE } from './features.ts';

type Colour = readonly [number, number, number];
/** An image painted pixel by pixel; x and y from 0 to 1. */
function painted(paint: (x: number, y: number) => Colour): Uint8Array {
  const rgb = new Uint8Array(3 * DETAIL_SIDE * DETAIL_SIDE);
  for (let y = 0; y < DETAIL_SIDE; y++)
    for (let x = 0; x < DETAIL_SIDE; x++)
      rgb.set(
        paint(x / DETAIL_SIDE, y / DETAIL_SIDE).map((value) => Math.min(255, Math.max(0, Math.round(value)))),
        3 * (y * DETAIL_SIDE + x),
      );
  return rgb;
}
/** What a camera adds. */
function grainy(paint: (x: number, y: number) => Colour, seed = 1): Uint8Array {
  const chance = seeded(seed);
  return painted((x, y) => {
    const grain = chance.below(17) - 8;
    return paint(x, y).map((value) => value + grain) as unknown as Colour;
  });
}
const labels = (rgb: Uint8Array, aspect = 1.5) =>
  lookOf(rgb, aspect)
    .computed.filter(({ confidence }) => confidence >= 0.6)
    .map(({ label }) => label)
    .sort();

const mix = (from: Colour, to: Colour, part: number): Colour =>
  from.map((value, at) => value + (to[at]! - value) * part) as unknown as Colour;
const DUSK = (x: number, y: number): Colour =>
  y > 0.7 + 0.03 * Math.sin(9 * x) ? [24, 22, 26] : mix([40, 46, 92], [236, 132, 62], y / 0.7);
const WINTER = (x: number, y: number): Colour =>
  y > 0.55 + 0.05 * Math.sin(7 * x) ? [247, 249, 252] : mix([150, 166, 190], [196, 206, 220], y);
const MEADOW = (x: number, y: number): Colour =>
  y > 0.5 ? [70 + 40 * Math.sin(40 * x), 130, 60] : [140, 180, 230];
const STARS = (x: number, y: number): Colour =>
  Math.sin(91 * x) * Math.sin(77 * y) > 0.995 ? [255, 255, 240] : [6, 8, 14];
/** Lines of writing between margins. */
const PAGE = (x: number, y: number): Colour => {
  const written = x > 0.12 && x < 0.85 && y > 0.08 && y < 0.9 && y % 0.05 < 0.02;
  return written && Math.floor(x * 256) % 3 !== 0 ? [30, 30, 30] : [255, 255, 255];
};

describe('what follows from the pixels alone', () => {
  test.each<[string, Uint8Array]>([
    ['night', grainy(STARS)],
    ['sunset', grainy(DUSK)],
    ['snow', grainy(WINTER)],
    ['black and white', grainy((x, y) => mix([20, 20, 20], [220, 220, 220], (x + y) / 2))],
    ['document', painted(PAGE)],
    [
      'drawing',
      painted((x, y) =>
        Math.hypot(x - 0.5, y - 0.5) < 0.3 ? [200, 60, 40] : y > 0.7 ? [40, 90, 60] : [240, 220, 160],
      ),
    ],
    [
      'chart',
      painted((x, y) => {
        if (Math.abs(x - 0.1) < 0.004 || Math.abs(y - 0.9) < 0.004) return [20, 20, 20];
        if (x > 0.1 && y < 0.9 && Math.abs(y - (0.7 - 0.5 * x)) < 0.008) return [190, 40, 40];
        const writing = (at: number) => y > at && y < at + 0.02 && x > 0.15 && x < 0.6;
        return [0.02, 0.93, 0.97].some(writing) && Math.floor(x * 256) % 3 === 0
          ? [60, 60, 60]
          : [255, 255, 255];
      }),
    ],
    [
      'screenshot',
      painted((x, y) => {
        if (y < 0.06) return [40, 60, 70];
        if (x < 0.2)
          return y % 0.08 < 0.03 && x > 0.02 && x < 0.16 && Math.floor(x * 256) % 3 === 0
            ? [30, 30, 30]
            : [228, 230, 224];
        const [column, row] = [(x - 0.2) % 0.4, (y - 0.06) % 0.47];
        const frame = column < 0.01 || row < 0.01 || column > 0.38 || row > 0.45;
        const writing = row > 0.4 && row < 0.42 && Math.floor(x * 256) % 3 === 0;
        return frame ? [90, 90, 90] : writing ? [20, 20, 20] : row < 0.36 ? [120, 150, 170] : [240, 240, 236];
      }),
    ],
  ])('%s', (label, rgb) => {
    expect(labels(rgb)).toContain(label);
  });

  test('a photograph by day is none of them', () => {
    expect(labels(grainy(MEADOW))).toEqual([]);
  });

  test('a thing on white stands in no snow, and the Sun on black is no sunset', () => {
    const thing = grainy((x, y) => (Math.hypot(x - 0.5, y - 0.45) < 0.25 ? [120, 80, 40] : [248, 248, 250]));
    expect(labels(thing)).not.toContain('snow');
    const sun = grainy((x, y) => (Math.hypot(x - 0.5, y - 0.5) < 0.2 ? [240, 150, 50] : [2, 2, 4]));
    expect(labels(sun)).not.toContain('sunset');
  });

  test('a page that is dark or white has no hour and no weather', () => {
    expect(
      labels(painted((x, y) => PAGE(x, y).map((value) => 255 - value) as unknown as Colour)),
    ).not.toContain('snow');
    expect(labels(painted(PAGE))).not.toEqual(expect.arrayContaining(['snow', 'night']));
  });

  test('portrait is a matter of the shape, whatever is on it', () => {
    expect(labels(grainy(MEADOW), 0.66)).toEqual(['portrait shape']);
    expect(labels(grainy(MEADOW), 1)).toEqual([]);
    expect(labels(grainy(MEADOW), 0.9)).toEqual([]);
  });

  test('each label is told once, between 0 and 1, with a reason; whatever is painted', () => {
    for (let seed = 1; seed <= 12; seed++) {
      const chance = seeded(seed);
      const rgb = painted(() => [chance.below(256), chance.below(256), chance.below(256)]);
      const flat = painted(() => [seed * 20, 255 - seed * 20, seed % 2 === 0 ? 0 : 255]);
      for (const one of [rgb, flat]) {
        const found = lookOf(one, [0.1, 1, 8][seed % 3]!).computed;
        expect(new Set(found.map(({ label }) => label)).size).toBe(found.length);
        for (const { confidence, reason } of found) {
          expect(confidence).toBeGreaterThan(0);
          expect(confidence).toBeLessThanOrEqual(1);
          expect(reason).toMatch(/^[A-Z0-9].*\.$/);
        }
      }
    }
  });

  test('writing is among the features, and an image without any has none', () => {
    expect(lookOf(painted(PAGE), 0.7).features.whole.at(-1)).toBe(1);
    expect(lookOf(grainy(MEADOW), 1.5).features.whole.at(-1)).toBe(0);
  });

  test('the smaller square is made of means', () => {
    const by = DETAIL_SIDE / FEATURE_SIDE;
    const small = featureSquare(
      painted((x) => [Math.floor(x * DETAIL_SIDE) % by < by / 2 ? 0 : 200, 40, 255]),
    );
    expect(small.length).toBe(3 * FEATURE_SIDE ** 2);
    expect([...small.slice(0, 3)]).toEqual([100, 40, 255]);
  });
});
