import { expect, test } from 'vitest';
import type { Alike, Relation } from './alike.ts';
import { Likenesses } from './likeness.ts';
import type { MatchCandidate } from './matcher.ts';

const way = (one: number, other: number, orientation = 0): MatchCandidate => ({
  one,
  other,
  window: 0,
  orientation,
  bits: 0,
});
const alike = (relation: Relation, sure: number): Alike => ({
  relation,
  sure,
  weak: false,
  window: { x: 0, y: 0, w: 1, h: 1 },
  exchanged: false,
  orientation: 0,
});
/** Every two of some images, in both ways. */
const everyTwo = (count: number) =>
  Array.from({ length: count * count }, (_, at) => [Math.floor(at / count), at % count] as const)
    .filter(([a, b]) => a !== b)
    .map(([a, b]) => way(a, b));

test('of an image with many variants each is verified against the two largest, and all pairs are known', () => {
  const looked: string[] = [];
  const likenesses = new Likenesses(
    ({ one, other }) => {
      looked.push([one, other].sort((a, b) => a - b).join(' '));
      return alike(Math.max(one, other) === 9 ? 'cropped' : 'resized', 0.8);
    },
    (id) => 1000 - id,
  );
  const pairs = likenesses.find(everyTwo(40));
  expect(pairs).toHaveLength((40 * 39) / 2);
  expect(new Set(looked).size).toBe(looked.length);
  expect(looked).toHaveLength(39 + 38);
  expect(looked.filter((one) => one.startsWith('0 '))).toHaveLength(39);
  // What two are to each other by what both are like: the greater change, and less sure than what was seen.
  expect(likenesses.between(7, 9)).toMatchObject({ relation: 'cropped', sure: 0.4 });
  expect(likenesses.between(7, 8)).toMatchObject({ relation: 'resized', sure: 0.4 });
  expect(likenesses.between(9, 0)).toMatchObject({ relation: 'cropped', sure: 0.8 });
});

test('one that is like hardly any, or hardly at all, speaks for no others', () => {
  for (const doubt of [alike('edited', 0.2), { ...alike('resized', 0.9), weak: true }]) {
    let looked = 0;
    const likenesses = new Likenesses(
      () => (looked++, doubt),
      () => 1,
    );
    likenesses.find([way(0, 1), way(0, 2), way(0, 3), way(1, 2), way(1, 3), way(2, 3)]);
    expect(looked).toBe(6);
  }
  // Like one other only: it is looked at.
  let looked = 0;
  const likenesses = new Likenesses(
    ({ one }) => (looked++, one === 0 ? alike('resized', 0.9) : undefined),
    (id) => -id,
  );
  expect(likenesses.find([way(0, 1), way(0, 2), way(1, 2)])).toHaveLength(2);
  expect(looked).toBe(3);
  expect(likenesses.between(1, 2)).toBeUndefined();
});

test('of several ways the surest counts; one beyond doubt ends the search; what is known is told again only when surer', () => {
  const sure = [0.05, 0.2, 0.9, 0.95];
  const tried: number[] = [];
  const likenesses = new Likenesses(
    ({ orientation }) => (tried.push(orientation), alike('turned', sure[orientation]!)),
    () => 1,
  );
  likenesses.know({ one: 1, other: 0, relation: 'edited', sure: 0.1, weak: false });
  expect(likenesses.find([0, 1, 2, 3].map((turn) => way(0, 1, turn)))).toEqual([
    { one: 0, other: 1, relation: 'turned', sure: 0.9, weak: false },
  ]);
  expect(tried).toEqual([0, 1, 2]);
  expect(likenesses.find([way(1, 0, 3)])).toEqual([]);
  expect(tried).toHaveLength(3);
});
