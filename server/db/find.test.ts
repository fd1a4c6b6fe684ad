import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { Chance } from '../../demo/chance.ts';
import { nameFaults } from '../../core/address/name.ts';
import { baseName, folderOf } from '../../core/address/path.ts';
import { colourName } from '../../core/find/colour.ts';
import { holds } from '../../core/find/holds.ts';
import { isGroup, type Group, type Node } from '../../core/find/query.ts';
import { GROUPINGS, SORTS } from '../../core/find/sorts.ts';
import { TEST_NAMES, TESTS, type Facts, type Test, type TestName } from '../../core/find/tests.ts';
import { ITEM_CHECKS } from '../../core/upkeep/checks.ts';
import { meantBy } from '../../core/plan/settings.ts';
import { planWords } from '../../core/plan/words.ts';
import { NOTHING } from '../../core/media/analysis.ts';
import { Contents } from './contents.ts';
import { openDatabase } from './open.ts';
import type { Db } from './database.ts';
import { facetsOf } from './facets.ts';
import { ALL_HERE, foundSql } from './item-query.ts';
import { ItemFinder } from './item-finder.ts';
import { ItemRecords } from './item-records.ts';
import { ItemUse } from './item-use.ts';
import { Items } from './items.ts';
import { People } from './people.ts';
import { Reader } from './reader.ts';
import { References } from './references.ts';
import { Tags } from './tags.ts';

let folder: string;
let db: Db;
let items: Items;
let records: ItemRecords;
let finder: ItemFinder;
let reader: Reader;
let facts: Facts[];
let dice: Chance;
const PAGES = { 'index.html': 'Home of the Dome', 'moon/index.html': '100% Moon' };
const PEOPLE = ['Ottilie', 'Ben', 'Ines'];
/** Other spellings, and tags below others: also in another case, and a spelling of a tag that is above. */
const SENSE = {
  spellings: [
    { spelling: 'luna', tag: 'Moon' },
    { spelling: 'heaven', tag: 'sky' },
  ],
  above: [
    { tag: 'MOON', above: 'sky' },
    { tag: 'dome', above: 'Open Night' },
    { tag: 'sky', above: 'nature' },
  ],
};
const TAGS = ['moon', 'Open Night', 'dome', 'Ölbild', 'x_y%', "o'brien"];
const FOLDERS = ['', 'images', 'images/sky', 'images-old', 'images/sky/deep', 'a_b'];
const COLOURS = ['#101010', '#f8f8f8', '#2050c0', '#c02020', '#20a040', '#e0b020'];
const EXTENSIONS = ['jpg', 'png', 'svg', 'ico', 'mp4', 'mp3', 'pdf', 'zip'];
/** Items 1 and 2 look alike here; what the store finds alike is the business of others. */
const like = (id: number) => (id === 1 || id === 2 ? [facts[0]!, facts[1]!].map((one) => shaOf(one.id)) : []);
const hashes = new Map<number, string>();
const shaOf = (id: number) => hashes.get(id)!;

beforeAll(async () => {
  dice = new Chance('find');
  folder = await mkdtemp(join(tmpdir(), 'iconomos-find-'));
  db = openDatabase(join(folder, 'x.db'));
  items = new Items(db);
  records = new ItemRecords(db, items);
  finder = new ItemFinder(db, items);
  const references = new References(db);
  const contents = new Contents(db);
  new People(db).seed(
    PEOPLE.map((name) => ({ name, role: 'editor' })),
    '2026-01-01',
  );
  for (const [path, title] of Object.entries(PAGES))
    db.run('insert into page (path, title) values (?, ?)', path, title);
  const tags = new Tags(db);
  for (const { spelling, tag } of SENSE.spellings) tags.setSpelling(spelling, tag);
  for (const { tag, above } of SENSE.above) tags.setAbove(tag, above);
  facts = [];
  for (let i = 0; i < 160; i++) facts.push(make(i, contents));
  for (const page of Object.keys(PAGES))
    references.replacePlacements(
      page,
      facts
        .filter((one) => one.pages.some(({ path }) => path === page))
        .map(({ path }) => ({
          page,
          path,
          state: 'placed',
          url: path,
          place: 'img src',
          start: 0,
          end: 1,
          line: 1,
          alt: null,
          writing: 'attribute',
        })),
    );
  await new ItemUse(db).refresh();
  const shas = [...hashes.values()];
  for (const one of facts) {
    one.hasCopies = shas.filter((sha) => sha === shaOf(one.id)).length > 1;
    one.alike = like(one.id).length === 0 ? [] : [1, 2].filter((id) => id !== one.id);
    one.use = items.need(one.id).use;
  }
  reader = new Reader(join(folder, 'x.db'));
});
afterAll(async () => {
  await reader.close();
  db.close();
  await rm(folder, { recursive: true });
});

function make(i: number, contents: Contents): Facts {
  const within = dice.pick(FOLDERS);
  const stem = dice.pick(['moon', 'IMG', 'Star Trail', 'x_y%', 'dome-by-night']);
  const path = [within, `${stem}-${i}.${dice.pick(EXTENSIONS)}`].filter(Boolean).join('/');
  // Few hashes, so that some have copies; the first two stay alone.
  const sha256 = `${i < 2 ? `a${i}` : `b${dice.whole(0, 120)}`}`.padEnd(64, '0');
  const sized = dice.next() < 0.8;
  const size = { width: dice.pick([100, 400, 401, 2000]), height: dice.pick([100, 400, 1999]) };
  const duration = dice.next() < 0.3 ? dice.whole(1, 90) : null;
  const colour = contents.get(sha256)?.colours[0] ?? dice.pick(COLOURS);
  const addedAt = `202${dice.whole(4, 6)}-${String(dice.whole(1, 12)).padStart(2, '0')}-1${dice.whole(0, 9)}T10:00:00.000Z`;
  const addedBy = dice.next() < 0.7 ? dice.whole(0, 2) : null;
  const id = records.add({
    path,
    state: 'here',
    facts: {
      bytes: dice.whole(1, 3_000_000),
      sha256,
      item: { ...(sized ? size : {}), ...(duration ? { duration } : {}) },
    },
    addedAt,
    addedBy: addedBy === null ? null : addedBy + 1,
    originalName: null,
  });
  hashes.set(id, sha256);
  contents.save(
    sha256,
    { ...NOTHING, colours: [colour] },
    { codecs: '', profile: null, takenAt: null, place: false },
  );
  const words = {
    alt: dice.pick(['', '', 'A hill']),
    decorative: dice.next() < 0.1,
    title: dice.pick(['', 'Title']),
    caption: dice.pick(['', 'Said']),
    credit: dice.pick(['', 'Corvane']),
    longDescription: dice.pick(['', 'A hill at night']),
    taken: dice.pick(['', '2026-08-12']),
    licence: dice.pick(['', 'CC BY']),
    licenceEnd: dice.pick(['', '', '2026-06-30', '2027-01-01']),
    tags: TAGS.filter(() => dice.next() < 0.2),
    own: (dice.next() < 0.5
      ? { Weather: dice.pick(['clear', 'Fog', '']), Über: dice.pick(['ü', '1']) }
      : {}) as Record<string, string>,
  };
  const [step] = planWords(items.need(id), words).records;
  const owner = dice.next() < 0.4 ? dice.pick(PEOPLE) : null;
  const after = { ...step?.after, ...(owner ? { owner } : {}) };
  records.apply({ itemId: id, rowVersion: 1, before: {}, after }, 1, '2026-01-02');
  const pages = Object.entries(PAGES).filter(() => dice.next() < 0.3);
  const found = ITEM_CHECKS.filter(() => dice.next() < 0.1);
  const insert = "insert into finding (name, item_id, why, saves, since, looked) values (?, ?, '', 0, '', ?)";
  for (const name of found) db.run(insert, name, id, 'as it is');
  // Left alone as it is, and as it was once: only the latter is told.
  const leave =
    "insert into dismissal (name, subject, reason, person, at, looked) values (?, ?, '', '', '', ?)";
  if (found[0]) db.run(leave, found[0], String(id), 'as it was');
  const [alone] = ITEM_CHECKS.filter((name) => !found.includes(name) && dice.next() < 0.1);
  if (alone) {
    db.run(insert, alone, id, 'as it is');
    db.run(leave, alone, String(id), 'as it is');
  }
  const item = items.need(id);
  return {
    ...item,
    folder: folderOf(path),
    nameFaults: nameFaults(baseName(path)),
    colour: colourName(colour),
    hasCopies: false,
    pages: pages.map(([page, title]) => ({ path: page, title })),
    meant: item.words.tags.flatMap((tag) => meantBy(tag, SENSE)),
    found,
    alike: [],
  };
}

function valueFor(name: TestName): string {
  const test: Test = TESTS[name];
  switch (test.value) {
    case 'own':
      return dice.pick(['Weather: clear', 'weather: fog', 'Über: 1', 'Über: ü', 'Weather: ', 'Sky: clear']);
    case 'choice':
      return dice.pick(test.choices!);
    case 'pixels':
      return dice.pick(['400', '100', '0']);
    case 'bytes':
      return String(dice.whole(0, 3_000_000));
    case 'seconds':
      return '30';
    case 'date':
      return dice.pick(['2026-06-30', '2026-07-01', '2025-01-15']);
    case 'month':
      return dice.pick(['2026-03', '2025-12', '2024-01']);
    case 'folder':
      return dice.pick(FOLDERS.slice(1));
    case 'tag':
      return dice.pick([...TAGS, 'MOON', 'none', 'sky', 'Luna', 'heaven', 'nature']);
    case 'person':
      return dice.pick([...PEOPLE, 'Nobody']);
    case 'item':
      return dice.pick(['1', '2', '3', '999']);
    case 'none':
      return '';
    case 'text':
      return dice.pick(['moon', 'DOME', '%', '_', 'trail', "'"]);
  }
}

function node(depth: number): Node {
  if (depth < 3 && dice.next() < 0.35)
    return {
      join: dice.next() < 0.5 ? 'all' : 'any',
      not: dice.next() < 0.3,
      of: Array.from({ length: dice.whole(0, 3) }, () => node(depth + 1)),
    };
  const name = dice.pick(TEST_NAMES);
  return { test: name, value: valueFor(name), not: dice.next() < 0.3 };
}

describe('what the store finds is what the conditions mean', () => {
  const found = (where: Group) => finder.ids({ ...ALL_HERE, where }, like).sort((a, b) => a - b);
  const naive = (where: Group) => facts.filter((one) => holds(where, one)).map((one) => one.id);

  test.each(TEST_NAMES)('%s, with every kind of value, and its opposite', (name) => {
    for (let round = 0; round < 12; round++)
      for (const not of [false, true]) {
        const where: Group = { join: 'all', not: false, of: [{ test: name, value: valueFor(name), not }] };
        expect(found(where), JSON.stringify(where)).toEqual(naive(where));
      }
  });

  test('any query of any shape over a random library', () => {
    let some = 0;
    for (let round = 0; round < 400; round++) {
      const one = node(0);
      const where: Group = isGroup(one) ? one : { join: 'all', not: false, of: [one] };
      const ids = naive(where);
      expect(found(where), JSON.stringify(where)).toEqual(ids);
      if (ids.length > 0 && ids.length < facts.length) some++;
    }
    expect(some).toBeGreaterThan(200);
  });

  test('the counts beside choices are what choosing them would leave', async () => {
    const base: Node = { test: 'folder', value: 'images', not: false };
    const facets = await facetsOf(
      reader,
      { ...ALL_HERE, where: { join: 'all', not: false, of: [base] } },
      like,
    );
    let counted = 0;
    for (const [name, values] of Object.entries(facets) as [TestName, { value: string; items: number }[]][])
      for (const { value, items: count } of values) {
        // A folder is counted by itself; choosing it takes what lies below too.
        if (name === 'folder') continue;
        const where: Group = { join: 'all', not: false, of: [base, { test: name, value, not: false }] };
        expect([name, value, count]).toEqual([name, value, naive(where).length]);
        counted += count;
      }
    expect(counted).toBeGreaterThan(500);
  });

  test('all that a query finds comes in its order, with the ratios and the weight', async () => {
    const all = await reader.found(
      "select id, width, height, kind, bytes from item where state = 'here' order by path",
      {},
    );
    expect([...all.ids]).toEqual(finder.ids(ALL_HERE));
    expect(all.bytes).toBe(facts.reduce((sum, one) => sum + one.bytes, 0));
    const at = [...all.ids].findIndex((id) => facts.find((one) => one.id === id)!.width === 2000);
    const one = facts.find((fact) => fact.id === all.ids[at])!;
    expect(all.ratios[at]).toBe(one.kind === 'image' ? Math.round((1000 * one.width!) / one.height!) : 1000);
  });

  test.each(GROUPINGS)(
    'by %s: every item stands in its groups, each group once, nothing is lost',
    async (group) => {
      const { sql, values } = foundSql({ ...ALL_HERE, sort: 'name' }, like, group);
      const found = await reader.found(sql, values);
      expect(found.items).toBe(facts.length);
      expect(found.bytes).toBe(facts.reduce((sum, one) => sum + one.bytes, 0));
      const names = found.groups.map((one) => one.name);
      expect(new Set(names).size).toBe(names.length);
      const groupsOf = (one: Facts): string[] =>
        ({
          month: [one.addedAt.slice(0, 7)],
          folder: [one.folder],
          kind: [one.kind],
          page: one.pages.length > 0 ? one.pages.map((page) => page.path) : [''],
        })[group];
      const wanted = facts.flatMap((one) => groupsOf(one).map((name) => `${name} ${one.id}`));
      const has = found.groups.flatMap(({ name, from }, at) =>
        [...found.ids.subarray(from, found.groups[at + 1]?.from)].map((id) => `${name} ${id}`),
      );
      expect(has.sort()).toEqual(wanted.sort());
      if (group === 'month') expect(names).toEqual([...names].sort().reverse());
      if (group === 'page') expect(names.at(-1)).toBe('');
    },
  );

  test.each(SORTS.filter((sort) => sort !== 'rank'))(
    'by %s: each once, turned the other way round',
    (sort) => {
      const ids = finder.ids({ ...ALL_HERE, sort });
      expect([...ids].sort((a, b) => a - b)).toEqual(facts.map((one) => one.id));
      expect(finder.ids({ ...ALL_HERE, sort, turned: true })).toEqual([...ids].reverse());
    },
  );

  test('by who added it, and by alt text: those without one at the end', () => {
    const by = (sort: 'by' | 'alt') => finder.ids({ ...ALL_HERE, sort }).map((id) => items.need(id));
    for (const values of [by('by').map((one) => one.addedBy ?? ''), by('alt').map((one) => one.words.alt)]) {
      const said = values.filter((value) => value !== '');
      expect(values.slice(0, said.length)).toEqual([...said].sort());
      expect(said.length).toBeLessThan(values.length);
    }
  });

  test('words: another spelling of a tag, and the names of people, find too', () => {
    const of = (word: string) => finder.ids({ ...ALL_HERE, words: [word] }).sort((a, b) => a - b);
    const holding = (test: (one: Facts) => boolean) => facts.filter(test).map((one) => one.id);
    const moon = (one: Facts) => one.words.tags.includes('moon');
    expect(of('luna')).toEqual(holding(moon));
    expect(of('lun')).toEqual(holding(moon));
    expect(of('ottil')).toEqual(holding((one) => one.addedBy === 'Ottilie' || one.owner === 'Ottilie'));
  });
});
