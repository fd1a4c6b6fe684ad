import { join } from 'node:path';
import { readFile, writeFile } from 'node:fs/promises';
import sharp from 'sharp';
import { afterEach, expect, test } from 'vitest';
import { NO_WORDS } from '../../core/describe/fields.ts';
import { Exports } from '../export/export.ts';
import { reportOf } from '../upkeep/report.ts';
import { scanSite } from '../scan/scan.ts';
import { familiesIn } from '../upkeep/survey-families.ts';
import { ALL_HERE } from '../db/item-query.ts';
import { closeSites, openSite, siteFolder, treeOf } from '../test/site.ts';
import { apply, plan, undo } from '../test/plans.ts';
import { applyProposal } from './apply.ts';
import { proposeWords } from './records.ts';
import { wide } from '../test/media.ts';

afterEach(closeSites);

/** An image with something in it, as wide as it is said; other numbers, other images. */
const drawn = (width: number, number = 1) =>
  sharp(
    Buffer.from(
      `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 50"><rect width="100" height="50" fill="hsl(${number * 90} 60% 70%)"/>
       <circle cx="${(number * 30) % 100}" cy="25" r="20" fill="hsl(${number * 140} 70% 30%)"/></svg>`,
    ),
    { density: 600 },
  )
    .resize(width, width / 2)
    .jpeg()
    .toBuffer();

/** Sizes beside the image and in a folder below it, on a page that shows all of them. */
async function familySite() {
  const root = await siteFolder({
    'index.html': `<!doctype html><title>Home</title><body><p>One</p>
<img src="img/hill-480.jpg" alt="A hill" srcset="img/hill-480.jpg 480w, img/small/hill-240.jpg 240w">
<a href="img/hill.jpg">Larger</a></body>`,
    'img/hill.jpg': await drawn(1920),
    'img/hill-480.jpg': await drawn(480),
    'img/small/hill-240.jpg': await drawn(240),
    'img/lake.jpg': await drawn(1920, 2),
    'img/lake-800.jpg': await drawn(800, 3),
    'other/keep.txt': 'a',
  });
  const site = await openSite(root);
  const at = (path: string) => site.items.atPath(path)!;
  // One in another folder is found as a size by the page that offers it with another one.
  const listed = () => site.finder.list({ ...ALL_HERE, sort: 'path' }).items.map((item) => item.path);
  return { root, site, at, listed };
}

test('one image is one item in lists, counts and finds; its sizes are found by their names and tags', async () => {
  const { site, at, listed } = await familySite();
  await apply(site, {
    kind: 'family',
    itemIds: [at('img/small/hill-240.jpg').id],
    of: at('img/hill.jpg').id,
  });
  expect(listed()).toEqual(['img/hill.jpg', 'img/lake.jpg']);
  expect(site.finder.counts().items).toBe(2);
  expect(at('img/hill.jpg')).toMatchObject({ sizes: 2, placements: 2 });
  const found = (words: string[]) => site.finder.list({ ...ALL_HERE, words }).items.map((item) => item.path);
  expect(found(['hill', '480'])).toEqual(['img/hill.jpg']);
  await apply(site, { kind: 'records', itemIds: [at('img/hill-480.jpg').id], addTags: ['view'] });
  expect(site.tags.counts()).toEqual([{ name: 'view', items: 1 }]);
  expect(
    site.finder.ids({
      ...ALL_HERE,
      where: { join: 'all', not: false, of: [{ test: 'tag', value: 'view', not: false }] },
    }),
  ).toEqual([at('img/hill.jpg').id]);
});

test('what is only called like a size is none, once both have been looked at; so it is in the report', async () => {
  const { site, at } = await familySite();
  const { root } = site.folder;
  const survey = await scanSite({ root, dataFolder: site.data.root, pool: site.pool });
  const counted = async (looks?: Parameters<typeof familiesIn>[1]) =>
    (await reportOf(survey, await familiesIn(survey, looks))).site.items;
  // Both hills and the small one, which the page offers with one of them, are one; the lakes do not look alike.
  expect(await counted()).toBe(2);
  expect(await counted({ root, pool: site.pool })).toBe(3);
  expect(at('img/lake-800.jpg').sizeOf).toBe(at('img/lake.jpg').id);
  await site.analyser.analyseAll();
  expect(at('img/lake-800.jpg').sizeOf).toBeNull();
  expect(at('img/hill-480.jpg').sizeOf).toBe(at('img/hill.jpg').id);
});

test('renamed and moved together, with every reference; taken back, all is as it was', async () => {
  const { root, site, at } = await familySite();
  const hill = at('img/hill.jpg').id;
  await apply(site, { kind: 'family', itemIds: [at('img/small/hill-240.jpg').id], of: hill });
  const before = await treeOf(root);
  const renamed = await plan(site, { kind: 'address', itemId: hill, folder: 'img', name: 'slope.jpg' });
  expect(renamed.plan).toMatchObject({ title: 'Rename “hill.jpg” to “slope.jpg”', totals: { items: 1 } });
  const first = await applyProposal(site, renamed, 1);
  const second = await apply(site, { kind: 'move', itemIds: [hill], folder: 'views/high' });
  expect(Object.keys(await treeOf(root)).filter((path) => path.includes('slope'))).toEqual([
    'views/high/slope-480.jpg',
    'views/high/slope.jpg',
    'views/high/small/slope-240.jpg',
  ]);
  expect(await readFile(join(root, 'index.html'), 'utf8')).toContain(
    'srcset="views/high/slope-480.jpg 480w, views/high/small/slope-240.jpg 240w"',
  );
  expect(site.references.brokenCount()).toBe(0);
  await undo(site, second);
  await undo(site, first);
  expect(await treeOf(root)).toEqual(before);
});

test('a size whose new address is taken stays where it is, and is told', async () => {
  const { root, site, at } = await familySite();
  await writeFile(join(root, 'img/slope-480.jpg'), await drawn(480, 7));
  const { plan: renamed } = await plan(site, {
    kind: 'address',
    itemId: at('img/hill.jpg').id,
    folder: 'img',
    name: 'slope.jpg',
  });
  expect(renamed.clashes).toEqual([]);
  expect(renamed.warnings.join()).toContain('“img/slope-480.jpg” is taken');
  const hill = at('img/hill.jpg').id;
  await apply(site, { kind: 'address', itemId: hill, folder: 'img', name: 'slope.jpg' });
  expect(at('img/hill-480.jpg').sizeOf).toBe(hill);
});

test('replaced together: the sizes are made of the new file; taken back and brought back together', async () => {
  const { root, site, at } = await familySite();
  const before = await treeOf(root);
  const entry = await apply(site, {
    kind: 'replace',
    itemId: at('img/hill.jpg').id,
    by: { itemId: at('img/lake.jpg').id },
    name: 'keep',
    dates: 'keep',
  });
  const size = await sharp(join(root, 'img/hill-480.jpg')).stats();
  const lake = await sharp(join(root, 'img/lake.jpg')).stats();
  size.channels.forEach(({ mean }, index) =>
    expect(Math.abs(mean - lake.channels[index]!.mean)).toBeLessThan(3),
  );
  expect((await sharp(join(root, 'img/hill-480.jpg')).metadata()).width).toBe(480);
  await apply(site, { kind: 'bring-back', itemId: at('img/hill.jpg').id, entryId: entry });
  expect(await treeOf(root)).toEqual(before);
});

test('set aside and restored together, and listed there as one', async () => {
  const { root, site, at } = await familySite();
  await writeFile(join(root, 'index.html'), '<title>Home</title>');
  await site.scanner.scan();
  const hill = at('img/hill.jpg').id;
  const before = await treeOf(root);
  await apply(site, { kind: 'set-aside', itemIds: [hill] });
  expect(site.finder.counts().aside).toBe(1);
  expect(site.finder.list({ ...ALL_HERE, state: 'aside' }).items).toMatchObject([{ id: hill, sizes: 1 }]);
  await apply(site, { kind: 'restore', itemIds: [hill] });
  expect(await treeOf(root)).toEqual(before);
  // Their names are taken meanwhile: under others, both are still one item.
  await apply(site, { kind: 'set-aside', itemIds: [hill] });
  await writeFile(join(root, 'img/hill.jpg'), await drawn(900, 9));
  await site.scanner.scan();
  await apply(site, { kind: 'restore', itemIds: [hill], freeNames: true });
  expect(at('img/hill-2.jpg')).toMatchObject({ id: hill, sizes: 1 });
});

test('exported together; words go into the files of all', async () => {
  const { site, at } = await familySite();
  const hill = at('img/hill.jpg').id;
  await apply(site, { kind: 'cells', cells: [{ itemId: hill, set: { alt: 'A hill', title: 'Hill' } }] });
  const { items } = await new Exports(site).make([hill], 1);
  expect(items).toBe(3);
  await apply(site, { kind: 'embed', itemIds: [hill], as: 'file' });
  const { words } = await site.metadata.read(join(site.folder.root, 'img/hill-480.jpg'));
  expect(words.title).toBe('Hill');
});

test('put together by hand, the image gets the words that only the size has; taken apart again; undone', async () => {
  const { site, at, listed } = await familySite();
  await site.analyser.analyseAll();
  const [lake, small] = [at('img/lake.jpg').id, at('img/lake-800.jpg').id];
  await apply(site, { kind: 'cells', cells: [{ itemId: small, set: { alt: 'A lake' } }] });
  const together = await apply(site, { kind: 'family', itemIds: [small], of: lake });
  expect(at('img/lake-800.jpg').sizeOf).toBe(lake);
  expect(at('img/lake.jpg').words.alt).toBe('A lake');
  const hillSize = at('img/hill-480.jpg').id;
  await apply(site, { kind: 'family', itemIds: [hillSize], of: 'apart' });
  expect(listed()).toContain('img/hill-480.jpg');
  await site.scanner.scan(true);
  expect(at('img/hill-480.jpg').sizeOf).toBeNull();
  await apply(site, { kind: 'family', itemIds: [hillSize], of: 'found' });
  expect(at('img/hill-480.jpg').sizeOf).toBe(at('img/hill.jpg').id);
  await undo(site, together);
  expect(at('img/lake-800.jpg').sizeOf).toBeNull();
  expect(at('img/lake.jpg').words.alt).toBe('');
});

test('sizes of sizes and circles, said by hand: one of them stands for all', async () => {
  const { site, at, listed } = await familySite();
  await site.analyser.analyseAll();
  const [hill, lake, small] = ['img/hill.jpg', 'img/lake.jpg', 'img/lake-800.jpg'].map((path) => at(path).id);
  await apply(site, { kind: 'family', itemIds: [small!], of: lake! });
  await apply(site, { kind: 'family', itemIds: [lake!], of: hill! });
  expect(at('img/lake-800.jpg').sizeOf).toBe(hill);
  await apply(site, { kind: 'family', itemIds: [hill!], of: small! });
  expect(listed()).toContain('img/lake-800.jpg');
  expect(at('img/hill.jpg').sizeOf).toBe(small);
});

test('merged into another, its sizes are those of the one that stays', async () => {
  const { root, site, at } = await familySite();
  await writeFile(join(root, 'img/knoll.jpg'), await drawn(1920));
  await writeFile(join(root, 'img/knoll-480.jpg'), await drawn(480));
  await site.scanner.scan();
  await apply(site, {
    kind: 'merge',
    groups: [{ keeperId: at('img/knoll.jpg').id, otherIds: [at('img/hill.jpg').id] }],
  });
  expect(site.items.atPath('img/hill-480.jpg')).toBeUndefined();
  expect(await readFile(join(root, 'index.html'), 'utf8')).toContain('src="img/knoll-480.jpg"');
  expect(site.references.brokenCount()).toBe(0);
});

test('what is written of a size is written in its image’s record, whichever way; two different words for one item are refused', async () => {
  const root = await siteFolder({
    'index.html': '<title>x</title>',
    'moor.jpg': await wide(900),
  });
  const site = await openSite(root);
  const itemId = site.items.atPath('moor.jpg')!.id;
  await apply(site, { kind: 'sizes', itemId });
  await site.scanner.scan();
  const size = site.items.atPath('moor-480.jpg')!.id;
  expect(site.items.need(size).sizeOf).toBe(itemId);
  const words = () => site.items.need(itemId).words;
  await apply(site, { kind: 'cells', cells: [{ itemId: size, set: { alt: 'The moor' } }] });
  await apply(site, { kind: 'records', itemIds: [size, itemId], addTags: ['moor'], owner: 'Ben' });
  await apply(site, { kind: 'edit', itemIds: [size], field: 'title', edit: { edit: 'set', text: 'Moor' } });
  await apply(site, { kind: 'focal', itemId: size, focal: '20 30', places: [] });
  await applyProposal(
    site,
    proposeWords(site, size, site.items.need(size).rowVersion, { credit: 'Ottilie Marrow' }),
    1,
  );
  expect(words()).toMatchObject({ alt: 'The moor', title: 'Moor', credit: 'Ottilie Marrow', tags: ['moor'] });
  expect(site.items.need(itemId)).toMatchObject({ owner: 'Ben', focal: '20 30' });
  expect(site.items.need(size)).toMatchObject({ owner: null, focal: '', words: NO_WORDS });

  const cells = (alt: string) => [
    { itemId, set: { alt: 'One' } },
    { itemId: size, set: { alt } },
  ];
  const both = await plan(site, { kind: 'cells', cells: cells('Another') });
  expect(both.plan.clashes).toEqual([{ path: 'moor.jpg', why: expect.stringContaining('Enter it once') }]);
  await apply(site, { kind: 'cells', cells: cells('One') });
  expect(words().alt).toBe('One');
});
