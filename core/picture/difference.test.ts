import { expect, test } from 'vitest';
import { seeded } from '../test/chance.ts';
import { differenceOf, OVERLAY } from './difference.ts';

type At = (x: number, y: number) => number;
/** A soft scene of its number, points from 0 to 1. */
function scene(number: number): At {
  const { below } = seeded(number);
  const waves = Array.from({ length: 8 }, () => [below(20), below(20), below(628) / 100, 10 + below(20)]);
  return (x, y) => waves.reduce((sum, [u, v, p, a]) => sum + a! * Math.sin(u! * x + v! * y + p!), 120);
}
const WHOLE = { x: 0, y: 0, w: 1, h: 1 };
const drawn = (at: At, noise = 0) => {
  const { below } = seeded(77);
  return Uint8Array.from({ length: OVERLAY * OVERLAY * 3 }, (_, i) => {
    const point = Math.floor(i / 3);
    const value = at((point % OVERLAY) / OVERLAY, Math.floor(point / OVERLAY) / OVERLAY);
    return Math.max(0, Math.min(255, Math.round(value + (noise ? below(2 * noise) - noise : 0))));
  });
};
const painted =
  (at: At, { x, y, w, h }: typeof WHOLE): At =>
  (px, py) =>
    px >= x && px < x + w && py >= y && py < y + h
      ? at(px, py) + (at(px, py) > 128 ? -110 : 110)
      : at(px, py);
const near = (place: typeof WHOLE, wanted: typeof WHOLE) => {
  for (const side of ['x', 'y', 'w', 'h'] as const)
    expect(Math.abs(place[side] - wanted[side]), `${side} of ${JSON.stringify(place)}`).toBeLessThan(0.03);
};

test('the same image, with noise, a point beside, or in other light, has no marks; the light is told', () => {
  for (let number = 1; number <= 3; number++) {
    const at = scene(number);
    const one = drawn(at);
    expect(differenceOf(one, one, WHOLE, 0)).toEqual({ share: 0, lighter: 0, marks: [] });
    expect(differenceOf(one, drawn(at, 9), WHOLE, 0).marks).toEqual([]);
    expect(
      differenceOf(
        one,
        drawn((x, y) => at(x + 1 / OVERLAY, y)),
        WHOLE,
        0,
      ).marks,
    ).toEqual([]);
    const lit = differenceOf(
      one,
      drawn((x, y) => at(x, y) * 0.9 + 30),
      WHOLE,
      0,
    );
    expect(lit.marks).toEqual([]);
    expect(lit.lighter).toBeGreaterThan(10);
  }
});

test('what was painted over is marked in both images, wherever and however the other is turned', () => {
  const { below } = seeded(5);
  for (let number = 1; number <= 8; number++) {
    const at = scene(number);
    const orientation = number % 8;
    const place = { x: 0.1 + below(50) / 100, y: 0.1 + below(50) / 100, w: 0.15, h: 0.2 };
    // As the other image is, `place` is painted over; turned by its orientation it fits the first.
    const other = painted(at, place);
    const [mirrorX, mirrorY, swap] = [orientation & 1, orientation & 2, orientation & 4];
    const turned =
      (of: At): At =>
      (x, y) => {
        const [sx, sy] = [mirrorX ? 1 - 1 / OVERLAY - x : x, mirrorY ? 1 - 1 / OVERLAY - y : y];
        return swap ? of(sy, sx) : of(sx, sy);
      };
    const found = differenceOf(drawn(turned(at)), drawn(other), WHOLE, orientation);
    expect(found.marks.length, `${number}`).toBeGreaterThan(0);
    near(found.marks[0]!.other, place);
    expect(found.share).toBeGreaterThan(0.015);
    expect(found.share).toBeLessThan(0.06);
  }
});

test('of a part, places are told as parts of the whole image', () => {
  const at = scene(3);
  const window = { x: 0.2, y: 0.1, w: 0.5, h: 0.8 };
  const part =
    (of: At): At =>
    (x, y) =>
      of(window.x + x * window.w, window.y + y * window.h);
  const place = { x: 0.4, y: 0.5, w: 0.1, h: 0.16 };
  const found = differenceOf(drawn(part(at)), drawn(part(painted(at, place))), window, 0);
  expect(found.window).toEqual(window);
  near(found.marks[0]!.one, place);
  near(found.marks[0]!.other, { x: 0.4, y: 0.5, w: 0.2, h: 0.2 });
});

test('specks of one cell are passed over', () => {
  const at = scene(9);
  const speck = painted(at, { x: 0.5, y: 0.5, w: 4 / OVERLAY, h: 4 / OVERLAY });
  expect(differenceOf(drawn(at), drawn(speck), WHOLE, 0).marks).toEqual([]);
});
