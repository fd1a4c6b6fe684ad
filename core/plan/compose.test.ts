import { expect, test } from 'vitest';
import { composePlans } from './compose.ts';
import { inverseFiles } from './inverse.ts';
import { emptyPlan, type FileStep, type Plan } from './plan.ts';

const plan = (files: FileStep[], more: Partial<Plan> = {}): Plan => ({
  ...emptyPlan('move', 'x'),
  files,
  ...more,
});
const move = (from: string, to: string, sha256 = 'a'): FileStep => ({ do: 'move', from, to, sha256 });
const write = (path: string, before: string | null, after: string | null): FileStep => ({
  do: 'write',
  path,
  before,
  after,
});
const files = (...plans: FileStep[][]) => composePlans(plans.map((one) => plan(one))).files;

test('moves one after the other are one; back where it was, nothing has happened', () => {
  expect(files([move('a', 'b')], [move('b', 'c')])).toEqual([move('a', 'c')]);
  expect(files([move('a', 'b')], [move('b', 'a')])).toEqual([]);
  expect(files([move('a', 'b'), move('b', 'a', 'b')], [move('a', 'c', 'b')])).toEqual([
    move('a', 'b'),
    move('b', 'c', 'b'),
  ]);
});

test('a file that moves and gets other bytes, in any order', async () => {
  const wanted = [move('a', 'b', '1'), write('b', '1', '3')];
  expect(files([write('a', '1', '2')], [move('a', 'b', '2')], [write('b', '2', '3')])).toEqual(wanted);
  expect(files([move('a', 'b', '1'), write('b', '1', '3')])).toEqual(wanted);
  expect(await inverseFiles(wanted)).toEqual([
    { do: 'move', from: 'b', to: 'a', sha256: '3' },
    write('a', '3', '1'),
  ]);
});

test('what came and went is not told; what went and came back in other bytes was written', () => {
  expect(
    files([{ do: 'create', path: 'a', sha256: '1' }], [{ do: 'remove', path: 'a', sha256: '1' }]),
  ).toEqual([]);
  expect(files([write('p', null, '1')], [write('p', '1', '2')])).toEqual([write('p', null, '2')]);
  expect(
    files([{ do: 'remove', path: 'a', sha256: '1' }], [{ do: 'create', path: 'a', sha256: '2' }]),
  ).toEqual([write('a', '1', '2')]);
  expect(files([write('a', '1', '2')], [{ do: 'remove', path: 'a', sha256: '2' }])).toEqual([
    { do: 'remove', path: 'a', sha256: '1' },
  ]);
});

test('records, settings, redirects and folders: what was before the first, and is after the last', () => {
  const composed = composePlans([
    plan([{ do: 'make-folder', path: 'n' }], {
      records: [{ itemId: 1, rowVersion: 1, before: { path: 'a', alt: '' }, after: { path: 'b', alt: 'x' } }],
      settings: [{ namespace: 'tag-above', key: 't', before: null, after: 'u' }],
      redirects: [{ from: '/a', to: '/b' }],
      makes: ['n/m', 'n'],
    }),
    plan([{ do: 'drop-folder', path: 'n' }], {
      records: [
        { itemId: 1, rowVersion: 2, before: { alt: 'x', title: '' }, after: { alt: '', title: 'T' } },
      ],
      settings: [{ namespace: 'tag-above', key: 't', before: 'u', after: null }],
      redirects: [{ from: '/a', to: '/c', was: '/b' }],
    }),
  ]);
  expect(composed).toMatchObject({
    files: [],
    records: [{ itemId: 1, before: { path: 'a', title: '' }, after: { path: 'b', title: 'T' } }],
    settings: [],
    redirects: [{ from: '/a', to: '/c' }],
    makes: ['n', 'n/m'],
  });
  expect(composed.records[0]!.after).not.toHaveProperty('alt');
});
