import { chmod, link, readFile, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, expect, test } from 'vitest';
import type { SitePath } from '../../core/address/path.ts';
import { ALL_HERE } from '../db/item-query.ts';
import { closeSites, openSite, picture, siteFolder, smallSite, treeOf } from '../test/site.ts';
import { proposeAddress, proposeNames } from './addresses.ts';
import { applyProposal } from './apply.ts';
import { sha256Of } from './plan-bytes.ts';
import { proposeUndo } from './undo.ts';

afterEach(closeSites);

const HOME = 'index.html';
async function rename(root: string) {
  const site = await openSite(root);
  const item = site.items.atPath('img/IMG_1234.png')!;
  return { site, proposal: await proposeAddress(site, item.id, 'img', 'hill.png') };
}

test('what was replaced is kept apart: a page that is written to afterwards leaves it as it was', async () => {
  const root = await smallSite();
  const before = await readFile(join(root, HOME));
  const { site, proposal } = await rename(root);
  await applyProposal(site, proposal, 1);
  const kept = site.blobs.get(sha256Of(before));
  expect((await stat(kept)).nlink).toBe(1);
  // In place, as editors do that do not write a new file.
  await writeFile(join(root, HOME), 'something else', { flag: 'r+' });
  expect(await readFile(kept)).toEqual(before);
});

test('a change that fails leaves no page tied to the content store', async () => {
  const root = await smallSite();
  const { site, proposal } = await rename(root);
  const before = await treeOf(root);
  // A file that is in the way of what is staged for the last page.
  const index = proposal.plan.files.findLastIndex((step) => step.do === 'write');
  const last = proposal.plan.files[index]!;
  if (last.do !== 'write') throw new Error('no page is written');
  const blocking = join(root, last.path, '..', `.iconomos-stage-1-${index}`);
  await writeFile(blocking, 'in the way');
  await expect(applyProposal(site, proposal, 1)).rejects.toThrow('EEXIST');
  expect(await treeOf(root)).toEqual(before);
  for (const step of proposal.plan.files)
    if (step.do === 'write' && step.before) {
      expect((await stat(join(root, step.path))).nlink, step.path).toBe(1);
      expect(site.blobs.has(step.before)).toBe(false);
    }
  expect(await site.rows.unfinished()).toEqual([]);
  await expect(stat(blocking)).rejects.toThrow('ENOENT');
  // Planned again, it goes through.
  const again = await proposeAddress(site, site.items.atPath('img/IMG_1234.png')!.id, 'img', 'hill.png');
  await applyProposal(site, again, 1);
  expect(Object.keys(await treeOf(root))).toContain('img/hill.png');
});

test('a kept copy that is damaged is not put back: the undo says so, and nothing changes', async () => {
  const root = await smallSite();
  const bytes = await readFile(join(root, HOME));
  const { site, proposal } = await rename(root);
  await applyProposal(site, proposal, 1);
  const renamed = await treeOf(root);
  await writeFile(site.blobs.get(sha256Of(bytes)), bytes.subarray(1));
  await expect(applyProposal(site, await proposeUndo(site, 1), 1)).rejects.toThrow(
    'The kept copy of “index.html” is damaged',
  );
  expect(await treeOf(root)).toEqual(renamed);
});

test('pages keep their mode; one with a second name of its own elsewhere is replaced, not written through', async () => {
  const root = await smallSite();
  await chmod(join(root, HOME), 0o640);
  const outside = join(root, '..', 'also-home.html');
  await link(join(root, HOME), outside);
  const before = await readFile(outside);
  const { site, proposal } = await rename(root);
  await applyProposal(site, proposal, 1);
  expect((await stat(join(root, HOME))).mode & 0o777).toBe(0o640);
  expect(await readFile(outside)).toEqual(before);
  expect(await readFile(join(root, HOME), 'latin1')).toContain('img/hill.png');
  // What is kept is no name of that other file.
  await writeFile(outside, 'x', { flag: 'r+' });
  expect(await readFile(site.blobs.get(sha256Of(before)))).toEqual(before);
});

test('what is known after many pages were rewritten is what a new start reads', async () => {
  const files: Record<string, string | Uint8Array> = {};
  for (let i = 0; i < 30; i++) {
    files[`img/IMG_${i}.png`] = await picture(i);
    files[`p${i % 3}/page-${i}.html`] =
      `<!doctype html><title>Page ${i} ü</title><a href="../p0/page-0.html">first</a>` +
      `<img src="../img/IMG_${i}.png" alt="one"><img src="../img/IMG_${(i * 7 + 1) % 30}.png"> IMG_${(i + 5) % 30}.png`;
  }
  files['all.md'] = '![a](img/IMG_3.png)\n\nSee view-4.png and IMG_4.png.\n';
  const root = await siteFolder(files);
  const site = await openSite(root);
  const items = site.finder.list(ALL_HERE).items;
  await applyProposal(
    site,
    await proposeNames(
      site,
      items.map((item) => ({ itemId: item.id, name: item.name.replace('IMG_', 'view-') })),
    ),
    1,
  );
  const known = (one: typeof site) => {
    const paths = [...one.index.paths].sort();
    return {
      files: paths.map((path: SitePath) => one.index.factsOf(path)),
      items: one.finder.list(ALL_HERE).items.map(({ path, use, placements }) => ({ path, use, placements })),
      mentions: one.references.mentionsOfAll(paths),
      shown: [...one.references.pagesShowing(paths)].sort(),
    };
  };
  const followed = known(site);
  expect(followed.items.every((item) => item.path.startsWith('img/view-'))).toBe(true);
  await site.close();
  await rm(site.data.root, { recursive: true });
  const fresh = known(await openSite(root));
  expect(followed).toEqual(fresh);
});
