import { expect, test } from 'vitest';
import { groupsOf, type Pair } from './groups.ts';

const facts = (...pixels: number[]) => pixels.map((one, at) => ({ id: at + 1, pixels: one, bytes: one }));
const pair = (one: number, other: number, more: Partial<Pair> = {}): Pair => ({
  one,
  other,
  relation: 'resized',
  sure: 0.8,
  weak: false,
  ...more,
});
const ids = (pictures: ReturnType<typeof facts>, pairs: Pair[]) =>
  groupsOf(pictures, pairs).map((group) => group.map((one) => one.id));

test('the largest is the original; who is like it, or like two of the others, belongs to it', () => {
  expect(ids(facts(100, 400, 300, 200), [pair(1, 2), pair(3, 2), pair(4, 1), pair(4, 3)])).toEqual([
    [2, 1, 3, 4],
  ]);
});
test('a chain of pairs is no group', () => {
  expect(ids(facts(500, 400, 300, 200), [pair(1, 2), pair(2, 3), pair(3, 4)])).toEqual([
    [1, 2],
    [3, 4],
  ]);
});
test('without structure two make a pair, and join nothing', () => {
  const weak = { weak: true };
  expect(
    ids(facts(500, 400, 300), [pair(1, 2, weak), pair(2, 3, weak), pair(1, 3, { ...weak, sure: 0.9 })]),
  ).toEqual([[1, 3]]);
  expect(ids(facts(500, 400, 300), [pair(1, 2), pair(2, 3, weak)])).toEqual([[1, 2]]);
});
test('the relation to the original is told, and how sure it is; the surest first', () => {
  const [group] = groupsOf(facts(500, 400, 300), [
    pair(1, 2, { relation: 'cropped', sure: 0.4 }),
    pair(1, 3, { sure: 0.9 }),
  ]);
  expect(group).toEqual([
    { id: 1, relation: null, sure: 1 },
    { id: 3, relation: 'resized', sure: 0.9 },
    { id: 2, relation: 'cropped', sure: 0.4 },
  ]);
});
test('pairs of images that are gone, and of one with itself, are passed over', () => {
  expect(ids(facts(5, 4), [pair(1, 9), pair(2, 2)])).toEqual([]);
});
