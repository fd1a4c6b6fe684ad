import { describe, expect, test } from 'vitest';
import { edited, type Edit } from './edits.ts';
import { NO_WORDS, type OwnField, type TextField } from './fields.ts';
import { seeded } from '../test/chance.ts';
import { blockOf, neutralCell, plainCell, readingTable, type TableItem } from './table.ts';

/** All steps at once. */
function drained(...parameters: Parameters<typeof readingTable>) {
  const steps = readingTable(...parameters);
  let step = steps.next();
  while (!step.done) step = steps.next();
  return step.value;
}

describe('cells that a spreadsheet would run', () => {
  test.each(['=1+1', '+x', '-x', '@sum', '\tx', '-5', 'plain', '+49 30', "'quoted", '3.5'])(
    '%j comes back as it was',
    (cell) => {
      expect(plainCell(neutralCell(cell))).toBe(cell);
      expect(neutralCell(cell)).not.toMatch(/^[=@\t]/);
    },
  );
  test.each([
    ['\uff1d1+1', "'\uff1d1+1"],
    ['\uff20sum', "'\uff20sum"],
    ['moon;=cmd', "moon;'=cmd"],
    ['moon;"=cmd"', 'moon;"\'=cmd"'],
    ['a\t+b|-c,@d\n=e', "a\t'+b|'-c,'@d\n'=e"],
    ['moon, -5 degrees', 'moon, -5 degrees'],
    ['well-known', 'well-known'],
  ])('%j, also behind another delimiter', (cell, neutral) => {
    expect(neutralCell(cell)).toBe(neutral);
    expect(plainCell(neutral)).toBe(cell);
  });
  test('whatever a cell holds, no program lets a formula begin in it, and it comes back as it was', () => {
    const { pick, below } = seeded(7);
    for (let round = 0; round < 3000; round++) {
      const cell = Array.from({ length: below(9) }, () =>
        pick([...'=+-@;,|"\'\t\r\na5. ', '\uff1d', '\uff0d']),
      ).join('');
      const neutral = neutralCell(cell);
      expect(plainCell(neutral), JSON.stringify(cell)).toBe(cell);
      if (!/^[+-]?\d+([.,]\d+)?$/.test(cell))
        for (const part of neutral.split(/[;,|\t\r\n]/))
          expect(part, JSON.stringify(cell)).not.toMatch(/^"*[=+\-@\uff1d\uff0d]/);
    }
  });
});

test.each<[string, string[][]]>([
  ['a', [['a']]],
  [
    'a\tb\r\nc\td\r\n',
    [
      ['a', 'b'],
      ['c', 'd'],
    ],
  ],
  [
    '"two\nlines"\t"say ""x"""\n\tz',
    [
      ['two\nlines', 'say "x"'],
      ['', 'z'],
    ],
  ],
  ['5" disc\tx', [['5" disc', 'x']]],
])('a copied block %j', (text, cells) => expect(blockOf(text)).toEqual(cells));

describe('a table that comes back', () => {
  const item = (id: number, more: Partial<TableItem['words']> = {}): TableItem => ({
    id,
    path: `img/${id}.jpg`,
    rowVersion: 3,
    changedBy: 'Ben',
    words: { ...NO_WORDS, title: `Title ${id}`, tags: ['b', 'a'], ...more },
  });
  const items = [item(1), item(2, { decorative: true }), item(3, { own: { Season: 'summer' } })];
  const own: OwnField[] = [{ name: 'Season', kind: 'choice', choices: ['summer', 'winter'] }];
  const read = (head: string[], ...rows: string[][]) =>
    drained(
      head,
      rows,
      (by, value) =>
        items.find(
          (one) => (by === 'id' ? String(one.id) : by === 'path' ? one.path : `/${one.path}`) === value,
        ),
      own,
    );

  test('matched by id, path or address; only what differs counts', () => {
    const found = read(
      ['id', 'path', 'title', 'alt', 'tags'],
      ['1', 'ignored', 'Title 1', 'A dome', 'a; b'],
      ['', 'img/2.jpg', 'Other', '', 'b, a'],
      ['', '', '', '', ''],
      ['', '/img/3.jpg', 'x', '', ''],
    );
    expect(
      found.changes.map(({ path, line, field, before, after }) => [path, line, field, before, after]),
    ).toEqual([
      ['img/1.jpg', 2, 'Alt text', '', 'A dome'],
      ['img/2.jpg', 3, 'Title', 'Title 2', 'Other'],
    ]);
    expect(found).toMatchObject({
      matched: 2,
      faults: [{ line: 5, why: expect.stringContaining('no item') }],
    });
    expect(read(['address', 'title'], ['/img/3.jpg', 'x']).changes).toHaveLength(1);
  });
  test('unknown columns are named, told ones are silent, a table without keys is refused', () => {
    expect(read(['id', 'Colour', 'mime', 'use', ''], ['1', 'red', 'x', 'y', ''])).toMatchObject({
      unknown: ['Colour'],
      changes: [],
    });
    expect(read(['title'], ['x']).faults[0]!.why).toContain('The file needs a column');
  });
  test('what cannot stand is told with its line, the rest goes on', () => {
    const found = read(
      ['id', 'licence_end', 'decorative', 'own: season', 'language', 'title'],
      ['1', '2026-02-30', 'maybe', 'spring', 'not a language', 'Kept'],
      ['3', '31.12.2026', 'no', 'winter', 'de-CH', 'Title 3'],
    );
    expect(found.faults.map((one) => one.line)).toEqual([2, 2, 2, 2]);
    expect(found.changes.map(({ field, after }) => [field, after])).toEqual([
      ['Title', 'Kept'],
      ['Licence end', '2026-12-31'],
      ['Language of the texts', 'de-CH'],
      ['Season', 'winter'],
    ]);
  });
  test('a record that has changed since is a conflict; a line that comes twice is left out', () => {
    const found = read(
      ['id', 'version', 'title'],
      ['1', '2', 'Mine'],
      ['2', '3', 'Mine'],
      ['2', '3', 'Again'],
    );
    expect(found.changes.map(({ itemId, conflict }) => [itemId, conflict])).toEqual([
      [1, 'Ben'],
      [2, undefined],
    ]);
    expect(found.faults).toEqual([{ line: 4, why: expect.stringContaining('already in line 3') }]);
  });
});

describe('edits of many', () => {
  const words = { ...NO_WORDS, title: 'the Moon over the moor. late', caption: 'Moonrise' };
  test.each<[TextField, Edit, string | undefined]>([
    ['title', { edit: 'set', text: ' New ' }, 'New'],
    ['title', { edit: 'replace', find: 'MOO', replace: '$&', exact: false }, 'the $&n over the $&r. late'],
    ['title', { edit: 'replace', find: 'Moo', replace: 'x', exact: true }, 'the xn over the moor. late'],
    ['title', { edit: 'replace', find: '.', replace: '', exact: true }, 'the Moon over the moor late'],
    ['title', { edit: 'replace', find: 'sun', replace: 'x', exact: false }, undefined],
    ['title', { edit: 'before', text: 'Now: ' }, 'Now: the Moon over the moor. late'],
    ['title', { edit: 'after', text: ', 2026' }, 'the Moon over the moor. late, 2026'],
    ['alt', { edit: 'after', text: ', 2026' }, undefined],
    ['title', { edit: 'case', to: 'upper' }, 'THE MOON OVER THE MOOR. LATE'],
    ['title', { edit: 'case', to: 'sentence' }, 'The moon over the moor. Late'],
    ['title', { edit: 'case', to: 'title' }, 'The Moon Over The Moor. Late'],
    ['alt', { edit: 'copy', from: 'caption', how: 'empty' }, 'Moonrise'],
    ['title', { edit: 'copy', from: 'caption', how: 'empty' }, undefined],
    ['title', { edit: 'copy', from: 'caption', how: 'over' }, 'Moonrise'],
    ['title', { edit: 'copy', from: 'caption', how: 'behind' }, 'the Moon over the moor. late Moonrise'],
    ['title', { edit: 'copy', from: 'alt', how: 'over' }, undefined],
  ])('%s, %j: %s', (field, edit, result) => expect(edited(words, field, edit)).toBe(result));
});
