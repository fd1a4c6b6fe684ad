import { describe, expect, test } from 'vitest';
import { seeded } from '../test/chance.ts';
import { dominantColours } from './colours.ts';
import { bitsOf } from './hash-index.ts';
import { verify } from './alike.ts';
import { candidatesOf } from './matcher.ts';
import { Prepared } from './windows.ts';
import { PLANE, planeOf } from './signature.ts';

/** An image of blobs, by its number, drawn at any point from 0 to 1. */
function scene(seed: number): (x: number, y: number) => number {
  let state = seed * 2654435761;
  const next = () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
  const blobs = Array.from({ length: 30 }, () => [next(), next(), 0.02 + next() * 0.1, next() * 200 - 60]);
  return (x, y) => {
    let value = 90;
    for (const [bx, by, r, v] of blobs) if (Math.hypot(x - bx!, y - by!) < r!) value += v!;
    return Math.max(0, Math.min(255, value));
  };
}
const draw = (at: (x: number, y: number) => number) =>
  Uint8Array.from({ length: PLANE * PLANE }, (_, i) =>
    Math.round(at(((i % PLANE) + 0.5) / PLANE, (Math.floor(i / PLANE) + 0.5) / PLANE)),
  );
function compare(a: Uint8Array, b: Uint8Array) {
  const [one, other] = [a, b].map(
    (plane) => new Prepared({ plane, chroma: null, width: 900, height: 900 }),
  ) as [Prepared, Prepared];
  for (const way of candidatesOf(one, other)) {
    const found = way.one === 0 ? verify(one, other, way) : verify(other, one, way);
    if (found) return found;
  }
  return undefined;
}

describe('look-alikes', () => {
  test('the same image with noise, other light, and other contrast is alike', () => {
    for (let seed = 1; seed <= 20; seed++) {
      const at = scene(seed);
      const plain = draw(at);
      const edited = draw((x, y) => at(x, y) * 0.85 + 12 + 6 * Math.sin(x * 900 + y * 700));
      expect(compare(plain, edited), `${seed}`).toMatchObject({ orientation: 0 });
    }
  });
  test('mirrored and turned images are found, and told as turned', () => {
    const turns: ((x: number, y: number) => [number, number])[] = [
      (x, y) => [1 - x, y],
      (x, y) => [x, 1 - y],
      (x, y) => [1 - x, 1 - y],
      (x, y) => [y, x],
      (x, y) => [y, 1 - x],
      (x, y) => [1 - y, x],
      (x, y) => [1 - y, 1 - x],
    ];
    for (const [index, turn] of turns.entries()) {
      const at = scene(50 + index);
      expect(
        compare(
          draw(at),
          draw((x, y) => at(...turn(x, y))),
        ),
        `${index}`,
      ).toMatchObject({ relation: 'turned' });
    }
  });
  test('different images are not alike', () => {
    const planes = Array.from({ length: 40 }, (_, i) => draw(scene(100 + i)));
    for (let i = 0; i < planes.length; i++)
      for (let j = i + 1; j < planes.length; j++)
        expect(compare(planes[i]!, planes[j]!), `${i} ${j}`).toBeUndefined();
  });
  test('plain, blank and smoothly shaded images are not taken for one another', () => {
    const flat = draw(() => 128);
    const white = draw(() => 255);
    const shaded = draw((x) => x * 255);
    const other = draw((x, y) => (x * 0.6 + y * 0.4) * 255);
    for (const [a, b] of [
      [flat, white],
      [flat, flat],
      [shaded, other],
      [flat, shaded],
    ] as const)
      expect(compare(a, b)).toBeUndefined();
  });
  test('a symmetric drawing keeps its hash when it is sized and encoded: coefficients that are noise decide nothing', () => {
    const disc = (x: number, y: number) => ((x - 0.5) ** 2 + (y - 0.5) ** 2 < 0.08 ? 60 : 250);
    const cross = (x: number, y: number) => (Math.abs(x - 0.5) < 0.1 || Math.abs(y - 0.5) < 0.1 ? 20 : 240);
    for (const shape of [disc, cross]) {
      const { below } = seeded(5);
      const clean = new Prepared({ plane: draw(shape), width: 300, height: 300, chroma: null });
      const noisy = draw(shape).map((value) => Math.max(0, Math.min(255, value + below(7) - 3)));
      const [[h, l], [high, low]] = [
        clean.hashes[0]!,
        new Prepared({ plane: noisy, width: 300, height: 300, chroma: null }).hashes[0]!,
      ];
      expect(bitsOf(h ^ high) + bitsOf(l ^ low)).toBeLessThanOrEqual(2);
    }
  });
  test('luminance follows the eye: green weighs most', () => {
    const rgb = new Uint8Array(PLANE * PLANE * 3);
    rgb.set([255, 0, 0, 0, 255, 0, 0, 0, 255]);
    expect([...planeOf(rgb).subarray(0, 4)]).toEqual([76, 150, 29, 0]);
  });
});

describe('colours', () => {
  const pixels = (...parts: [number, [number, number, number]][]) =>
    Uint8Array.from(parts.flatMap(([count, rgb]) => Array.from({ length: count }, () => rgb).flat()));
  test('the largest share first, near ones once, slight ones not at all', () => {
    expect(
      dominantColours(
        pixels([600, [200, 30, 30]], [300, [20, 20, 200]], [95, [205, 38, 34]], [5, [0, 255, 0]]),
      ),
    ).toEqual(['#c81e1e', '#1414c8']);
  });
  test('one colour, and no pixels', () => {
    expect(dominantColours(pixels([4, [255, 255, 255]]))).toEqual(['#ffffff']);
    expect(dominantColours(new Uint8Array())).toEqual([]);
  });
});
