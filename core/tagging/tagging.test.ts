import { describe, expect, test } from 'vitest';
import { seeded } from '../test/chance.ts';
import { distanceOf, FEATURE_GROUPS, FEATURE_SIDE, featuresOf, type Features } from './features.ts';
import { voteOn, type Example } from './vote.ts';

type Paint = (x: number, y: number) => readonly [number, number, number];
/** An image painted pixel by pixel; x and y from 0 to 1. */
function painted(paint: Paint, aspect = 1.5): Features {
  const rgb = new Uint8Array(3 * FEATURE_SIDE * FEATURE_SIDE);
  for (let y = 0; y < FEATURE_SIDE; y++)
    for (let x = 0; x < FEATURE_SIDE; x++)
      rgb.set(paint(x / FEATURE_SIDE, y / FEATURE_SIDE), 3 * (y * FEATURE_SIDE + x));
  return featuresOf(rgb, aspect);
}
const noise = (seed: number): Paint => {
  const chance = seeded(seed);
  return () => [chance.below(256), chance.below(256), chance.below(256)];
};
/** A disc on a ground, somewhere. */
const disc =
  (colour: readonly [number, number, number], ground: readonly [number, number, number], at = 0.5): Paint =>
  (x, y) =>
    Math.hypot(x - at, y - 0.5) < 0.22 ? colour : ground;
const dusk =
  (horizon: number): Paint =>
  (_x, y) =>
    y < horizon ? [230 - 120 * y, 120 + 40 * y, 90 + 100 * y] : [20, 24, 28];

describe('features', () => {
  test('are numbers from 0 to 1, whatever the image and its shape', () => {
    for (let seed = 1; seed <= 20; seed++)
      for (const features of [
        painted(noise(seed), [0.01, 0.5, 1, 3, 100][seed % 5]),
        painted(() => [seed * 12, 255 - seed * 12, 0]),
        painted(() => [seed % 2 === 0 ? 0 : 255, seed % 2 === 0 ? 0 : 255, seed % 2 === 0 ? 0 : 255]),
      ])
        for (const group of FEATURE_GROUPS)
          for (const value of features[group]) {
            expect(value).toBeGreaterThanOrEqual(0);
            expect(value).toBeLessThanOrEqual(1);
          }
  });

  test('of the same image are the same; how far two are apart does not depend on which comes first', () => {
    const [one, other] = [painted(noise(3)), painted(dusk(0.6))];
    expect(distanceOf(one, painted(noise(3)))).toBe(0);
    expect(distanceOf(one, other)).toBeCloseTo(distanceOf(other, one), 6);
    expect(distanceOf(one, other)).toBeGreaterThan(0.3);
  });

  test('hues are shares that make a whole, and a grey image has none but by its lightness', () => {
    for (const paint of [noise(5), dusk(0.4), disc([250, 240, 200], [8, 10, 30])])
      expect(painted(paint).hues.reduce((sum, share) => sum + share, 0)).toBeCloseTo(1, 4);
    const grey = painted((x) => [255 * x, 255 * x, 255 * x]);
    expect(grey.hues.slice(0, 12).every((share) => share === 0)).toBe(true);
  });

  test('plain ground, horizon and shape are found where they are', () => {
    const [lightness, , , ground, horizon, strength, shape] = painted(dusk(0.7), 1).whole;
    expect(horizon).toBeCloseTo(0.7, 1);
    expect(strength).toBeGreaterThan(0.5);
    expect(shape).toBe(0.5);
    expect(lightness).toBeLessThan(0.6);
    expect(ground).toBeLessThan(0.7);
    expect(painted(disc([200, 60, 40], [250, 250, 250])).whole[3]).toBeGreaterThan(0.8);
    expect(painted(disc([200, 60, 40], [250, 250, 250])).whole[5]).toBeLessThan(0.5);
  });

  test('a little lighter, shifted or of another shape lies nearer than another subject', () => {
    const moon = painted(disc([235, 230, 210], [6, 8, 20]));
    const near = [
      painted(disc([250, 246, 230], [10, 12, 26])),
      painted(disc([235, 230, 210], [6, 8, 20], 0.44)),
      painted(disc([235, 230, 210], [6, 8, 20]), 1.3),
    ];
    const far = [painted(dusk(0.6)), painted(disc([200, 60, 40], [250, 250, 250])), painted(noise(9))];
    const nearest = Math.max(...near.map((one) => distanceOf(moon, one)));
    for (const one of far) expect(distanceOf(moon, one)).toBeGreaterThan(2 * nearest);
  });
});

describe('the vote', () => {
  const moon = (light: number): Features => painted(disc([light, light, light - 20], [6, 8, 20]));
  const example = (key: string, features: Features, ...labels: string[]): Example<string> => ({
    key,
    features,
    labels,
  });
  const MOONS = [235, 228, 221].map((light, at) => example(`moon-${at}`, moon(light), 'Moon', 'Moon'));

  test('of near ones that agree is sure, says why, and counts each of them once', () => {
    const [first, ...others] = voteOn(moon(233), [...MOONS, example('dusk', painted(dusk(0.6)), 'dusk')]);
    expect(first).toMatchObject({ label: 'Moon', because: ['moon-0', 'moon-1', 'moon-2'] });
    expect(first!.confidence).toBeGreaterThan(0.85);
    expect(first!.confidence).toBeLessThan(1);
    expect(others).toEqual([]);
  });

  test('is less sure the fewer agree, and convinces nobody from far away', () => {
    const mixed = [MOONS[0]!, example('a', moon(229), 'planet'), example('b', moon(222), 'planet')];
    const sure = new Map(voteOn(moon(233), mixed).map(({ label, confidence }) => [label, confidence]));
    expect(sure.get('planet')).toBeGreaterThan(sure.get('Moon')!);
    expect(sure.get('planet')).toBeLessThan(0.85);
    for (const { confidence } of voteOn(painted(noise(4)), MOONS)) expect(confidence).toBeLessThan(0.5);
  });

  test('without anybody who has tagged anything nothing is said', () => {
    expect(voteOn(moon(233), [])).toEqual([]);
    expect(voteOn(moon(233), [example('untagged', moon(233))])).toEqual([]);
  });

  test('never adds up to more than there is, whatever is tagged', () => {
    const chance = seeded(12);
    const examples = Array.from({ length: 40 }, (_, at) =>
      example(String(at), painted(noise(at + 100)), ...['a', 'b', 'c'].filter(() => chance.below(2) === 0)),
    );
    for (let round = 0; round < 20; round++) {
      const votes = voteOn(painted(noise(round + 300)), examples);
      for (const { confidence, because } of votes) {
        expect(confidence).toBeGreaterThan(0);
        expect(confidence).toBeLessThan(1);
        expect(because.length).toBeLessThanOrEqual(3);
      }
      expect(votes.map((one) => one.confidence)).toEqual(
        votes.map((one) => one.confidence).sort((a, b) => b - a),
      );
    }
  });
});
