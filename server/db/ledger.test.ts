import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, onTestFinished, test } from 'vitest';
import { planWords } from '../../core/plan/words.ts';
import { proposeRecords } from '../changes/records.ts';
import { applyProposal } from '../changes/apply.ts';
import { openSite, picture, siteFolder } from '../test/site.ts';
import type { Db } from './database.ts';
import type { Items } from './items.ts';
import { Reader } from './reader.ts';
import { LedgerRows } from './ledger.ts';

import { TestDatabase } from '../test/database.ts';

let folder: string;

let db: Db;

let items: Items;

let base: TestDatabase;
beforeEach(async () => {
  base = await TestDatabase.open();
  ({ folder, db, items } = base);
});
afterEach(() => base.close());

const add = (...args: Parameters<TestDatabase['add']>) => base.add(...args);

test('a plan of any length is written in parts, and read as it was written', async () => {
  const rows = new LedgerRows(db);
  const id = add('a.png');
  const plan = planWords(items.need(id), { alt: 'x' });
  plan.records = Array.from({ length: 2500 }, (_, at) => ({ ...plan.records[0]!, itemId: at }));
  plan.files = Array.from({ length: 700 }, (_, at) => ({
    do: 'write' as const,
    path: `p${at}.html`,
    before: `b${at}`,
    after: null,
  }));
  plan.warnings = ['one'];
  const entry = await rows.beginLong(plan, 1, '2026-01-02', { note: 'why' });
  expect(await rows.unfinished()).toEqual([{ id: entry, state: 'staging', personId: 1, plan, back: false }]);
  rows.finish(entry, plan);
  expect((await rows.read(entry))!.plan).toEqual(plan);
  const longest = db.value<number>('select max(length(steps)) from ledger_part')!;
  expect(longest).toBeLessThan(110_000);
  expect(db.value('select length(plan) from ledger_plan')).toBeLessThan(2000);
  // What it did to one record or file is found without reading all of it.
  const reader = new Reader(join(folder, 'x.db'));
  onTestFinished(() => reader.close());
  const [touching] = await rows.touching(reader, 2499, ['p699.html']);
  expect(touching).toMatchObject({ id: entry, record: plan.records[2499], writes: [plan.files[699]] });
  expect(await rows.touching(reader, 2500, ['p700.html'])).toEqual([]);
  // Bytes that it could bring back are needed, and others are not.
  expect([rows.needs('b699'), rows.needs('b700')]).toEqual([true, false]);
  expect(await rows.read(entry + 1)).toBeUndefined();
});

test('an entry that was cut off while it was written has not begun', async () => {
  const rows = new LedgerRows(db);
  const plan = planWords(items.need(add('a.png')), { alt: 'x' });
  plan.records = Array.from({ length: 2500 }, (_, at) => ({ ...plan.records[0]!, itemId: at }));
  const begun = rows.beginLong(plan, 1, '2026-01-02');
  await new Promise(setImmediate);
  const parts = db.value('select count(*) from ledger_part');
  expect([parts, await rows.unfinished(), rows.list(10)]).toEqual([expect.any(Number), [], []]);
  expect(rows.stateOf(await begun)).toBe('staging');
});

describe('what is damaged in the database takes no list down', () => {
  test('of Intake: the row is refused with a sentence and can be left out; the others stay', async () => {
    const site = await openSite(await siteFolder({ 'index.html': '<title>x</title>' }));
    const ids = ['facts', 'notes', 'words', 'choices', 'archive', 'ready', 'none'].map((column, at) => {
      const row = {
        at: site.now(),
        personId: 1,
        givenName: `${column}.png`,
        bytes: 1,
        state: 'ready' as const,
      };
      const id = site.arrivals.insert({ ...row, sha256: `${at}`.repeat(64) });
      if (column !== 'none') site.db.run(`update arrival set ${column} = '{"cut' where id = ?`, id);
      return id;
    });
    const rows = site.arrivals.of(1);
    expect(rows.map((one) => one.state)).toEqual([...ids.slice(1).map(() => 'refused'), 'ready']);
    expect(rows[0]!.refused).toMatch(/damaged\. Skip it/);
    expect(site.arrivals.needs('f'.repeat(64))).toBe(false);
    site.arrivals.remove(ids[0]!);
    expect(site.arrivals.of(1)).toHaveLength(6);
  });

  test('of the ledger, of rules, patterns and own fields: the others stay', async () => {
    const site = await openSite(
      await siteFolder({ 'index.html': '<title>x</title>', 'a.png': await picture(1) }),
    );
    await applyProposal(
      site,
      proposeRecords(site, [site.items.atPath('a.png')!.id], { set: { alt: 'Hill' } }),
      1,
    );
    const [entry] = site.rows.list(10);
    site.db.exec(`
      update ledger_plan set plan = '{"cut';
      insert into own_field (name, kind, choices) values ('Season', 'choice', '["cut');
      insert into name_pattern (name, pattern) values ('Cut', '{"cut')`);
    expect(site.rows.list(10)).toHaveLength(1);
    expect(await site.rows.touching(site.reader, site.items.atPath('a.png')!.id, ['a.png'])).toEqual([]);
    await expect(site.rows.read(entry!.id)).rejects.toThrow(/is damaged in the database/);
    expect(site.ownFields.all()).toEqual([{ name: 'Season', kind: 'choice', choices: [] }]);
    expect(site.namePatterns.all()).toEqual([]);
  });
});
