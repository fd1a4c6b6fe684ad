import { join } from 'node:path';
import { writeFile } from 'node:fs/promises';
import sharp from 'sharp';
import { afterEach, expect, test } from 'vitest';
import type { PlanRequest } from '../../api/plans.ts';
import type { Site } from '../site/site.ts';
import { closeSites, openSite, siteFolder, treeOf } from '../test/site.ts';
import { propose } from './kinds.ts';
import { applyProposal } from './proposal.ts';

afterEach(closeSites);

const plan = (site: Site, request: PlanRequest) => propose(site, request as Parameters<typeof propose>[1], 1);
const apply = async (site: Site, request: PlanRequest) => applyProposal(site, await plan(site, request), 1);
const wide = (width: number) =>
  sharp({ create: { width, height: width / 2, channels: 3, background: '#369' } })
    .jpeg()
    .toBuffer();

/** A page that shows only sizes of the picture, and a picture of its own beside it. */
async function sizedSite() {
  const root = await siteFolder({
    'index.html':
      '<title>Home</title><img src="img/hill-480.jpg" srcset="img/hill-480.jpg 480w, img/hill-960.jpg 960w">',
    'img/hill.jpg': await wide(1920),
    'img/hill-480.jpg': await wide(480),
    'img/hill-960.jpg': await wide(960),
    'img/idle.jpg': await wide(1600),
    'img/idle-800.jpg': await wide(800),
  });
  const site = await openSite(root);
  return { root, site, at: (path: string) => site.items.atPath(path)! };
}

test('a picture whose sizes are shown is in use, and cleaning leaves it; an unused one goes with its sizes', async () => {
  const { root, site, at } = await sizedSite();
  expect(at('img/hill.jpg')).toMatchObject({ use: 'placed', placements: 0 });
  expect([at('img/hill-480.jpg').sizeOf, at('img/hill-960.jpg').sizeOf]).toEqual(
    Array(2).fill(at('img/hill.jpg').id),
  );
  const refused = await plan(site, { kind: 'set-aside', itemIds: [at('img/hill.jpg').id] });
  expect(refused.plan.clashes[0]!.why).toContain('another size of the same image');
  const before = await treeOf(root);
  const entryId = await apply(site, { kind: 'set-aside', itemIds: [at('img/idle.jpg').id] });
  expect(Object.keys(await treeOf(root)).filter((path) => path.includes('idle'))).toEqual([]);
  await apply(site, { kind: 'undo', entryId });
  expect(await treeOf(root)).toEqual(before);
});

test('sizes add nothing to what is to be described', async () => {
  const { site, at } = await sizedSite();
  expect(site.items.counts().undescribed).toBe(2);
  await site.checks.refresh();
  expect(site.findings.ids('no-alt').sort()).toEqual([at('img/hill.jpg').id, at('img/idle.jpg').id].sort());
});

test('placed by us with sizes, then cleaned as a whole: the original with its words is still there', async () => {
  const root = await siteFolder({
    'index.html': '<!doctype html><title>Home</title><body><p>One</p></body>',
    'img/pond.jpg': await wide(1920),
  });
  const site = await openSite(root);
  const id = site.items.atPath('img/pond.jpg')!.id;
  await apply(site, { kind: 'cells', cells: [{ itemId: id, set: { alt: 'A pond', credit: 'Ann' } }] });
  const html = '<!doctype html><title>Home</title><body>';
  await apply(site, {
    kind: 'place',
    page: 'index.html',
    spot: { at: html.length },
    itemId: id,
    caption: false,
    classes: '',
    shownWidth: 480,
    sizes: true,
    full: false,
  });
  const unused = await plan(site, { kind: 'set-aside', itemIds: [id], leavePlaced: true });
  expect(unused.plan.files).toEqual([]);
  expect(site.items.need(id)).toMatchObject({ use: 'placed', words: { alt: 'A pond', credit: 'Ann' } });
  // A picture that is no size of it, whatever its name says, stands for itself.
  await writeFile(join(root, 'img/pond-2.jpg'), await wide(1000));
  await site.scan();
  expect(site.items.atPath('img/pond-2.jpg')).toMatchObject({ use: 'unused', sizeOf: null });
});
