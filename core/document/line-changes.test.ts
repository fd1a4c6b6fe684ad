import { expect, test } from 'vitest';
import { lineEdits, lineRuns, sayChanges, sumOf } from './line-changes.ts';

test.each<[string, string, object, string]>([
  ['a\nb\nc\n', 'a\nb\nc\n', { added: 0, removed: 0, changed: 0 }, 'no line changed'],
  ['a\nb\nc\n', 'a\nB\nc\n', { added: 0, removed: 0, changed: 1 }, '1 line changed'],
  ['a\nb\nc\n', 'a\nB\nB2\nc\nd\n', { added: 2, removed: 0, changed: 1 }, '1 line changed, 2 added'],
  ['a\nb\nc\n', 'c\n', { added: 0, removed: 2, changed: 0 }, '2 lines removed'],
  ['', 'a\n', { added: 1, removed: 0, changed: 0 }, '1 line added'],
  ['a\nb\n', '', { added: 0, removed: 2, changed: 0 }, '2 lines removed'],
  ['a', 'a\n', { added: 0, removed: 0, changed: 1 }, '1 line changed'],
])('of %j and %j', (before, after, sums, says) => {
  const changes = sumOf(lineEdits(before, after));
  expect(changes).toEqual(sums);
  expect(sayChanges(changes)).toBe(says);
});

test.each<[number, number, number, string]>([
  [1, 0, 0, '1 cell changed'],
  [1200, 1, 0, '1,200 cells changed, 1 row added'],
  [2, 3, 4, '2 cells changed, 3 rows added, 4 removed'],
  [0, 0, 1, '1 row removed'],
  [0, 0, 0, 'no cell changed'],
])('of a workbook: %i, %i, %i', (changed, added, removed, says) =>
  expect(sayChanges({ changed, added, removed }, true)).toBe(says),
);

test('runs of lines give both texts again', () => {
  const [before, after] = ['one\ntwo\nthree\n', 'one\n2\nthree\nfour\n'];
  const runs = lineRuns(before, after);
  const of = (not: string) =>
    runs
      .flatMap(({ what, lines }) => (what === not ? [] : lines))
      .map((line) => `${line}\n`)
      .join('');
  expect(of('added')).toBe(before);
  expect(of('removed')).toBe(after);
});

test('lines that change are told with their numbers in the new text', () => {
  expect(lineEdits('a\nb\nc\nd\n', 'a\nB\nnew\nd\nend\n')).toEqual([
    { line: 2, before: 'b', after: 'B' },
    { line: 3, before: 'c', after: 'new' },
    { line: 5, before: undefined, after: 'end' },
  ]);
  expect(lineEdits('a\nb\nc\n', 'c\n')).toEqual([
    { line: 1, before: 'a', after: undefined },
    { line: 1, before: 'b', after: undefined },
  ]);
});
