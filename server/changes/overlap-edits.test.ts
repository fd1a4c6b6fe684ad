import * as fs from 'node:fs';
import { appendFile, open, readFile, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, describe, expect, test } from 'vitest';
import type { PlanRequest } from '../../api/plans.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { closeSites, openSite, smallSite, treeOf } from '../test/site.ts';
import { apply, plan, idOf, undo } from '../test/unchecked-plans.ts';

afterEach(closeSites);

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
