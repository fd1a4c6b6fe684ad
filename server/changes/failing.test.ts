import { mkdir, readFile, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, describe, expect, test } from 'vitest';
import type { PlanRequest } from '../../api/plans.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { ALL_HERE } from '../db/item-query.ts';
import { closeSites, openSite, picture, siteFolder, smallSite, treeOf } from '../test/site.ts';
import { apply, idOf, plan } from '../test/plans.ts';
import { applyProposal } from './apply.ts';

afterEach(closeSites);

const denied = () => Object.assign(new Error('EACCES: permission denied'), { code: 'EACCES' });
const records = (site: OpenedSite) =>
  site.finder
    .list({ ...ALL_HERE, limit: 1000 })
    .items.map(({ id, path, sha256, use, placements, words }) => ({
      id,
      path,
      sha256,
      use,
      placements,
      words,
    }));

const KINDS: Record<string, (site: OpenedSite) => PlanRequest | Promise<PlanRequest>> = {
  rename: (site) => ({
    kind: 'address',
    itemId: idOf(site, 'img/IMG_1234.png'),
    folder: 'new/deep',
    name: 'hill.png',
  }),
  'set aside': (site) => ({
    kind: 'set-aside',
    itemIds: [idOf(site, 'img/unused.png'), idOf(site, 'old/copy-of-b.png')],
  }),
  exchange: (site) => ({
    kind: 'names',
    names: [
      { itemId: idOf(site, 'img/b.png'), name: 'c.png' },
      { itemId: idOf(site, 'img/c.png'), name: 'b.png' },
    ],
  }),
  merge: (site) => ({
    kind: 'merge',
    groups: [{ keeperId: idOf(site, 'old/copy-of-b.png'), otherIds: [idOf(site, 'img/b.png')] }],
  }),
  folder: () => ({ kind: 'folder', folder: 'img', to: 'pictures/all' }),
  copies: (site) => ({ kind: 'copies', itemIds: [idOf(site, 'img/b.png')], folder: 'more/copies' }),
  undo: async (site) => ({
    kind: 'undo',
    entryId: await apply(site, { kind: 'folder', folder: 'img', to: 'pictures/all' }),
  }),
  restore: async (site) => {
    const id = idOf(site, 'old/copy-of-b.png');
    await apply(site, { kind: 'set-aside', itemIds: [id] });
    return { kind: 'restore', itemIds: [id] };
  },
};

describe('a failure at any step', () => {
  test.each(Object.keys(KINDS))(
    'of %s: all is as before, and the same plan goes through afterwards',
    async (kind) => {
      const root = await smallSite();
      // As files of one archive have them: two of the same length can't be told apart by it.
      for (const path of ['img/b.png', 'img/c.png']) await utimes(join(root, path), 1e9, 1e9);
      let [armed, step, at] = [false, 0, 0];
      const site = await openSite(root, {
        onStep: (name) => {
          // When all is done, nothing is left that could fail.
          if (armed && name !== 'after' && ++step === at) throw denied();
        },
      });
      const request = await KINDS[kind]!(site);
      const before = await treeOf(root);
      const kept = records(site);
      for (at = 1; ; at++) {
        const proposal = await plan(site, request);
        expect(proposal.plan.clashes).toEqual([]);
        [armed, step] = [true, 0];
        const outcome = await applyProposal(site, proposal, 1).then(
          () => 'applied',
          (error: Error & { code: string }) => `${error.code}: ${error.message}`,
        );
        armed = false;
        if (outcome === 'applied') break;
        expect(outcome, `step ${at}`).toBe(
          'forbidden: A folder of the site cannot be written to. Nothing was changed.',
        );
        expect(await treeOf(root), `step ${at}`).toEqual(before);
        expect(records(site), `step ${at}`).toEqual(kept);
        expect(site.ledger.unsettled).toEqual([]);
        expect(await site.rows.unfinished()).toEqual([]);
      }
      expect(at).toBeGreaterThan(2);
      expect(await treeOf(root)).not.toEqual(before);
      const done = records(site);
      await site.scanner.scan();
      expect(records(site)).toEqual(done);
    },
  );

  test('of many records in slices: those that were changed already are changed back', async () => {
    const files: Record<string, Uint8Array | string> = {};
    const same = await picture(1);
    for (let i = 0; i < 600; i++) files[`img/p${i}.png`] = Buffer.concat([same, Buffer.from(`${i}`)]);
    const root = await siteFolder(files);
    let failing = '';
    const site = await openSite(root, {
      onStep: (name) => {
        if (name === failing) throw Object.assign(new Error('disk'), { code: 'SQLITE_FULL' });
      },
    });
    const itemIds = site.finder.ids(ALL_HERE);
    const before = await treeOf(root);
    const kept = records(site);
    failing = 'records 100';
    await expect(apply(site, { kind: 'move', itemIds, folder: 'there' })).rejects.toMatchObject({
      code: 'disk-full',
    });
    expect(site.db.pragma('synchronous')).toBe(2);
    failing = '';
    expect(await treeOf(root)).toEqual(before);
    expect(records(site)).toEqual(kept);
    await apply(site, { kind: 'move', itemIds, folder: 'there' });
    expect(site.finder.counts().items).toBe(600);
  });

  test.each([
    ['while they are changed', 'records 100', ''],
    ['and again while they are changed back', 'commit', 'records back 200'],
  ])(
    'of many that change places in a circle, %s: each has its own name again',
    async (_when, first, second) => {
      const files: Record<string, Uint8Array | string> = {};
      const same = await picture(1);
      const name = (i: number) => `p${i % 300}.png`;
      for (let i = 0; i < 300; i++) files[`img/${name(i)}`] = Buffer.concat([same, Buffer.from(`${i}`)]);
      const root = await siteFolder(files);
      const failing = new Set<string>();
      const site = await openSite(root, {
        onStep: (step) => {
          if (failing.has(step)) throw Object.assign(new Error('disk'), { code: 'SQLITE_FULL' });
        },
      });
      const names = site.finder
        .ids(ALL_HERE)
        .map((itemId) => ({ itemId, name: name(Number(/\d+/.exec(site.items.need(itemId).name)![0]) + 1) }));
      const before = await treeOf(root);
      const kept = records(site);
      failing.add(first).add(second);
      await expect(apply(site, { kind: 'names', names })).rejects.toMatchObject({
        code: second === '' ? 'disk-full' : 'unsettled',
      });
      failing.clear();
      if (second !== '')
        expect(await site.scanner.settle()).toEqual([expect.stringMatching(/^Taken back: /)]);
      expect(await treeOf(root)).toEqual(before);
      await site.scanner.scan();
      const placesOf = (all: typeof kept) => all.map(({ id, path }) => ({ id, path }));
      expect(placesOf(records(site))).toEqual(placesOf(kept));
      await apply(site, { kind: 'names', names });
      expect((await treeOf(root))['img/p1.png']).toBe(before['img/p0.png']);
      expect(records(site).every((one) => one.path.startsWith('img/'))).toBe(true);
    },
  );

  test('of many settings in slices: those that were set already are as before', async () => {
    const root = await siteFolder({ 'index.html': '<title>x</title>', 'a.png': await picture(1) });
    let failing = '';
    const site = await openSite(root, {
      onStep: (name) => {
        if (name === failing) throw Object.assign(new Error('disk'), { code: 'SQLITE_FULL' });
      },
    });
    const subjects = Array.from({ length: 450 }, (_, at) => String(at + 1));
    const request = { kind: 'dismiss', check: 'unused', subjects, reason: 'Kept' } as const;
    failing = 'records 200';
    await expect(apply(site, request)).rejects.toMatchObject({ code: 'disk-full' });
    expect(await site.findings.dismissals()).toEqual([]);
    failing = '';
    await apply(site, request);
    expect(await site.findings.dismissals()).toHaveLength(450);
  });
});

describe('a failure that can neither be completed nor taken back', () => {
  async function stuck() {
    const root = await smallSite();
    let broken = false;
    let failing = false;
    const site = await openSite(root, {
      onStep: (name) => {
        if (failing && name === 'switch 1') broken = true;
        if (broken) throw denied();
      },
    });
    const before = await treeOf(root);
    const request = { kind: 'folder', folder: 'img', to: 'pictures' } as const;
    const proposal = await plan(site, request);
    failing = true;
    const told = await applyProposal(site, proposal, 1).catch((error: Error & { code: string }) => error);
    const mend = () => {
      broken = false;
      failing = false;
    };
    return { root, site, before, told: told as Error & { code: string }, mend };
  }

  test('is told truly, everything else is refused, and it is settled when the cause is gone', async () => {
    const { root, site, before, told, mend } = await stuck();
    expect(told.code).toBe('unsettled');
    expect(told.message).toMatch(
      /^Nothing can be changed now, because a change was interrupted: Rename the folder “img” to “pictures”. A folder of the site cannot be written to.$/,
    );
    expect(await treeOf(root)).not.toEqual(before);
    // Also words, and also the name that the unfinished plan has left.
    const [item] = site.finder.list(ALL_HERE).items;
    await expect(
      apply(site, { kind: 'cells', cells: [{ itemId: item!.id, set: { alt: 'x' } }] }),
    ).rejects.toMatchObject({ code: 'unsettled' });
    const other = site.items.atPath('old/copy-of-b.png')!;
    await expect(
      plan(site, { kind: 'address', itemId: other.id, folder: 'img', name: 'b.png' }).then((proposal) =>
        applyProposal(site, proposal, 1),
      ),
    ).rejects.toThrow();
    mend();
    await site.scanner.settle();
    expect(site.ledger.unsettled).toEqual([]);
    expect(await treeOf(root)).toEqual(before);
    await site.scanner.scan();
    expect((await site.references.allBroken()).map((one) => one.url)).toEqual(['../img/none.png']);
    await apply(site, { kind: 'cells', cells: [{ itemId: item!.id, set: { alt: 'x' } }] });
  });

  test('the server starts again, and a file that came to the wanted address meanwhile is never overwritten', async () => {
    const { root, site, before } = await stuck();
    await site.close();
    const tree = await treeOf(root);
    // Whatever has not been moved yet: somebody puts another file at where it was to go, and where it came from.
    const [waiting] = Object.keys(tree).filter((path) => /^img\/.*png$/.test(path));
    await mkdir(join(root, 'pictures'), { recursive: true });
    await writeFile(join(root, waiting!.replace('img/', 'pictures/')), 'theirs');
    const again = await openSite(root);
    expect(await readFile(join(root, waiting!.replace('img/', 'pictures/')), 'utf8')).toBe('theirs');
    const bytes = new Set(Object.values(await treeOf(root)));
    for (const hash of Object.values(before))
      expect(bytes.has(hash) || again.blobs.has(hash), hash).toBe(true);
    // It could not be completed over theirs, so it was taken back.
    expect(again.ledger.unsettled).toEqual([]);
    expect(Object.keys(await treeOf(root))).toContain('img/b.png');
  });

  test('as a last way out it is left as the files stand: nothing is lost, and changes go on', async () => {
    const { root, site, before, mend } = await stuck();
    const { entryId } = site.ledger.unsettled[0]!;
    mend();
    await site.scanner.settle(entryId);
    expect(site.ledger.unsettled).toEqual([]);
    const now = new Set(Object.values(await treeOf(root)));
    for (const hash of Object.values(before)) expect(now.has(hash) || site.blobs.has(hash)).toBe(true);
    await apply(site, { kind: 'new-folder', folder: 'next' });
  });
});

test('a record step that fails takes the files back: it never comes to a server that cannot start', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  const before = await treeOf(root);
  const proposal = await plan(site, {
    kind: 'address',
    itemId: idOf(site, 'img/b.png'),
    folder: 'img',
    name: 'z.png',
  });
  // A step that no record can follow.
  proposal.plan.records.push({ ...proposal.plan.records[0]!, after: { path: 'img/c.png' } });
  await expect(applyProposal(site, proposal, 1)).rejects.toThrow();
  expect(await treeOf(root)).toEqual(before);
  expect(site.ledger.unsettled).toEqual([]);
  await site.close();
  expect((await openSite(root)).items.atPath('img/b.png')).toBeDefined();
});

describe('a folder that moves', () => {
  test('is refused while something in it could not go along: a name that is not UTF-8, a link, a repository', async () => {
    const root = await smallSite();
    const name = Buffer.concat([
      Buffer.from(join(root, 'img/')),
      Buffer.from([0x62, 0xe9]),
      Buffer.from('.png'),
    ]);
    await writeFile(name, await picture(8));
    await mkdir(join(root, 'img/.git'));
    await writeFile(join(root, 'img/.git/config'), 'x');
    const site = await openSite(root);
    const before = await treeOf(root).catch(() => ({}));
    const proposal = await plan(site, { kind: 'folder', folder: 'img', to: 'pictures' });
    expect(proposal.plan.clashes.map((one) => one.why).sort()).toEqual([
      'It belongs to a tool and is never moved. Move it yourself first.',
      'Its name isn’t in UTF-8, so it can’t be moved safely. Rename it on the server first.',
    ]);
    await expect(applyProposal(site, proposal, 1)).rejects.toMatchObject({ code: 'clash' });
    expect(await treeOf(root).catch(() => ({}))).toEqual(before);
  });

  test('takes hidden files along', async () => {
    const root = await smallSite();
    await writeFile(join(root, 'img/.htaccess'), 'Options -Indexes');
    await mkdir(join(root, 'img/.hidden'));
    await writeFile(join(root, 'img/.hidden/x.txt'), 'x');
    const site = await openSite(root);
    await apply(site, { kind: 'folder', folder: 'img', to: 'pictures' });
    const tree = await treeOf(root);
    expect(Object.keys(tree)).toEqual(
      expect.arrayContaining(['pictures/.htaccess', 'pictures/.hidden/x.txt']),
    );
    expect(Object.keys(tree).filter((path) => path.startsWith('img'))).toEqual([]);
  });
});
