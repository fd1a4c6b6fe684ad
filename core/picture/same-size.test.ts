import { expect, test } from 'vitest';
import { PLANE } from './signature.ts';
import { showsTheSame } from './same-size.ts';

const look = (luminance: (x: number, y: number) => number, colour = 0) => ({
  plane: Uint8Array.from({ length: PLANE * PLANE }, (_, i) => luminance(i % PLANE, Math.floor(i / PLANE))),
  chroma: new Int8Array(128).fill(colour),
});
const hill = (x: number, y: number) => (y > 64 + 20 * Math.sin(x / 20) ? 60 : 190);

test('a sized and encoded image differs by little noise; a blurred edge is no other image', () => {
  const noisy = look((x, y) => hill(x, y) + ((x * 7 + y * 13) % 9) - 4);
  expect(showsTheSame(look(hill), noisy)).toBe(true);
  const soft = look((x, y) => (hill(x - 1, y) + hill(x, y) + hill(x + 1, y) + hill(x, y - 1)) / 4);
  expect(showsTheSame(look(hill), soft)).toBe(true);
});

test('another image of the same shape, a turned one, another colour and a stamp on it are told apart', () => {
  expect(
    showsTheSame(
      look(hill),
      look((x, y) => (x > y ? 60 : 190)),
    ),
  ).toBe(false);
  expect(
    showsTheSame(
      look(hill),
      look((x, y) => hill(PLANE - 1 - x, y)),
    ),
  ).toBe(false);
  expect(showsTheSame(look(hill), look(hill, 30))).toBe(false);
  const stamped = look((x, y) => (x < 24 && y < 24 ? 20 : hill(x, y)));
  expect(showsTheSame(look(hill), stamped)).toBe(false);
});
