import { describe, expect, test } from 'vitest';
import { colourName } from './colour.ts';
import { sentenceOf } from './holds.ts';
import { conditionsOf, readQuery, writeQuery, type Group, type Node } from './query.ts';
import { takes, TEST_NAMES, TESTS, type Test } from './tests.ts';

/** Numbers that look random and are the same in every run (a linear congruential generator, Numerical Recipes). */
function dice(seed: number) {
  const next = () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 4294967296;
  return { next, pick: <Value>(values: readonly Value[]) => values[Math.floor(next() * values.length)]! };
}
const query = (...of: Node[]): Group => ({ join: 'all', not: false, of });

describe('a query in the address bar', () => {
  test('is read again as it was written, whatever its shape and its values', () => {
    const { next, pick } = dice(7);
    const texts = ['moon', 'a,b', 'x(y)!', 'ä : %2C', "o'brien", 'all(', '日本'];
    const node = (depth: number): Node =>
      depth < 3 && next() < 0.4
        ? {
            join: next() < 0.5 ? 'all' : 'any',
            not: next() < 0.3,
            of: Array.from({ length: Math.floor(next() * 4) }, () => node(depth + 1)),
          }
        : { test: next() < 0.5 ? 'tag' : 'name', value: pick(texts), not: next() < 0.3 };
    for (let round = 0; round < 300; round++) {
      // Two at the top: one alone that is a group becomes the query itself.
      const one = query(node(0), node(0));
      expect(readQuery(writeQuery(one), takes)).toEqual(one);
    }
    expect(readQuery('', takes)).toEqual(query());
  });
  test('reads as words', () => {
    const text = 'kind:image,!tag:open%20night,any(no:alt,no:title)';
    const read = readQuery(text, takes);
    expect([...conditionsOf(read)].map(sentenceOf)).toEqual([
      'kind is image',
      'not tagged “open night”',
      'no alt text',
      'no title',
    ]);
    expect(writeQuery(read)).toBe(text);
  });
  test.each([
    'kind:painting',
    'kinds:image',
    'kind:image,',
    'any(kind:image',
    'kind:image)',
    'wider:-3',
    'added:2026-13',
    'added-since:2026-02-30',
    'name',
    'tag:%E0%A4%A',
    'any(any(any(any(any(kind:image)))))',
    Array.from({ length: 101 }, () => 'kind:image').join(','),
  ])('%s is told, not guessed', (text) => {
    expect(() => readQuery(text, takes)).toThrow(SyntaxError);
  });
});

test('every test says itself and its opposite in other words', () => {
  const values: Record<string, string> = {
    date: '2026-03-07',
    month: '2026-03',
    pixels: '2000',
    bytes: '1500000',
    seconds: '30',
    item: '7',
    none: '',
  };
  for (const name of TEST_NAMES) {
    const test: Test = TESTS[name];
    for (const value of test.choices ?? [values[test.value] ?? 'moon']) {
      expect(takes(name, value), `${name}: ${value}`).toBe(true);
      const [says, denies] = [test.says(value), test.denies(value)];
      expect(says).not.toBe(denies);
      expect(says + denies).not.toMatch(/undefined|NaN/);
    }
  }
  expect(TESTS.added.says('2026-03')).toBe('added in March 2026');
  expect(TESTS['licence-ends'].says('2026-03-07')).toBe('licence ends before 7 March 2026');
  expect(TESTS.heavier.says('1500000')).toBe('larger than 1.5 MB');
});

test.each([
  ['#000000', 'black'],
  ['#0a1220', 'black'],
  ['#808080', 'grey'],
  ['#fbf9f3', 'white'],
  ['#c02020', 'red'],
  ['#e07010', 'orange'],
  ['#5a3a1a', 'brown'],
  ['#e8d020', 'yellow'],
  ['#20a040', 'green'],
  ['#1d9299', 'turquoise'],
  ['#2050c0', 'blue'],
  ['#7030c0', 'violet'],
  ['#f0a0c0', 'pink'],
])('%s is called %s', (hex, name) => expect(colourName(hex)).toBe(name));
