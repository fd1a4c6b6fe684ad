import { describe, expect, test } from 'vitest';
import { emptyPlan, type Plan } from '../plan/plan.ts';
import { outsideOf, reaches } from './reach.ts';

const ITEMS = new Map([
  [1, 'shop/a.jpg'],
  [2, 'shopping/b.jpg'],
]);
const plan = (parts: Partial<Plan>): Plan => ({ ...emptyPlan('move', 'x'), ...parts });
const outside = (parts: Partial<Plan>, placing = false, folders = ['shop']) =>
  outsideOf(plan(parts), folders, {
    pathOf: (id) => ITEMS.get(id),
    isItem: (path) => [...ITEMS.values()].includes(path),
    placing,
  });
const sha256 = 'a'.repeat(64);
const write = (path: string, before: string | null = sha256) =>
  ({ do: 'write', path, before, after: 'b'.repeat(64) }) as const;
const record = (itemId: number, after = {}) => ({ itemId, rowVersion: 1, before: {}, after });

describe('folders to which rights are narrowed', () => {
  test('a folder holds what lies in it at any depth, and no folder that only starts like it', () => {
    expect(['shop', 'shop/a.jpg', 'shop/x/y.jpg'].every((path) => reaches(['shop'], path))).toBe(true);
    expect(['shopping/b.jpg', 'a/shop/b.jpg', ''].some((path) => reaches(['shop'], path))).toBe(false);
    expect(reaches([], 'anything')).toBe(true);
    expect(reaches(['blog', 'shop/x'], 'shop/x/a.jpg')).toBe(true);
  });

  test('a file moves neither out of them nor into them', () => {
    const move = (from: string, to: string) => outside({ files: [{ do: 'move', from, to, sha256 }] });
    expect(move('shop/a.jpg', 'shop/x/b.jpg')).toBeUndefined();
    expect(move('shop/a.jpg', 'blog/a.jpg')).toBe('blog/a.jpg');
    expect(move('blog/a.jpg', 'shop/a.jpg')).toBe('blog/a.jpg');
  });

  test('nothing is made, taken away or written outside', () => {
    for (const step of [
      { do: 'create', path: 'blog/a.jpg', sha256 },
      { do: 'remove', path: 'blog/a.jpg', sha256 },
      { do: 'make-folder', path: 'blog' },
      { do: 'drop-folder', path: 'blog' },
      write('blog/new.jpg', null),
      write('shopping/b.jpg'),
    ] as const)
      expect(outside({ files: [step] }), step.do).toBe(step.path);
    expect(outside({ files: [write('shop/a.jpg')] })).toBeUndefined();
  });

  test('pages follow what moves wherever they are; pages that are meant must lie inside', () => {
    const files = [
      { do: 'move', from: 'shop/a.jpg', to: 'shop/b.jpg', sha256 } as const,
      write('about.html'),
    ];
    const pages = [{ page: 'about.html', changes: [] }];
    expect(outside({ files, pages })).toBeUndefined();
    expect(outside({ files: [...files, write('iconomos-redirects.csv', null)], pages })).toBeUndefined();
    expect(outside({ files: [write('about.html')], pages }, true)).toBe('about.html');
    expect(
      outside({ files: [write('shop/index.html')], pages: [{ page: 'shop/index.html', changes: [] }] }, true),
    ).toBe(undefined);
  });

  test('records, by where their item is and where it goes; somebody’s own drafts are nowhere', () => {
    expect(outside({ records: [record(1, { title: 'x' })] })).toBeUndefined();
    expect(outside({ records: [record(1), record(2)] })).toBe('shopping/b.jpg');
    expect(outside({ records: [record(1, { path: 'blog/a.jpg' })] })).toBe('blog/a.jpg');
    expect(outside({ records: [record(9)] })).toBeUndefined();
  });

  test('how tags belong together is the whole site’s, and so are its redirects', () => {
    const spelling = { namespace: 'tag-spelling', key: 'a', before: null, after: 'b' } as const;
    const comment = { ...spelling, namespace: 'comment' } as const;
    expect(outside({ settings: [spelling] })).toBe('the tags of the whole site');
    expect(outside({ settings: [comment] })).toBeUndefined();
    expect(outside({ files: [write('redirects.csv')] })).toBe('redirects.csv');
    expect(outside({ settings: [spelling] }, false, [])).toBeUndefined();
  });
});
