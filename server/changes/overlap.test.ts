import * as fs from 'node:fs';
import { appendFile, open, readFile, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, describe, expect, test } from 'vitest';
import type { PlanRequest } from '../../api/plans.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { ALL_HERE } from '../db/item-query.ts';
import { Arrivals } from '../intake/arrivals.ts';
import { arrive, closeSites, openSite, picture, siteFolder, smallSite, treeOf } from '../test/site.ts';
import { propose } from './kinds/index.ts';
import { applyProposal } from './apply.ts';

afterEach(closeSites);

const apply = (site: OpenedSite, proposal: Awaited<ReturnType<typeof plan>>) =>
  applyProposal(site, proposal, 1);
const plan = (site: OpenedSite, request: Parameters<typeof propose>[1] | PlanRequest) =>
  propose(site, request as Parameters<typeof propose>[1], { personId: 1 });
const idOf = (site: OpenedSite, path: string) => site.items.atPath(path)!.id;
const undo = async (site: OpenedSite, entryId: number) =>
  apply(site, await plan(site, { kind: 'undo', entryId }));

/** A site of many pictures, each on a page, and some that nothing uses. */
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

describe('edits by others while a plan is being applied', () => {
  /** Renames while others do something just before a step; answers what the person is told. */
  async function disturbed(at: string, how: (root: string) => Promise<unknown>) {
    const root = await smallSite();
    let armed = false;
    const now: { site?: OpenedSite } = {};
    let doing: Promise<unknown> | undefined;
    const site = (now.site = await openSite(root, {
      onStep: (name) => {
        if (armed && name === at && !doing) doing = how(root);
      },
    }));
    const proposal = await plan(site, {
      kind: 'address',
      itemId: idOf(site, 'img/IMG_1234.png'),
      folder: 'new/deep',
      name: 'hill.png',
    });
    armed = true;
    const told = await apply(site, proposal).then(
      () => 'applied',
      (error: Error & { code: string }) => `${error.code}: ${error.message}`,
    );
    await doing;
    return { root, site, told };
  }

  test.each([
    ['in place', (path: string) => appendSync(path, '<!-- theirs -->')],
    ['by another file in its place', (path: string) => replaceSync(path, 'theirs, whole')],
  ])(
    'a page that is edited %s between staging and switching keeps that edit; all else is as before',
    async (_how, edit) => {
      const { root, site, told } = await disturbed('switching', (at) => {
        edit(join(at, 'sub/page.html'));
        return Promise.resolve();
      });
      const theirs = await readFile(join(root, 'sub/page.html'), 'utf8');
      expect(told).toMatch(/^moved-on: “sub\/page.html” was changed by another program/);
      expect(theirs).toContain('theirs');
      expect(theirs).not.toContain('hill.png');
      const tree = await treeOf(root);
      expect(Object.keys(tree)).toContain('img/IMG_1234.png');
      expect(Object.keys(tree)).not.toContain('new/');
      expect(await readFile(join(root, 'index.html'), 'utf8')).toContain('img/IMG_1234.png');
      expect(await site.rows.unfinished()).toEqual([]);
      expect(site.ledger.unsettled).toEqual([]);
      // Planned again, it goes through, with their edit.
      const again = await plan(site, {
        kind: 'address',
        itemId: idOf(site, 'img/IMG_1234.png'),
        folder: 'new/deep',
        name: 'hill.png',
      });
      await apply(site, again);
      if (theirs.includes('<img'))
        expect(await readFile(join(root, 'sub/page.html'), 'utf8')).toContain('hill.png');
    },
  );

  test('a file that others put at the new address stays; the change is taken back', async () => {
    const { root, told, site } = await disturbed('switching', (at) => {
      writeSync(join(at, 'new/deep/hill.png'), 'theirs');
      return Promise.resolve();
    });
    expect(told).toMatch(/^moved-on: Another program has put a file at “new\/deep\/hill.png”/);
    expect(await readFile(join(root, 'new/deep/hill.png'), 'utf8')).toBe('theirs');
    expect((await stat(join(root, 'img/IMG_1234.png'))).isFile()).toBe(true);
    expect(site.ledger.unsettled).toEqual([]);
    expect(site.references.placementsOf('img/IMG_1234.png')).toHaveLength(7);
  });

  test('what was kept of a page stays as it was when an editor writes on in the old file', async () => {
    const root = await smallSite();
    const before = await readFile(join(root, 'index.html'));
    const editor = await open(join(root, 'index.html'), 'r+');
    const site = await openSite(root);
    const entry = await apply(
      site,
      await plan(site, { kind: 'address', itemId: idOf(site, 'img/b.png'), folder: 'img', name: 'bee.png' }),
    );
    await editor.write('written late');
    await editor.close();
    await undo(site, entry);
    expect(await readFile(join(root, 'index.html'))).toEqual(before);
  });
});

function appendSync(path: string, text: string): void {
  fs.appendFileSync(path, text);
}
function replaceSync(path: string, text: string): void {
  fs.writeFileSync(`${path}~`, text);
  fs.renameSync(`${path}~`, path);
}
function writeSync(path: string, text: string): void {
  fs.writeFileSync(path, text);
}

describe('a plan whose ground has changed', () => {
  const PLACE_B = '<img src="img/unused.png" alt="now shown">';
  const place = async (root: string) => appendFile(join(root, 'index.html'), PLACE_B);
  const placeElsewhere = (root: string, path: string) =>
    writeFile(join(root, 'fresh.html'), `<title>Fresh</title><img src="${path}">`);

  test.each<[string, string, (site: OpenedSite) => Promise<PlanRequest>]>([
    [
      'rename',
      'img/unused.png',
      (site) =>
        Promise.resolve({
          kind: 'address',
          itemId: idOf(site, 'img/unused.png'),
          folder: 'img',
          name: 'free.png',
        }),
    ],
    [
      'set aside',
      'img/unused.png',
      (site) => Promise.resolve({ kind: 'set-aside', itemIds: [idOf(site, 'img/unused.png')] }),
    ],
    [
      'merge',
      'old/copy-of-b.png',
      (site) =>
        Promise.resolve({
          kind: 'merge',
          groups: [{ keeperId: idOf(site, 'img/b.png'), otherIds: [idOf(site, 'old/copy-of-b.png')] }],
        }),
    ],
    [
      'move',
      'img/unused.png',
      (site) => Promise.resolve({ kind: 'move', itemIds: [idOf(site, 'img/unused.png')], folder: 'x' }),
    ],
    [
      'folder rename',
      'old/copy-of-b.png',
      () => Promise.resolve({ kind: 'folder', folder: 'old', to: 'older' }),
    ],
    [
      'undo of copies',
      'cc/c.png',
      async (site) => ({
        kind: 'undo',
        entryId: await apply(
          site,
          await plan(site, { kind: 'copies', itemIds: [idOf(site, 'img/c.png')], folder: 'cc' }),
        ),
      }),
    ],
  ])(
    '%s: somebody places the item meanwhile; it is refused, and computed anew it fits',
    async (_kind, path, request) => {
      const root = await smallSite();
      const site = await openSite(root);
      const asked = await request(site);
      const proposal = await plan(site, asked);
      expect(proposal.plan.clashes).toEqual([]);
      await placeElsewhere(root, path);
      const before = await treeOf(root);
      await expect(apply(site, proposal)).rejects.toMatchObject({ code: 'moved-on' });
      expect(await treeOf(root)).toEqual(before);
      const again = await plan(site, asked);
      if (again.plan.clashes.length === 0) await apply(site, again);
      await site.scanner.scan();
      expect((await site.references.allBroken()).map((one) => one.url)).toEqual(['../img/none.png']);
    },
  );

  test('placing an item that has moved meanwhile is refused', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const id = idOf(site, 'img/unused.png');
    const placing = await plan(site, {
      kind: 'place',
      page: 'sub/page.html',
      spot: { at: 0 },
      itemId: id,
      caption: false,
      classes: '',
      shownWidth: null,
      sizes: false,
      full: true,
    });
    await apply(site, await plan(site, { kind: 'address', itemId: id, folder: 'img', name: 'used.png' }));
    await expect(apply(site, placing)).rejects.toMatchObject({ code: 'moved-on' });
  });

  test('a folder with pages moves although other pages change; not when one of them has come to lead there', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const request = { kind: 'folder', folder: 'sub', to: 'below' } as const;
    const proposal = await plan(site, request);
    await writeFile(join(root, 'notes.txt'), 'nothing of it');
    await writeFile(join(root, 'other.html'), '<a href="index.html">home</a>');
    await apply(site, proposal);
    const back = await plan(site, { kind: 'undo', entryId: site.rows.list(1)[0]!.id });
    await writeFile(join(root, 'other.html'), '<a href="below/page.html">there</a>');
    await expect(apply(site, back)).rejects.toMatchObject({
      code: 'moved-on',
      message: expect.stringContaining('“other.html”') as string,
    });
    await undo(site, site.rows.list(1)[0]!.id);
    expect(await readFile(join(root, 'other.html'), 'utf8')).toBe('<a href="sub/page.html">there</a>');
  });

  test('the same on the page that the plan itself writes', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const proposal = await plan(site, { kind: 'set-aside', itemIds: [idOf(site, 'img/unused.png')] });
    await place(root);
    await expect(apply(site, proposal)).rejects.toMatchObject({ code: 'moved-on' });
  });

  test('two unrelated renames do not refuse each other, and both keep their redirect; each can be undone', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const tree = await treeOf(root);
    const asks = ['b', 'c', 'unused', 'mentioned'].map((name) => ({
      kind: 'address' as const,
      itemId: idOf(site, `img/${name}.png`),
      folder: 'img',
      name: `${name}-new.png`,
    }));
    const plans = [];
    for (const ask of asks.filter((one) => !one.name.startsWith('c'))) plans.push(await plan(site, ask));
    const entries = [];
    for (const one of plans) entries.push(await apply(site, one));
    const redirects = await readFile(join(root, 'iconomos-redirects.csv'), 'utf8');
    for (const name of ['b', 'unused', 'mentioned']) expect(redirects).toContain(`/img/${name}-new.png`);
    // Undone in another order than they came.
    for (const entry of [entries[1]!, entries[0]!, entries[2]!]) await undo(site, entry);
    const after = await treeOf(root);
    const { 'iconomos-redirects.csv': _left, ...rest } = after;
    expect(rest).toEqual(tree);
  });
});
