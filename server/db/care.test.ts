import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, expect, test } from 'vitest';
import { closeSites, openSite, siteFolder } from '../test/site.ts';
import { Care, type CareDay } from './care.ts';
import { openDatabase } from './open.ts';
import type { Reader } from './reader.ts';

afterEach(closeSites);

test('days are kept in their order, each as it was last; what an earlier version did not keep is not known', async () => {
  const folder = await mkdtemp(join(tmpdir(), 'iconomos-care-'));
  const db = openDatabase(join(folder, 'x.db'));
  try {
    const care = new Care(db, undefined as unknown as Reader);
    const day = (name: string, described: number, troubled: CareDay['troubled']): CareDay => ({
      day: name,
      items: 10,
      bytes: 1000,
      described,
      named: 2,
      filed: 3,
      placed: 4,
      troubled,
    });
    const troubled = { doubles: 1, weight: 2, rights: 3, files: 0 };
    care.keep(day('2026-11-03', 5, troubled));
    care.keep(day('2026-11-01', 1, null));
    care.keep(day('2026-11-02', 2, troubled));
    care.keep(day('2026-11-02', 4, { ...troubled, files: 9 }));
    const all = [
      day('2026-11-01', 1, null),
      day('2026-11-02', 4, { ...troubled, files: 9 }),
      day('2026-11-03', 5, troubled),
    ];
    expect(care.history(400)).toEqual(all);
    expect(care.history(2)).toEqual(all.slice(1));
  } finally {
    db.close();
    await rm(folder, { recursive: true });
  }
});

test('today is kept as it is told, and again when it has changed', async () => {
  const root = await siteFolder({
    'index.html': '<title>x</title><img src="a.svg" alt="A"><img src="b.svg" alt="B">',
    'a.svg': '<svg xmlns="http://www.w3.org/2000/svg" width="4" height="4"/>',
    'b.svg': '<svg xmlns="http://www.w3.org/2000/svg" width="4" height="4"/>',
    'c.svg': '<svg xmlns="http://www.w3.org/2000/svg" width="5" height="4"/>',
  });
  const site = await openSite(root);
  await site.checks.refresh();
  const first = await site.checks.keepDay('', '');
  expect(first.care).toMatchObject({ items: 3, placed: 2, named: 0, filed: 0 });
  // Two of the same bytes are both among the doubles.
  expect(first.care.troubled).toEqual({ doubles: 2, weight: 0, rights: 0, files: 0 });
  expect(site.care.history(10)).toEqual([first.care]);

  site.db.run("update item set sha256 = 'x', row_version = row_version + 1 where path = 'b.svg'");
  await site.checks.refresh();
  const second = await site.checks.keepDay('', '');
  expect(second.care.troubled!.doubles).toBe(0);
  expect(site.care.history(10)).toEqual([second.care]);
});
