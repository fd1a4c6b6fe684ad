import { join } from 'node:path';
import { readFile, writeFile } from 'node:fs/promises';
import { afterEach, expect, test } from 'vitest';
import { closeSites, openSite, siteFolder, treeOf } from '../test/site.ts';
import { apply, plan, undo } from '../test/plans.ts';
import { applyProposal } from './apply.ts';
import { wide } from '../test/media.ts';

afterEach(closeSites);

/** A page that shows only sizes of the image, and an image of its own beside it. */
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

test('an image whose sizes are shown is in use, and cleaning leaves it; an unused one goes with its sizes', async () => {
  const { root, site, at } = await sizedSite();
  expect(at('img/hill.jpg')).toMatchObject({ use: 'placed', placements: 1, sizes: 2 });
  expect([at('img/hill-480.jpg').sizeOf, at('img/hill-960.jpg').sizeOf]).toEqual(
    Array(2).fill(at('img/hill.jpg').id),
  );
  const refused = await plan(site, { kind: 'set-aside', itemIds: [at('img/hill.jpg').id] });
  expect(refused.plan.clashes[0]!.why).toContain('another size of this image');
  const before = await treeOf(root);
  const entryId = await apply(site, { kind: 'set-aside', itemIds: [at('img/idle.jpg').id] });
  expect(Object.keys(await treeOf(root)).filter((path) => path.includes('idle'))).toEqual([]);
  await apply(site, { kind: 'undo', entryId });
  expect(await treeOf(root)).toEqual(before);
});

test('sizes add nothing to what is to be described', async () => {
  const { site, at } = await sizedSite();
  expect(site.finder.counts().undescribed).toBe(2);
  await site.checks.refresh();
  expect((await site.findings.ids('no-alt')).sort()).toEqual(
    [at('img/hill.jpg').id, at('img/idle.jpg').id].sort(),
  );
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
  // An image that is no size of it, whatever its name says, stands for itself.
  await writeFile(join(root, 'img/pond-2.jpg'), await wide(1000));
  await site.scanner.scan();
  expect(site.items.atPath('img/pond-2.jpg')).toMatchObject({ use: 'unused', sizeOf: null });
});

test('what is written says the size that was promised, and the files hold twice as many pixels', async () => {
  const html = '<!doctype html><title>Home</title><body>';
  const root = await siteFolder({
    'index.html': `${html}<p>One</p></body>`,
    'img/pond.jpg': await wide(1920),
  });
  const site = await openSite(root);
  await apply(site, {
    kind: 'place',
    page: 'index.html',
    spot: { at: html.length },
    itemId: site.items.atPath('img/pond.jpg')!.id,
    caption: false,
    classes: '',
    shownWidth: 480,
    sizes: true,
    full: false,
  });
  const page = await readFile(join(root, 'index.html'), 'utf8');
  expect(page).toContain('width="480" height="240"');
  expect(page).toContain('sizes="(max-width: 480px) 100vw, 480px"');
  expect(page).toContain('srcset="img/pond-480.jpg 480w, img/pond-800.jpg 800w, img/pond-960.jpg 960w"');
});

test('a gallery of images without alt text writes none, says so, and takes no words from file names', async () => {
  const html = '<!doctype html><title>Home</title><body>';
  const root = await siteFolder({
    'index.html': `${html}<p>One</p></body>`,
    'img/IMG_2041.jpg': await wide(800),
  });
  const site = await openSite(root);
  const proposal = await plan(site, {
    kind: 'gallery',
    page: 'index.html',
    spot: { at: html.length },
    from: { gathered: true },
    side: 200,
    quality: 80,
    captions: false,
    classes: '',
    itemIds: [site.items.atPath('img/IMG_2041.jpg')!.id],
  });
  expect(proposal.plan.warnings.join()).toContain('“IMG_2041.jpg” has no alt text, so none is written');
  await applyProposal(site, proposal, 1);
  expect(await readFile(join(root, 'index.html'), 'utf8')).not.toMatch(/alt=|IMG 2041/);
  await site.checks.refresh();
  // The large image behind a link is as large as it is meant to be.
  expect(await site.findings.ids('too-large')).toEqual([]);
});

test('addresses are written as the page’s own are: relative ones stay so while a public folder is only guessed', async () => {
  const root = await siteFolder({
    'manual/intro.html': '<title>Intro</title><body><img src="pics/one.jpg"><p>Two</p></body>',
    'manual/pics/one.jpg': await wide(100),
    'manual/pics/two.jpg': await wide(120),
    // From here the folder “manual” looks like a public one.
    'other/a.html': '<img src="/pics/one.jpg"><img src="/pics/two.jpg">',
  });
  const site = await openSite(root);
  expect([...site.index.map.roots]).toEqual(['manual']);
  expect(site.index.rootsGuessed).toBe(true);
  const place = async (page: string, at: number) => {
    await apply(site, {
      kind: 'place',
      page,
      spot: { at },
      itemId: site.items.atPath('manual/pics/two.jpg')!.id,
      caption: false,
      classes: '',
      shownWidth: null,
      sizes: false,
      full: true,
    });
    return readFile(join(root, page), 'utf8');
  };
  const start = '<title>Intro</title><body><img src="pics/one.jpg">'.length;
  expect(await place('manual/intro.html', start)).toContain('src="pics/two.jpg"');
  // Confirmed, it is no guess any more; else of the layout stays, and it is undone like all else.
  const confirmed = await apply(site, { kind: 'public', folders: ['manual'] });
  expect([site.index.rootsGuessed, [...site.index.map.roots]]).toEqual([false, ['manual']]);
  await undo(site, confirmed);
  expect(site.index.rootsGuessed).toBe(true);
});
