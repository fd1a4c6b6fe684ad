import { join } from 'node:path';
import { mkdir, rename, writeFile } from 'node:fs/promises';
import { afterEach, describe, expect, test } from 'vitest';
import type { PlanRequest } from '../../api/plans.ts';
import { SITE_RULE } from '../../core/intake/rules.ts';
import { targetFault } from '../../core/address/target.ts';
import { Arrivals } from '../intake/arrivals.ts';
import { apply, plan } from '../test/plans.ts';
import { arrive, closeSites, openSite, picture, siteFolder, smallSite, treeOf } from '../test/site.ts';
import { applyProposal } from './apply.ts';
import { proposeFolder } from './folders.ts';
import { proposeUndo } from './undo.ts';

afterEach(closeSites);

test.each([
  ['img/a.png', undefined],
  ['.well-known/a.png', undefined],
  ['img/.private/a.png', 'starts with a dot'],
  ['.git/hooks', 'starts with a dot'],
  ['img/.a.png', 'starts with a dot'],
  ['aux/a.png', 'a device'],
  ['img/NUL.png', 'a device'],
  ['com1', 'a device'],
  ['img./a.png', 'ends with a dot'],
  ['img /a.png', 'ends with a dot or a space'],
  ['../a.png', 'points to another folder'],
  ['a//b.png', 'A name is empty'],
  ['a\u0000.png', 'control character'],
])('%j as a target', (path, why) => {
  if (why === undefined) expect(targetFault(path)).toBeUndefined();
  else expect(targetFault(path)).toContain(why);
});

describe('no plan writes where nothing may be written', () => {
  const FOLDERS = ['.private', 'img/.x', 'aux', 'img/con', 'data./x'];
  test('rules are for folders that can be', async () => {
    const site = await openSite(await smallSite());
    const { folder: _root, tags, ...of } = SITE_RULE;
    const rule = { ...of, tags: [...tags], kinds: null, largestSide: 800 };
    for (const folder of FOLDERS)
      await expect(plan(site, { kind: 'rule', folder, rule }), folder).rejects.toThrow(/can’t have rules/);
    expect((await plan(site, { kind: 'rule', folder: 'img', rule })).plan.settings).toHaveLength(1);
  });

  test('moving, copying, renaming, new folders', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const before = await treeOf(root);
    const { id, name } = site.items.atPath('img/IMG_1234.png')!;
    for (const folder of FOLDERS)
      for (const request of [
        { kind: 'move', itemIds: [id], folder },
        { kind: 'copies', itemIds: [id], folder },
        { kind: 'address', itemId: id, folder, name },
        { kind: 'folder', folder: 'img', to: folder },
        { kind: 'new-folder', folder },
      ] satisfies PlanRequest[]) {
        // A folder moved into itself: that is another refusal.
        if (request.kind === 'folder' && folder.startsWith('img/')) continue;
        const proposal = await plan(site, request);
        expect(proposal.plan.clashes.length, `${request.kind} ${folder}`).toBeGreaterThan(0);
        await expect(applyProposal(site, proposal, 1)).rejects.toMatchObject({ code: 'clash' });
        // Also when whoever applies it took the clashes out.
        proposal.plan.clashes = [];
        if (proposal.plan.files.length === 0) continue;
        await expect(applyProposal(site, proposal, 1), `${request.kind} ${folder}`).rejects.toMatchObject({
          code: 'clash',
        });
      }
    expect(await treeOf(root)).toEqual(before);
  });

  test('bringing in', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const arrivals = new Arrivals(site);
    const before = await treeOf(root);
    for (const folder of FOLDERS) {
      const one = await arrive(site, await picture(50), 'new.png', { folder });
      await expect(arrivals.bringIn([one.id], 1)).rejects.toMatchObject({ code: 'clash' });
      await arrivals.drop(one.id, 1);
    }
    const one = await arrive(site, await picture(50), 'new.png');
    for (const name of ['.htaccess.png', 'a/b.png', 'nul.png'])
      await expect(arrivals.change([one.id], 1, { name }), name).rejects.toMatchObject({
        code: 'bad-request',
      });
    expect(await treeOf(root)).toEqual(before);
  });

  test('the data folder, where it lies in the site', async () => {
    const root = await siteFolder({
      'public/index.html': '<title>x</title>',
      'public/a.png': await picture(1),
    });
    await (await openSite(root)).close();
    const first = await openSite(root);
    first.layout.setValue('public', 'public');
    await first.close();
    await mkdir(join(root, 'kept'));
    await rename(first.data.root, join(root, 'kept/data'));
    const site = await openSite(root, { data: join(root, 'kept/data') });
    const { id } = site.items.atPath('public/a.png')!;
    const { plan: found } = await plan(site, { kind: 'move', itemIds: [id], folder: 'kept/data/blobs' });
    expect(found.clashes[0]!.why).toBe('Iconomos keeps its data in this folder.');
  });

  test('what pages show stays in the public folders; what they do not may leave them', async () => {
    const root = await siteFolder({
      'public/index.html': '<title>x</title><img src="/a.png">',
      'public/a.png': await picture(1),
      'public/b.png': await picture(2),
    });
    const site = await openSite(root);
    await apply(site, { kind: 'public', folders: ['public'] });
    const move = async (name: string) => {
      const { id } = site.items.atPath(`public/${name}`)!;
      return (await plan(site, { kind: 'move', itemIds: [id], folder: 'sources' })).plan.clashes;
    };
    expect((await move('a.png')).map((one) => one.why)).toContain(
      'It is in use, and visitors couldn’t load it there, outside the public folders.',
    );
    expect(await move('b.png')).toEqual([]);
  });
});

test('what is hidden in a folder goes along with it, and back', async () => {
  const root = await smallSite();
  await writeFile(join(root, 'img/.htaccess'), 'Options -Indexes\n');
  const site = await openSite(root);
  const before = await treeOf(root);
  const proposal = await proposeFolder(site, 'img', 'pictures');
  const id = await applyProposal(site, proposal, 1);
  expect(Object.keys(await treeOf(root))).toContain('pictures/.htaccess');
  await applyProposal(site, await proposeUndo(site, id), 1);
  const { 'iconomos-redirects.csv': _kept, ...after } = await treeOf(root);
  expect(after).toEqual(before);
});
