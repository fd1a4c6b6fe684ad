import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, onTestFinished, test, vi } from 'vitest';
import { readQuery } from '../../core/find/query.ts';
import { SORTS } from '../../core/find/sorts.ts';
import { takes } from '../../core/find/tests.ts';
import { planWords } from '../../core/plan/words.ts';
import { TEXT_FIELD_KEYS } from '../../core/describe/fields.ts';
import { proposeRecords } from '../changes/records.ts';
import { applyProposal } from '../changes/apply.ts';
import { closeSites, openSite, picture, siteFolder, smallSite } from '../test/site.ts';
import { openDatabase } from './open.ts';
import type { Db } from './database.ts';
import { ALL_HERE, conditions, orderOf, type ItemQuery } from './item-query.ts';
import { Tags } from './tags.ts';
import { Alikes } from './alikes.ts';
import { Checkpoints } from './checkpoints.ts';
import { facetsOf } from './facets.ts';
import { Findings } from './findings.ts';
import { ItemNames } from './item-names.ts';
import type { ItemFinder } from './item-finder.ts';
import type { ItemRecords } from './item-records.ts';
import type { Items } from './items.ts';
import { References } from './references.ts';
import { Reader } from './reader.ts';
import { LedgerRows } from './ledger.ts';
import { MIGRATIONS } from './migrations/index.ts';

import { TestDatabase } from '../test/database.ts';

let folder: string;

let db: Db;

let items: Items;

let records: ItemRecords;

let finder: ItemFinder;

let base: TestDatabase;
beforeEach(async () => {
  base = await TestDatabase.open();
  ({ folder, db, items, records, finder } = base);
});
afterEach(() => base.close());

const add = (...args: Parameters<TestDatabase['add']>) => base.add(...args);

const query = (part: Partial<ItemQuery>): ItemQuery => ({ ...ALL_HERE, limit: 100, ...part });

const where = (text: string): Partial<ItemQuery> => ({ where: readQuery(text, takes) });

const paths = (part: Partial<ItemQuery>) => finder.list(query(part)).items.map((item) => item.path);

/** Orders that are asked for seldom and have no index of their own: the reader's thread sorts. */
const UNORDERED = new Set<string>(['seen', ...TEXT_FIELD_KEYS, 'duration', 'height', 'tags', 'by', 'owner']);

describe('finding items', () => {
  beforeEach(() => {
    add('a/one.png', { alt: 'A hill', tags: ['Moon'] }, 30);
    add('a/b/two.png', { decorative: true }, 20);
    add('ab/three_100%.pdf', { title: 'Leaflet', tags: ['paper'] }, 40);
    add('IMG_0001.JPG', {}, 50);
    add('a-b/four.mp3', {}, 60);
  });
  test.each<[string, Partial<ItemQuery>, string[]]>([
    ['everything', {}, ['IMG_0001.JPG', 'a-b/four.mp3', 'a/b/two.png', 'a/one.png', 'ab/three_100%.pdf']],
    ['a folder and below, not its namesakes', { folder: 'a' }, ['a/b/two.png', 'a/one.png']],
    ['a folder alone', { folder: 'a', below: false }, ['a/one.png']],
    ['the root alone', { folder: '', below: false }, ['IMG_0001.JPG']],
    ['a kind', where('kind:audio'), ['a-b/four.mp3']],
    ['not described', where('!mark:described'), ['IMG_0001.JPG', 'a-b/four.mp3']],
    ['names that need care', where('!mark:named'), ['IMG_0001.JPG', 'ab/three_100%.pdf']],
    ['not filed', where('!mark:filed'), ['IMG_0001.JPG', 'a-b/four.mp3', 'a/b/two.png']],
    ['a word of the alt text, in any case', { words: ['HILL'] }, ['a/one.png']],
    ['a tag', { words: ['moon'] }, ['a/one.png']],
    ['all words must fit', { words: ['leaflet', 'paper'] }, ['ab/three_100%.pdf']],
    ['signs that SQL knows are plain text', { words: ['_100%'] }, ['ab/three_100%.pdf']],
    ['a quote is plain text', { words: ["'; drop table item; --"] }, []],
    ['heaviest first', { sort: 'bytes', limit: 2 }, ['a-b/four.mp3', 'IMG_0001.JPG']],
    ['images first', { sort: 'kind', limit: 3 }, ['IMG_0001.JPG', 'a/b/two.png', 'a/one.png']],
    ['a window', { offset: 3, limit: 1 }, ['a/one.png']],
  ])('%s', (_what, part, expected) => {
    expect(paths(part)).toEqual(expected);
  });
  test('the total and weight are those of the whole query, not of the window', () => {
    expect(finder.list(query({ limit: 1 }))).toMatchObject({ total: 5, bytes: 200 });
    expect(finder.ids(query({ folder: 'a' }))).toHaveLength(2);
  });
  test.each(SORTS)('a window ordered by %s walks an index and sorts nothing', (sort) => {
    for (const turned of [false, true]) {
      const { order, join } = orderOf(query({ sort, turned }));
      const { where } = conditions(query({ sort }));
      const plan = db.all<{ detail: string }>(
        `explain query plan select item.id from item ${join} where ${where} order by ${order} limit 100`,
      );
      const steps = plan.map((step) => step.detail).join('; ');
      if (!UNORDERED.has(sort)) expect(steps).not.toContain('TEMP B-TREE');
      expect(steps).toMatch(/USING (COVERING )?INDEX/);
    }
  });
  test('what is asked of one item, or of each anew, never goes through all that have the same state', async () => {
    const id = add('a.png');
    const asked: string[] = [];
    const spies = (['all', 'get', 'value', 'values', 'tuples', 'run'] as const).map((way) =>
      vi.spyOn(db, way),
    );
    const sha = items.need(id).sha256;
    items.withHash(sha);
    items.anyWithHash(sha);
    records.fillUntouched(sha, { alt: 'x' });
    const reader = new Reader(join(folder, 'x.db'));
    onTestFinished(() => reader.close());
    new Findings(db, reader).checkInputs([id]);
    new Alikes(db).here();
    new References(db).usesOf(['a.png']);
    new Alikes(db).unmatched(5);
    for (const spy of spies) {
      asked.push(...spy.mock.calls.map(([sql]) => sql));
      spy.mockRestore();
    }
    expect(asked.length).toBeGreaterThan(6);
    await facetsOf(
      {
        many: (sqls: string[]) => {
          asked.push(...sqls);
          return Promise.resolve(sqls.map((sql) => (sql.startsWith('select sum') ? [{}] : [])));
        },
      } as unknown as Reader,
      ALL_HERE,
      () => [],
    );
    for (const sql of asked) {
      const plan = db.all<{
        id: number;
        parent: number;
        detail: string;
      }>(`explain query plan ${sql.replace(/@\w+|\?/g, "'1'")}`);
      const nested = plan.filter((step) => {
        for (
          let at = plan.find((one) => one.id === step.parent);
          at;
          at = plan.find((one) => one.id === at!.parent)
        )
          if (at.detail.startsWith('CORRELATED')) return true;
        // Facets, and pairs, go through the rows of one table once.
        return !/^select (sum|tag|item|one|substr|field|person|content|sha256 from content)|^with/.test(sql);
      });
      const walks = nested.filter((step) => /\(state=\?\)|^SCAN item\b/.test(step.detail));
      expect([sql.slice(0, 80), walks.map((step) => step.detail)]).toEqual([sql.slice(0, 80), []]);
    }
  });
});

describe('what is checked anew', () => {
  const uncheckedBy = (change: () => void) => {
    db.run('delete from unchecked');
    change();
    return db.value<number>('select count(*) from unchecked')! - 1;
  };
  test.each([
    ['few', 10, 9],
    // Each of them stays one of several, whichever changes: the others are not gone through.
    ['many', 150, 0],
  ])('of %s with the same bytes or the same words', (_what, size, others) => {
    const ids = Array.from({ length: size }, (_, at) => add(`${at}.png`, { alt: 'The hill' }));
    expect(uncheckedBy(() => db.run('update item set alt = ? where id = ?', 'Else', ids[3]))).toBe(others);
    db.run("update item set sha256 = 'same'");
    expect(uncheckedBy(() => records.setPlace(ids[4]!, '4.png', 'absent'))).toBe(others === 0 ? 0 : size - 1);
  });

  test('names of a folder that is noted once more while they are checked', async () => {
    const id = add('a/IMG_1.png');
    const faults = () => db.value('select name_faults from item where id = ?', id);
    const found = faults();
    expect(found).not.toBe('');
    const names = new ItemNames(db);
    names.uncheck('a');
    const checking = names.check();
    // Its first slice is done. What it found is made wrong, as by another pattern.
    db.run("update item set name_faults = ''");
    names.uncheck('a');
    await checking;
    await names.check();
    expect(faults()).toBe(found);
  });
});

/** What goes on merging in the database is closed before that is. */
async function withCheckpoints(file: string, work: () => Promise<void>): Promise<void> {
  const checkpoints = new Checkpoints(db, file);
  try {
    await work();
  } finally {
    await checkpoints.close();
  }
}

test('the write-ahead log is moved into the database while it is open, not by who writes', async () => {
  const file = join(folder, 'x.db');
  await withCheckpoints(file, async () => {
    const before = (await stat(file)).size;
    for (let at = 0; at < 6; at++)
      db.run('insert into site_state (name, value) values (?, ?)', `pad ${at}`, 'x'.repeat(1_000_000));
    expect((await stat(file)).size).toBe(before);
    await expect
      .poll(async () => (await stat(file)).size, { timeout: 10_000 })
      .toBeGreaterThan(before + 5_000_000);
    expect(db.value("select count(*) from site_state where name like 'pad %'")).toBe(6);
  });
});

test('the parts of the index of words are merged after what was written, and words are found throughout', async () => {
  const parts = () => db.value<number>('select count(distinct segid) from item_words_idx')!;
  const found = () => db.value<number>("select count(*) from item_words where item_words match 'm*'")!;
  await withCheckpoints(join(folder, 'x.db'), async () => {
    for (let at = 0; at < 300; at++) add(`m${at}.png`);
    expect([parts(), found()]).toEqual([300, 300]);
    await expect.poll(parts, { timeout: 15_000 }).toBeLessThan(20);
    expect(found()).toBe(300);
    expect(db.pragma('synchronous')).toBe(2);
  });
});

describe('records', () => {
  test('two items on the site can never have one address', () => {
    add('x.png');
    expect(() => add('x.png')).toThrow(/UNIQUE/);
  });
  test('a tag is one tag in any case, and one that nobody uses is gone', () => {
    const one = add('x.png', { tags: ['Sky'] });
    add('y.png', { tags: ['sky'] });
    expect(new Tags(db).counts()).toEqual([{ name: 'Sky', items: 2 }]);
    for (const step of planWords(items.need(one), { tags: [] }).records) records.apply(step, 2, '2026-01-03');
    expect(new Tags(db).counts()).toEqual([{ name: 'Sky', items: 1 }]);
    expect(items.need(one)).toMatchObject({ changedBy: 'Ben', rowVersion: 3 });
  });
  test('groups of copies, the most placed first', async () => {
    const reader = new Reader(join(folder, 'x.db'));
    onTestFinished(() => reader.close());
    const [a, b] = [add('a.png'), add('b.png')];
    db.run("update item set sha256 = 'same'");
    db.run('update item set placements = 2 where id = ?', b);
    expect((await finder.copies(reader)).map((group) => group.map((item) => item.id))).toEqual([[b, a]]);
    expect(await finder.countsApart(reader)).toMatchObject({ items: 2 });
  });
  test('an unknown item is told in words', () => {
    expect(() => items.need(99)).toThrowError(expect.objectContaining({ code: 'not-found' }));
  });
});

describe('the schema', () => {
  test('is brought up to date once, and a newer one is not touched', () => {
    expect(db.pragma('user_version')).toBe(MIGRATIONS.length);
    db.pragma(`user_version = ${MIGRATIONS.length + 1}`);
    expect(() => openDatabase(join(folder, 'x.db'))).toThrow(/newer Iconomos/);
  });
  test('what stands in the way of an undo is found by what was touched, and undone entries do not count', () => {
    const rows = new LedgerRows(db);
    const id = add('x.png');
    const words = (alt: string, undoes?: number) => {
      const plan = { ...planWords(items.need(id), { alt }), ...(undoes ? { undoes } : {}) };
      const entry = rows.begin(plan, 1, '2026-01-01');
      for (const step of plan.records) records.apply(step, 1, '2026-01-01');
      rows.finish(entry, plan);
      return entry;
    };
    const first = words('one');
    const second = words('two');
    expect(rows.laterThan(first).map((entry) => entry.id)).toEqual([second]);
    words('one', second);
    expect(rows.laterThan(first)).toEqual([]);
    expect(rows.list(10)).toHaveLength(3);
    expect(rows.list(10, second).map((entry) => entry.id)).toEqual([first]);
  });
});

test('the number of an arrival or an item that is gone is never given again', async () => {
  onTestFinished(closeSites);
  const site = await openSite(await smallSite());
  const arrival = () => site.arrivals.insert({ at: site.now(), personId: 1, givenName: 'a.png', bytes: 1 });
  const first = arrival();
  site.arrivals.remove(first);
  expect(arrival()).toBeGreaterThan(first);
  const item = () =>
    site.records.add({
      path: 'img/soon.png',
      state: 'absent',
      facts: { bytes: 1, sha256: 'a', item: {} },
      addedAt: site.now(),
      addedBy: 1,
      originalName: null,
    });
  const gone = item();
  await site.records.removeAbsent([gone]);
  expect(item()).toBeGreaterThan(gone);
});

test('every window of a query is as the database is now, the first, the second, and after a change', async () => {
  const files: Record<string, string | Buffer> = { 'index.html': '<title>x</title>' };
  for (let at = 0; at < 12; at++) files[`img/${at}.png`] = await picture(at, 'png', 20 + (at % 5));
  const site = await openSite(await siteFolder(files));
  const queries: ItemQuery[] = [
    { ...ALL_HERE, limit: 5 },
    { ...ALL_HERE, limit: 5, sort: 'bytes', turned: true },
    { ...ALL_HERE, limit: 5, words: ['hill'], sort: 'rank' },
  ];
  const window = async (query: ItemQuery) => {
    const text = new TextDecoder().decode(await site.finder.listJson(site.reader, query));
    const { total, items } = JSON.parse(text) as { total: number; items: { id: number }[] };
    return [total, ...items.map((one) => one.id)];
  };
  const all = async () => {
    for (const query of queries)
      for (const offset of [0, 5, 10, 5, 0, 40]) {
        const { total, items } = site.finder.list({ ...query, offset });
        expect(await window({ ...query, offset })).toEqual([total, ...items.map((one) => one.id)]);
      }
  };
  await all();
  const [id, other] = [3, 7].map((at) => site.items.atPath(`img/${at}.png`)!.id);
  await applyProposal(site, proposeRecords(site, [id!, other!], { set: { alt: 'A hill' } }), 1);
  await all();
  expect((await window(queries[2]!))[0]).toBe(2);
  await applyProposal(site, proposeRecords(site, [id!], { set: { alt: '' } }), 1);
  await all();
  expect(await window(queries[2]!)).toEqual([1, other]);
});
