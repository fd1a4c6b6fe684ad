import { appendFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, describe, expect, test } from 'vitest';
import type { OpenedSite } from '../app/opened-site.ts';
import { ALL_HERE } from '../db/item-query.ts';
import { Arrivals } from '../intake/arrivals.ts';
import { arrive, closeSites, openSite, picture, siteFolder, smallSite } from '../test/site.ts';
import { apply, plan, idOf, undo } from '../test/unchecked-plans.ts';

afterEach(closeSites);

/** A site of many images, each on a page, and some that nothing uses. */
async function manySite(): Promise<string> {
  const files: Record<string, string | Uint8Array> = { 'other.txt': 'nothing to see' };
  for (let i = 0; i < 40; i++) {
    files[`img/p${i}.png`] = await picture(i);
    if (i % 4 !== 3) files[`pages/p${i}.html`] = `<title>${i}</title><img src="../img/p${i}.png" alt="${i}">`;
  }
  return siteFolder(files);
}

const used = (site: OpenedSite) =>
  Object.fromEntries(
    site.finder
      .list({ ...ALL_HERE, limit: 1000 })
      .items.map((item) => [item.name, [item.use, item.placements]]),
  );

describe('while another program saves files and the site is scanned', () => {
  test('after moves, undo and redo every item is used as before, keeps its words, and cleaning takes only what is unused', async () => {
    const root = await manySite();
    const now: { site?: OpenedSite } = {};
    let saves = 0;
    const scans: Promise<unknown>[] = [];
    const site = (now.site = await openSite(root, {
      // A watcher notices a saved file at every step and scans at once.
      onStep: () => {
        if (!now.site || saves > 400) return;
        saves++;
        scans.push(
          writeFile(join(root, 'other.txt'), `saved ${saves}`).then(() => now.site!.scanner.scan()),
          appendFile(join(root, 'log.txt'), '.').then(() => now.site!.scanner.scan()),
        );
      },
    }));
    const items = site.finder.list({ ...ALL_HERE, limit: 1000 }).items;
    await apply(
      site,
      await plan(site, {
        kind: 'cells',
        cells: items.map((item) => ({ itemId: item.id, set: { alt: `words of ${item.name}` } })),
      }),
    );
    const before = used(site);
    const ids = items.map((item) => item.id);
    const moved = await apply(site, await plan(site, { kind: 'move', itemIds: ids, folder: 'elsewhere' }));
    const expectSame = () => {
      expect(used(site!)).toEqual(before);
      for (const { id, words, name } of items.map(({ id }) => site.items.need(id)))
        expect(words.alt, `${id}`).toBe(`words of ${name}`);
      expect(site.finder.counts().items).toBe(40);
    };
    expectSame();
    const undone = await undo(site, moved);
    expectSame();
    await undo(site, undone);
    expectSame();
    expect(saves).toBeGreaterThan(50);
    await Promise.all(scans);
    expectSame();
    const unused = site.finder.ids({
      ...ALL_HERE,
      where: { join: 'all', not: false, of: [{ test: 'use', value: 'unused', not: false }] },
    });
    expect(unused).toHaveLength(10);
    await apply(site, await plan(site, { kind: 'set-aside', itemIds: unused }));
    expect(site.references.brokenCount()).toBe(0);
  });

  test('bringing in, copying and restoring many make no item twice', async () => {
    const root = await manySite();
    const now: { site?: OpenedSite } = {};
    const scans: Promise<unknown>[] = [];
    const site = (now.site = await openSite(root, {
      onStep: () => void (now.site && scans.push(now.site.scanner.scan())),
    }));
    const ids = site.finder.ids(ALL_HERE);
    const copied = await apply(site, await plan(site, { kind: 'copies', itemIds: ids, folder: 'copies' }));
    expect(site.finder.counts().items).toBe(80);
    await undo(site, copied);
    const unused = ids.filter((id) => site.items.need(id).use === 'unused');
    await apply(site, await plan(site, { kind: 'set-aside', itemIds: unused }));
    await apply(site, await plan(site, { kind: 'restore', itemIds: unused }));
    await arrive(site, await picture(99), 'fresh.png', { folder: 'img' });
    const list = site.arrivals.inState('ready').map((row) => row.id);
    await new Arrivals(site).bringIn(list, 1);
    await Promise.all(scans);
    expect(site.finder.counts().items).toBe(41);
    const twice = site.db.all("select path from item where state = 'here' group by path having count(*) > 1");
    expect(twice).toEqual([]);
  });

  test('records that were made for a change which a crash kept from beginning are collected at the start', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const count = () => site.db.value('select count(*) from item');
    const before = count();
    site.records.addCopy(idOf(site, 'img/b.png'), 'else/b.png', 1, site.now());
    expect(count()).not.toBe(before);
    await site.close();
    const again = await openSite(root);
    expect(again.db.value('select count(*) from item')).toBe(before);
  });

  test('exchanged names and their undo keep each record with its bytes, and the site opens again', async () => {
    const root = await smallSite();
    const now: { site?: OpenedSite } = {};
    const scans: Promise<unknown>[] = [];
    const site = (now.site = await openSite(root, {
      onStep: () => void (now.site && scans.push(now.site.scanner.scan())),
    }));
    const [b, c] = [idOf(site, 'img/b.png'), idOf(site, 'img/c.png')];
    const bytes = [b, c].map((id) => site.items.need(id).sha256);
    const names = [
      { itemId: b, name: 'c.png' },
      { itemId: c, name: 'b.png' },
    ];
    const entry = await apply(site, await plan(site, { kind: 'names', names }));
    expect([b, c].map((id) => site.items.need(id).sha256)).toEqual(bytes);
    await undo(site, entry);
    await Promise.all(scans);
    expect([b, c].map((id) => site.items.need(id).path)).toEqual(['img/b.png', 'img/c.png']);
    await site.close();
    expect((await openSite(root)).items.need(b).sha256).toBe(bytes[0]);
  });

  test('until references are connected again, nothing is told as unused or offered', async () => {
    const root = await manySite();
    const now: { site?: OpenedSite } = {};
    const seen: unknown[] = [];
    const site = (now.site = await openSite(root, {
      onStep: (name) => {
        if (!now.site || name !== 'after') return;
        const where = {
          join: 'all' as const,
          not: false,
          of: [{ test: 'use' as const, value: 'unused', not: false }],
        };
        seen.push([
          now.site.index.useUnknown,
          now.site.finder.count({ ...ALL_HERE, where }),
          now.site.finder.list({ ...ALL_HERE, limit: 100 }).items.filter((item) => item.use === 'unused')
            .length,
        ]);
      },
    }));
    const ids = site.finder.ids(ALL_HERE);
    await apply(site, await plan(site, { kind: 'move', itemIds: ids, folder: 'there' }));
    expect(seen).toEqual([['reading', 0, 0]]);
    expect(site.index.useUnknown).toBeUndefined();
  });

  test('a crash after files were moved leaves it known that references must be connected anew', async () => {
    const root = await manySite();
    const site = await openSite(root);
    const before = used(site);
    // As if the process had ended with the file rows moved and the scan not stored.
    site.index.disconnect();
    site.db.exec('delete from placement; delete from mention');
    await site.close();
    const again = await openSite(root);
    expect(used(again)).toEqual(before);
  });
});
