import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterEach, expect, test } from 'vitest';
import type { PlanRequest } from '../../api/plans.ts';
import type { Recipe } from '../../core/picture/recipe/recipe.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { gallerySite, idOf, paint, text, there } from '../test/galleries.ts';
import { painted } from '../test/media.ts';
import { closeSites, openSite, treeOf } from '../test/site.ts';
import { applyProposal } from './apply.ts';
import { propose } from './kinds/index.ts';
import { sourceOf, tryRecipe } from './prepare.ts';
import { emptyAside } from './upkeep.ts';

afterEach(closeSites);

type Request = Extract<PlanRequest, { kind: 'prepare' }>;
const HALF: Recipe = { version: 1, frame: { x: 0, y: 0, width: 0.5, height: 1 } };
const prepared = (
  site: OpenedSite,
  itemId: number,
  recipe: Recipe,
  to: Request['to'] = { as: 'this', sizes: 'all' },
) => propose(site, { kind: 'prepare', itemId, recipe, to }, { personId: 1 });
const sizeOf = async (root: string, path: string) => {
  const { width, height } = await sharp(await readFile(join(root, path))).metadata();
  return [width, height];
};

test('where pages keep the focal point in sight, it follows; where their author wrote another position, that stays', async () => {
  const root = await gallerySite();
  const page = (position: string) =>
    `<title>Hall</title><img src="img/wide.jpg" alt="" style="object-fit: cover; object-position:${position}">`;
  await writeFile(join(root, 'hall.html'), page(' 25%  50%'));
  await writeFile(join(root, 'own.html'), page(' 10% 10%'));
  const site = await openSite(root);
  const id = idOf(site, 'img/wide.jpg');
  await applyProposal(
    site,
    await propose(site, { kind: 'focal', itemId: id, focal: '25 50', places: [] }, { personId: 1 }),
    1,
  );
  const proposal = await propose(
    site,
    {
      kind: 'prepare',
      itemId: id,
      // The left three fifths: what lay at a quarter lies farther right.
      recipe: { version: 1, frame: { x: 0, y: 0, width: 0.6, height: 1 } },
      to: { as: 'this', sizes: 'none' },
    },
    { personId: 1 },
  );
  await there(site, root, proposal, async () => {
    expect(site.items.need(id).focal).toBe('42 50');
    expect(await text(root, 'hall.html')).toContain('object-position: 42% 50%');
    expect(await text(root, 'own.html')).toBe(page(' 10% 10%'));
  });
});

test('in place: the address stays, width and height follow on pages, the focal point stays on what it was; undone to the byte', async () => {
  const root = await gallerySite();
  const site = await openSite(root);
  const id = idOf(site, 'img/wide.jpg');
  const [width, height] = await sizeOf(root, 'img/wide.jpg');
  await applyProposal(
    site,
    await propose(site, { kind: 'focal', itemId: id, focal: '25 50', places: [] }, { personId: 1 }),
    1,
  );
  const proposal = await prepared(site, id, HALF);
  expect(proposal.plan.title).toBe('Edit “wide.jpg”: Cropped');
  await there(site, root, proposal, async () => {
    expect(await sizeOf(root, 'img/wide.jpg')).toEqual([width! / 2, height]);
    expect(await text(root, 'index.html')).toContain(
      `<img src="img/wide.jpg" width="${width! / 2}" height="${height}" alt="w">`,
    );
    expect(site.items.need(id)).toMatchObject({ width: width! / 2, focal: '' });
  });
  expect(site.items.need(id)).toMatchObject({ edit: '', focal: '25 50' });
});

test('edited twice it is made of the original both times; back to the original is its bytes, whatever came between', async () => {
  const root = await gallerySite();
  await writeFile(join(root, 'img/wide.jpg'), await painted(4, 1000, 500));
  const site = await openSite(root);
  const id = idOf(site, 'img/wide.jpg');
  const original = await readFile(join(root, 'img/wide.jpg'));
  const [width, height] = await sizeOf(root, 'img/wide.jpg');
  await applyProposal(site, await prepared(site, id, HALF), 1);
  const source = await sourceOf(site, id);
  expect(source.recipe).toEqual(HALF);
  expect((await readFile(source.file)).equals(original)).toBe(true);
  // The other half, which the file as it is has no longer.
  await applyProposal(
    site,
    await prepared(site, id, { version: 1, frame: { x: 0.5, y: 0, width: 0.5, height: 1 } }),
    1,
  );
  const right = await sharp(original)
    .extract({ left: width! / 2, top: 0, width: width! / 2, height: height! })
    .raw()
    .toBuffer();
  const now = await sharp(await readFile(join(root, 'img/wide.jpg')))
    .raw()
    .toBuffer();
  let apart = 0;
  for (let at = 0; at < now.length; at++) apart += Math.abs(now[at]! - right[at]!);
  expect(apart / now.length).toBeLessThan(8);
  const back = await prepared(site, id, { version: 1 });
  expect(back.plan.title).toBe('Edit “wide.jpg”: Back to the original');
  await applyProposal(site, back, 1);
  expect((await readFile(join(root, 'img/wide.jpg'))).equals(original)).toBe(true);
  expect(site.items.need(id).edit).toBe('');
  await expect(prepared(site, id, { version: 1 })).rejects.toThrow('Nothing has been edited yet.');
});

test('another format changes the address, references follow and a redirect stays', async () => {
  const root = await gallerySite();
  const site = await openSite(root);
  const id = idOf(site, 'img/wide.jpg');
  const proposal = await prepared(site, id, { ...HALF, file: { format: 'webp' } });
  await there(site, root, proposal, async () => {
    expect(await text(root, 'index.html')).toContain('<img src="img/wide.webp"');
    expect(await text(root, 'iconomos-redirects.csv')).toContain('/img/wide.jpg,/img/wide.webp,301');
    expect(site.items.need(id)).toMatchObject({ path: 'img/wide.webp', mime: 'image/webp' });
  });
});

test('sizes are made anew with it, alone, or stay', async () => {
  const root = await gallerySite();
  const site = await openSite(root);
  const id = idOf(site, 'img/wide.jpg');
  await applyProposal(site, await propose(site, { kind: 'sizes', itemId: id }, { personId: 1 }), 1);
  const before = await treeOf(root);
  const sizes = Object.keys(before).filter((path) => /wide-\d+\.jpg$/.test(path));
  expect(sizes.length).toBeGreaterThan(0);
  const changed = async (to: Request['to']) => {
    const { plan } = await prepared(site, id, { version: 1, tone: { blackAndWhite: true } }, to);
    return plan.files
      .flatMap((step) => (step.do === 'write' ? [step.path] : []))
      .filter((path) => path.endsWith('.jpg'));
  };
  expect((await changed({ as: 'this', sizes: 'all' })).sort()).toEqual(['img/wide.jpg', ...sizes].sort());
  expect(await changed({ as: 'this', sizes: 'none' })).toEqual(['img/wide.jpg']);
  expect((await changed({ as: 'this', sizes: 'sizes' })).sort()).toEqual(sizes.sort());
});

test('as a new item: words come along, the old one stays, and its original is kept even if that changes', async () => {
  const root = await gallerySite();
  const site = await openSite(root);
  const id = idOf(site, 'img/wide.jpg');
  const original = await readFile(join(root, 'img/wide.jpg'));
  await applyProposal(
    site,
    await propose(
      site,
      { kind: 'cells', cells: [{ itemId: id, set: { alt: 'A wide view' } }] },
      { personId: 1 },
    ),
    1,
  );
  const proposal = await prepared(site, id, HALF, { as: 'new', folder: 'img', stem: 'wide-square' });
  await applyProposal(site, proposal, 1);
  const made = site.items.atPath('img/wide-square.jpg')!;
  expect(made.words.alt).toBe('A wide view');
  expect((await readFile(join(root, 'img/wide.jpg'))).equals(original)).toBe(true);
  await writeFile(join(root, 'img/wide.jpg'), await paint(50, 40, 3));
  await site.scanner.scan();
  const source = await sourceOf(site, made.id);
  expect((await readFile(source.file)).equals(original)).toBe(true);
  const taken = await prepared(site, id, HALF, { as: 'new', folder: 'img', stem: 'wide-square' });
  expect(taken.plan.clashes[0]!.why).toContain('There is a file with this name already');
});

test('a file that others have put there since is edited as it is', async () => {
  const root = await gallerySite();
  const site = await openSite(root);
  const id = idOf(site, 'img/wide.jpg');
  await applyProposal(site, await prepared(site, id, HALF), 1);
  const other = await paint(300, 200, 7);
  await writeFile(join(root, 'img/wide.jpg'), other);
  await site.scanner.scan();
  const source = await sourceOf(site, id);
  expect(source).toMatchObject({ recipe: { version: 1 }, original: { width: 300, height: 200 } });
  expect((await readFile(source.file)).equals(other)).toBe(true);
});

test('what it would come to is told with its real size, and nothing is left behind', async () => {
  const root = await gallerySite();
  const site = await openSite(root);
  const id = idOf(site, 'img/wide.jpg');
  const before = await treeOf(root);
  const small = await tryRecipe(site, id, { version: 1, size: { by: 'width', width: 100 } });
  expect(small).toMatchObject({ width: 100, mime: 'image/jpeg', quality: 82 });
  expect(small.bytes).toBeGreaterThan(300);
  expect(await treeOf(root)).toEqual(before);
  await expect(
    tryRecipe(site, id, { version: 1, frame: { x: 3, y: 3, width: 1, height: 1 } }),
  ).rejects.toThrow('The frame holds nothing of the image.');
});

test('credit and copyright stay in the file, where it was taken does not', async () => {
  const root = await gallerySite();
  const tagged = await sharp(await readFile(join(root, 'img/wide.jpg')))
    .withExif({
      IFD0: { Copyright: 'Corvane Hill Observatory' },
      IFD3: {
        GPSLatitude: '51/1 30/1 0/1',
        GPSLatitudeRef: 'N',
        GPSLongitude: '1/1 0/1 0/1',
        GPSLongitudeRef: 'W',
      },
    })
    .jpeg()
    .toBuffer();
  await writeFile(join(root, 'img/wide.jpg'), tagged);
  const site = await openSite(root);
  expect((await site.metadata.read(join(root, 'img/wide.jpg'))).place).toBeTruthy();
  const id = idOf(site, 'img/wide.jpg');
  await applyProposal(site, await prepared(site, id, HALF), 1);
  const meta = await site.metadata.read(join(root, 'img/wide.jpg'));
  expect(meta.place).toBeFalsy();
  expect(JSON.stringify(meta)).toContain('Corvane Hill Observatory');
});

test('an edited copy that is deleted for good takes the original that was kept for it along', async () => {
  const root = await gallerySite();
  const site = await openSite(root);
  const id = idOf(site, 'img/b.jpg');
  const original = site.items.need(id).sha256;
  await applyProposal(site, await prepared(site, id, HALF, { as: 'new', folder: 'img', stem: 'half' }), 1);
  const made = idOf(site, 'img/half.jpg');
  expect(site.blobs.has(original)).toBe(true);
  await applyProposal(
    site,
    await propose(site, { kind: 'set-aside', itemIds: [made], leavePlaced: false }, { personId: 1 }),
    1,
  );
  expect(site.blobs.has(original)).toBe(true);
  await emptyAside(site, [made], '1', 1);
  expect(site.blobs.has(original)).toBe(false);
});
