import { describe, expect, test } from 'vitest';
import { bagInfo, bagPathFault, manifestLine, readLabels, readManifest } from './bag.ts';

const HASH = 'ab'.repeat(32);

describe('manifests', () => {
  test.each([
    'data/a.txt',
    'data/a b/ä, “é”.txt',
    'data/line\nbreak',
    'data/cr\r',
    'data/50%.txt',
    'data/%0A',
    'data/ a',
    'data/a ',
  ])('%j is read as it was written', (path) => {
    const text = manifestLine({ path, hash: HASH });
    expect(text.split(/\r|\n/)).toHaveLength(2);
    expect(readManifest(text, 'sha256')).toEqual({ lines: [{ line: 1, path, hash: HASH }], faults: [] });
  });

  test('of other programs: tabs, stars, capitals, other line ends', () => {
    const text = `${HASH.toUpperCase()}\tdata/a\r\n${HASH} *data/b\r${HASH}   ./data/c\n\n`;
    const { lines, faults } = readManifest(text, 'sha256');
    expect(faults).toEqual([]);
    expect(lines.map(({ line, path, hash }) => [line, path, hash])).toEqual([
      [1, 'data/a', HASH],
      [2, 'data/b', HASH],
      [3, 'data/c', HASH],
    ]);
  });

  test('a million lines take no longer than they must, and one that is none is told', () => {
    const text =
      `${`${HASH}  data/`}x\n`.repeat(3) +
      Array.from({ length: 200_000 }, (_, at) => `${HASH}  data/f${at}\n`).join('') +
      `${' '.repeat(100_000)}!\n`;
    const { lines, faults } = readManifest(text, 'sha256');
    expect(lines).toHaveLength(200_001);
    expect(faults.map(({ line }) => line)).toEqual([2, 3, 200_004]);
  });
});

test.each([
  '',
  '/etc/passwd',
  '\\\\server\\x',
  'C:/x',
  '~/x',
  '../x',
  'data/../../x',
  'data//x',
  'data/./x',
  'data/\0',
])('%j is no path of a bag', (path) => {
  expect(bagPathFault(path)).toMatch(/\.$/);
});
test('what only looks like it is one', () => {
  for (const path of ['data/..x', 'data/x..', 'data/a:b', 'data/~x', 'data/...'])
    expect(bagPathFault(path)).toBeUndefined();
});

test('labels: folded lines go on, line ends in values are blanks, capitals do not matter', () => {
  const text = bagInfo([
    ['Source-Organization', 'Corvane Hill'],
    ['Iconomos-Note', 'one\r\n  two: three'],
  ]);
  expect(text.split('\n')).toHaveLength(3);
  expect(readLabels(text)).toEqual(
    new Map([
      ['source-organization', 'Corvane Hill'],
      ['iconomos-note', 'one two: three'],
    ]),
  );
  expect(
    readLabels('\ufeffBagIt-Version: 1.0\r\nDescription: a\r\n  b\r\n\tc\r\nno label').get('description'),
  ).toBe('a b c');
});
