import { describe, expect, test } from 'vitest';
import { NO_WORDS, type Words } from '../describe/fields.ts';
import { careMarks } from '../describe/record.ts';
import { neutralCell } from '../describe/table.ts';
import { justifiedRows, placeWidth, rowOf } from '../picture/rows.ts';
import { SiteMap } from '../reference/resolve.ts';
import { useOf } from '../reference/survey.ts';
import { rewritePage } from '../reference/rewrite.ts';
import { planAddresses } from './address.ts';
import { planAside, planRestore } from './aside.ts';
import { inverseFiles } from './inverse.ts';
import { isEmpty, type FileStep } from './plan.ts';
import { planWords } from './words.ts';

const words: Words = { ...NO_WORDS, tags: ['b', 'a'] };

describe('words', () => {
  const item = { id: 1, path: 'a.png', rowVersion: 3, words };
  test('only what changes is in the plan, tidied', () => {
    const plan = planWords(item, {
      alt: '  A hill\u0301 ',
      title: '',
      tags: ['Moon ', 'moon', ' the   sky'],
    });
    expect(plan.records).toEqual([
      {
        itemId: 1,
        rowVersion: 3,
        before: { alt: '', tags: ['b', 'a'] },
        after: { alt: 'A hill\u0301'.normalize('NFC'), tags: ['Moon', 'the sky'] },
      },
    ]);
  });
  test('nothing changed is an empty plan', () => {
    expect(isEmpty(planWords(item, { alt: ' ', decorative: false }))).toBe(true);
  });
});

describe('addresses', () => {
  const snapshot = (paths: string[], page = '') => ({
    paths,
    rewrite: (moves: ReadonlyMap<string, string>) => {
      const site = new SiteMap(paths);
      const bytes = new TextEncoder().encode(page);
      const rewrite = rewritePage('p.html', bytes, moves, site, site.withMoves(moves));
      return Promise.resolve([{ path: 'p.html', sha256: 'x', rewrite }]);
    },
    mentions: [],
  });
  const one = (path: string, id = 1) => ({ id, path, sha256: `sha-${id}`, rowVersion: 1 });
  test('several items at once, also into each other’s folders, each page rewritten once', async () => {
    const paths = ['p.html', 'a/1.png', 'b/2.png'];
    const moves = new Map([
      [1, 'b/1.png'],
      [2, 'a/2.png'],
    ]);
    const { plan, contents } = await planAddresses(
      [one('a/1.png', 1), one('b/2.png', 2)],
      moves,
      snapshot(paths, '<img src=a/1.png><img src=b/2.png>'),
    );
    expect(plan.clashes).toEqual([]);
    expect(plan.totals).toMatchObject({ items: 2, pages: 1, spans: 2 });
    expect(new TextDecoder().decode(contents[0]!.bytes)).toBe('<img src=b/1.png><img src=a/2.png>');
  });
  test('two items to one address, or to one that differs only in case, is a clash', async () => {
    const { plan } = await planAddresses(
      [one('a.png', 1), one('b.png', 2)],
      new Map([
        [1, 'c.png'],
        [2, 'C.png'],
      ]),
      snapshot(['a.png', 'b.png']),
    );
    expect(plan.clashes).toHaveLength(1);
  });
  test('to where it is already: nothing', async () => {
    expect(
      isEmpty((await planAddresses([one('a.png')], new Map([[1, 'a.png']]), snapshot(['a.png']))).plan),
    ).toBe(true);
  });
});

describe('setting aside', () => {
  const item = {
    id: 1,
    path: 'a.png',
    sha256: 'x',
    bytes: 10,
    rowVersion: 1,
    use: 'unused' as const,
    mentions: [],
  };
  test('placed items stay, the others go, and the weight is told', async () => {
    const plan = await planAside([item, { ...item, id: 2, path: 'b.png', use: 'placed' }]);
    expect(plan.files).toEqual([{ do: 'remove', path: 'a.png', sha256: 'x' }]);
    expect(plan.clashes.map((clash) => clash.path)).toEqual(['b.png']);
    expect(plan.totals).toMatchObject({ items: 1, bytesFreed: 10 });
  });
  test('two restores to one address: only the first fits', async () => {
    expect((await planRestore([item, { ...item, id: 2 }], [])).clashes).toHaveLength(1);
  });
});

test('the inverse of the inverse is the plan', async () => {
  const files: FileStep[] = [
    { do: 'move', from: 'a', to: 'b', sha256: '1' },
    { do: 'write', path: 'p', before: '2', after: '3' },
    { do: 'write', path: 'new', before: null, after: '4' },
    { do: 'remove', path: 'r', sha256: '5' },
  ];
  expect(await inverseFiles(await inverseFiles(files))).toEqual(files);
  expect((await inverseFiles(files))[0]).toEqual({ do: 'create', path: 'r', sha256: '5' });
});

test('care marks: images need alt text or to be decorative, other kinds a title, icons nothing', () => {
  const marks = (path: string, kind: 'image' | 'audio', more: Partial<Words> = {}) =>
    careMarks({ path, kind, use: 'placed', nameFaults: [], words: { ...words, ...more } }).described;
  expect([
    marks('a/x.png', 'image'),
    marks('a/x.png', 'image', { decorative: true }),
    marks('a/x.mp3', 'audio', { alt: 'x' }),
    marks('favicon.ico', 'image'),
  ]).toEqual([false, true, false, true]);
});

test('use: placed before mentioned before unused', () => {
  expect([
    useOf('a.png', true, true),
    useOf('a.png', false, true),
    useOf('a.png', false, false),
    useOf('favicon.ico', false, false),
  ]).toEqual(['placed', 'mentioned', 'unused', 'placed']);
});

test('cells that a spreadsheet would run become text; numbers stay', () => {
  expect(['=1+1', '+cmd', '-2+3', '@x', '\tx', '-3.5', 'plain'].map(neutralCell)).toEqual([
    "'=1+1",
    "'+cmd",
    "'-2+3",
    "'@x",
    "'\tx",
    '-3.5',
    'plain',
  ]);
});

test('justified rows hold every image once, in order, within the width', () => {
  const aspects = Array.from({ length: 57 }, (_, i) => [1.5, 0.6, 4, 1, 0.2][i % 5]!);
  const layout = { width: 900, wished: 130, gap: 14, least: 100 };
  const rows = justifiedRows(aspects.length, (index) => aspects[index]!, layout, [20]);
  expect(rows.flatMap((row) => aspects.map((_, i) => i).slice(row.start, row.end))).toEqual(
    aspects.map((_, i) => i),
  );
  expect(rows.some((row) => row.start === 20)).toBe(true);
  for (const row of rows) {
    const width = aspects
      .slice(row.start, row.end)
      .reduce((sum, aspect) => sum + placeWidth(aspect, row, layout), 14 * (row.end - row.start - 1));
    expect(width).toBeLessThanOrEqual(900.01);
    if (row.end !== 20 && row !== rows.at(-1)) expect(width).toBeCloseTo(900, 3);
    expect(rows[rowOf(rows, row.end - 1)]).toBe(row);
  }
});
