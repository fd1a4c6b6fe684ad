import { appendFile, chmod, mkdir, readFile, rename, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, expect, test } from 'vitest';
import type { PlanRequest } from '../../api/plans.ts';
import type { Site } from '../app/site.ts';
import { arrive, closeSites, openSite, picture, siteFolder, smallSite, treeOf } from '../test/site.ts';
import { photograph } from '../test/media.ts';
import { apply, idOf, plan, undo } from '../test/plans.ts';
import { applyProposal } from './apply.ts';

afterEach(closeSites);

const page = (root: string) => readFile(join(root, 'index.html'), 'utf8');
const THEIRS = '<p>theirs</p>';

test('after “Replace under a new name” and an edit of a page, undo brings back address and bytes and keeps the edit', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  const id = idOf(site, 'img/b.png');
  const before = await treeOf(root);
  const arrival = await arrive(site, await picture(77, 'jpeg', 48), 'new-name.jpg');
  const entry = await apply(site, {
    kind: 'replace',
    itemId: id,
    by: { arrivalId: arrival.id },
    name: 'new',
    dates: 'keep',
  });
  expect(site.items.need(id).path).toBe('img/new-name.jpg');
  await appendFile(join(root, 'index.html'), THEIRS);
  const done = await undo(site, entry);
  expect(done.warnings.join()).toContain('“index.html” has changed in the meantime');
  const { 'index.html': _page, ...rest } = await treeOf(root);
  const { 'index.html': _before, ...wanted } = before;
  expect(rest).toEqual(wanted);
  expect(await page(root)).toContain("src='img/b.png'");
  expect(await page(root)).toContain(THEIRS);
  expect(site.items.need(id)).toMatchObject({ path: 'img/b.png', use: 'placed', mime: 'image/png' });
});

test('a conversion to another format and an ending set right are undone too when a page has changed since', async () => {
  const photo = await picture(5, 'jpeg', 60);
  const root = await siteFolder({
    'index.html': '<title>Home</title><img src="img/photo.png">',
    'img/photo.png': photo,
  });
  const site = await openSite(root);
  const id = idOf(site, 'img/photo.png');
  const entry = await apply(site, { kind: 'right-endings', itemIds: [id] });
  expect(site.items.need(id).path).toBe('img/photo.jpg');
  await appendFile(join(root, 'index.html'), THEIRS);
  await undo(site, entry);
  expect(site.items.need(id)).toMatchObject({ path: 'img/photo.png', use: 'placed' });
  expect(await page(root)).toBe(`<title>Home</title><img src="img/photo.png">${THEIRS}`);
});

test('a rename is undone although the item has got other bytes and another page has come to show it', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  const id = idOf(site, 'img/b.png');
  const entry = await apply(site, { kind: 'address', itemId: id, folder: 'img', name: 'bee.png' });
  await writeFile(join(root, 'img/bee.png'), await picture(50));
  await writeFile(join(root, 'later.html'), '<img src="img/bee.png">');
  await undo(site, entry);
  expect(await readFile(join(root, 'img/b.png'))).toEqual(await picture(50));
  expect(await readFile(join(root, 'later.html'), 'utf8')).toBe('<img src="img/b.png">');
  expect((await site.references.allBroken()).map((one) => one.url)).toEqual(['../img/none.png']);
});

test('after a merge, a page touched by hand does not block undo: addresses come back where they still stand', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  const [keeper, other] = [idOf(site, 'old/copy-of-b.png'), idOf(site, 'img/b.png')];
  await writeFile(
    join(root, 'both.html'),
    '<img src="img/b.png"><img src="old/copy-of-b.png"><img src="img/b.png">',
  );
  await site.scanner.scan();
  const entry = await apply(site, { kind: 'merge', groups: [{ keeperId: keeper, otherIds: [other] }] });
  for (const name of ['both.html', 'index.html']) await appendFile(join(root, name), THEIRS);
  await undo(site, entry);
  expect(await readFile(join(root, 'both.html'), 'utf8')).toBe(
    `<img src="img/b.png"><img src="old/copy-of-b.png"><img src="img/b.png">${THEIRS}`,
  );
  expect(await page(root)).toContain("src='img/b.png'");
  expect(site.items.need(other)).toMatchObject({ state: 'here', use: 'placed' });
  expect(Object.keys(await treeOf(root))).not.toContain('iconomos-redirects.csv');
});

test('what of a repair cannot be taken back is named, and the rest is', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  const [broken] = site.references.brokenOf('sub/page.html');
  const places = [{ page: 'sub/page.html', start: broken!.start, path: 'img/c.png' }];
  const entry = await apply(site, { kind: 'repair', places });
  await appendFile(join(root, 'sub/page.html'), '<img src="../img/c.png">');
  const proposal = await plan(site, { kind: 'undo', entryId: entry });
  expect(proposal.plan.clashes).toEqual([]);
  expect(proposal.plan.warnings.join()).toContain('1 reference stays as now');
});

test.each<[string, (site: Site) => PlanRequest]>([
  [
    'a rename into new folders',
    (site) => ({ kind: 'address', itemId: idOf(site, 'img/c.png'), folder: 'a/b/c', name: 'c.png' }),
  ],
  ['a folder move', () => ({ kind: 'folder', folder: 'img', to: 'deep/er/pictures' })],
  [
    'copies into a new folder',
    (site) => ({ kind: 'copies', itemIds: [idOf(site, 'img/c.png')], folder: 'x/y' }),
  ],
])(
  '%s: the tree after undo is the tree before, folders and modes included; after redo the one after',
  async (_what, request) => {
    const root = await smallSite();
    await chmod(join(root, 'img/c.png'), 0o600);
    await mkdir(join(root, 'empty/kept'), { recursive: true });
    const site = await openSite(root);
    const before = await treeOf(root);
    const entry = await apply(site, request(site));
    const after = await treeOf(root);
    await undo(site, entry);
    expect(await treeOf(root)).toEqual(before);
    expect((await stat(join(root, 'img/c.png'))).mode & 0o777).toBe(0o600);
    await undo(site, site.rows.list(1)[0]!.id);
    expect(await treeOf(root)).toEqual(after);
    await undo(site, site.rows.list(1)[0]!.id);
    expect(await treeOf(root)).toEqual(before);
  },
);

test('what was set aside comes back with the mode that it had', async () => {
  const root = await smallSite();
  await chmod(join(root, 'img/unused.png'), 0o640);
  const site = await openSite(root);
  await undo(site, await apply(site, { kind: 'set-aside', itemIds: [idOf(site, 'img/unused.png')] }));
  expect((await stat(join(root, 'img/unused.png'))).mode & 0o777).toBe(0o640);
});

test('twins that differ in case are respected: merged and undone, set aside and restored, moved with their folder', async () => {
  const bytes = await picture(3);
  const root = await siteFolder({
    'index.html': '<title>x</title><img src="img/Rake.png"><img src="img/rake.png">',
    'img/Rake.png': bytes,
    'img/rake.png': bytes,
  });
  const site = await openSite(root);
  const before = await treeOf(root);
  const [upper, lower] = [idOf(site, 'img/Rake.png'), idOf(site, 'img/rake.png')];
  await undo(site, await apply(site, { kind: 'merge', groups: [{ keeperId: upper, otherIds: [lower] }] }));
  expect(await treeOf(root)).toEqual(before);
  await undo(site, await apply(site, { kind: 'folder', folder: 'img', to: 'pics' }));
  expect(await treeOf(root)).toEqual(before);
  await writeFile(join(root, 'index.html'), '<title>x</title><img src="img/Rake.png">');
  await site.scanner.scan();
  await apply(site, { kind: 'set-aside', itemIds: [lower] });
  await apply(site, { kind: 'restore', itemIds: [lower] });
  expect(Object.keys(await treeOf(root)).filter((path) => /rake/i.test(path))).toEqual([
    'img/Rake.png',
    'img/rake.png',
  ]);
  // A new clash is refused.
  const clashing = await plan(site, { kind: 'address', itemId: lower, folder: 'img', name: 'INDEX.png' });
  expect(clashing.plan.clashes).toEqual([]);
  const refused = await plan(site, { kind: 'address', itemId: lower, folder: 'img', name: 'RAKE.png' });
  expect(refused.plan.clashes).toHaveLength(1);
});

test('renames by others between a change and its undo stand in its way, and are named', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  const entry = await apply(site, {
    kind: 'address',
    itemId: idOf(site, 'img/c.png'),
    folder: 'img',
    name: 'sea.png',
  });
  await rename(join(root, 'img/sea.png'), join(root, 'img/ocean.png'));
  const proposal = await plan(site, { kind: 'undo', entryId: entry });
  expect(proposal.plan.clashes.length).toBeGreaterThan(0);
});

test('an address with empty segments is simplified as a repair: the same file, fewer characters; undone to the byte', async () => {
  const root = await siteFolder({
    'index.html': '<title>x</title><img src="img//a.png"><img src="img/a.png">',
    'img/a.png': await picture(1),
  });
  const site = await openSite(root);
  const before = await treeOf(root);
  const [untidy] = site.references.shownOn('index.html');
  const places = [{ page: 'index.html', start: untidy!.start, path: 'img/a.png' }];
  const entry = await apply(site, { kind: 'repair', places });
  expect(await page(root)).toBe('<title>x</title><img src="img/a.png"><img src="img/a.png">');
  await undo(site, entry);
  expect(await treeOf(root)).toEqual(before);
});

test('a change that later ones rest on is undone with them, as one; redone, all stand again', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  const before = await treeOf(root);
  const b = idOf(site, 'img/b.png');
  const first = await apply(site, { kind: 'address', itemId: b, folder: 'img', name: 'one.png' });
  await apply(site, { kind: 'records', itemIds: [b], addTags: ['sky'] });
  await apply(site, { kind: 'move', itemIds: [b], folder: 'new/place' });
  await apply(site, {
    kind: 'address',
    itemId: idOf(site, 'img/unused.png'),
    folder: 'img',
    name: 'one.png',
  });
  await apply(site, { kind: 'set-aside', itemIds: [idOf(site, 'img/one.png')] });
  const after = await treeOf(root);
  const alone = await plan(site, { kind: 'undo', entryId: first });
  expect(alone.plan.clashes).not.toEqual([]);
  expect(alone.plan.undoTogether).toBe(4);
  const together = await plan(site, { kind: 'undo', entryId: first, withLater: true });
  expect(together.plan.clashes).toEqual([]);
  expect(together.plan.title).toContain('with 4 later changes');
  const done = await applyProposal(site, together, 1);
  expect(await treeOf(root)).toEqual(before);
  expect(site.items.need(b)).toMatchObject({ path: 'img/b.png', words: { tags: [] } });
  expect((await site.rows.read(first + 1))!.undoneBy).toBe(done);
  expect(site.references.brokenCount()).toBe(1);
  await undo(site, done);
  expect(await treeOf(root)).toEqual(after);
  expect((await site.rows.read(first + 1))!.undoneBy).toBeNull();
  expect(site.items.need(b)).toMatchObject({ path: 'new/place/one.png', words: { tags: ['sky'] } });
});

test('replaced, edited and set aside: the change of the bytes is undone with what came later', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  const before = await treeOf(root);
  const [b, c] = [idOf(site, 'img/b.png'), idOf(site, 'img/c.png')];
  const first = await apply(site, {
    kind: 'replace',
    itemId: b,
    by: { itemId: c },
    name: 'keep',
    dates: 'keep',
  });
  await apply(site, { kind: 'copies', itemIds: [b], folder: 'img/more' });
  await apply(site, {
    kind: 'replace',
    itemId: b,
    by: { itemId: idOf(site, 'img/IMG_1234.png') },
    name: 'keep',
    dates: 'keep',
  });
  const together = await plan(site, { kind: 'undo', entryId: first, withLater: true });
  expect(together.plan.clashes).toEqual([]);
  await applyProposal(site, together, 1);
  const now = await treeOf(root);
  expect(now['img/b.png']).toBe(before['img/b.png']);
});

test('a folder that was made with those above it goes with them', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  const before = await treeOf(root);
  const entry = await apply(site, { kind: 'new-folder', folder: 'new/and/deep' });
  expect(Object.keys(await treeOf(root))).toEqual(
    expect.arrayContaining(['new/', 'new/and/', 'new/and/deep/']),
  );
  await undo(site, entry);
  expect(await treeOf(root)).toEqual(before);
});

test('sizes that were made and taken back leave no record of a missing file, but for what a person wrote into', async () => {
  const root = await siteFolder({
    'index.html': '<title>x</title>',
    'wide.jpg': await photograph(900, 600),
    'broad.jpg': await photograph(920, 600),
  });
  const site = await openSite(root);
  const missing = () => site.items.missing().map((item) => item.path);
  const entry = await apply(site, { kind: 'sizes', itemId: idOf(site, 'wide.jpg') });
  await site.scanner.scan();
  const size = site.items.atPath('wide-480.jpg')!;
  await undo(site, entry);
  await site.scanner.scan();
  expect(missing()).toEqual([]);
  // Made again, it is the same record; and so it is once more.
  await undo(site, site.rows.list(1)[0]!.id);
  await site.scanner.scan();
  expect(idOf(site, 'wide-480.jpg')).toBe(size.id);
  await undo(site, site.rows.list(1)[0]!.id);
  expect(missing()).toEqual([]);

  const other = await apply(site, { kind: 'sizes', itemId: idOf(site, 'broad.jpg') });
  await site.scanner.scan();
  const itemId = idOf(site, 'broad-480.jpg');
  await apply(site, { kind: 'family', itemIds: [itemId], of: 'apart' });
  await apply(site, { kind: 'cells', cells: [{ itemId, set: { alt: 'A wide moor' } }] });
  await undo(site, other);
  await site.scanner.scan();
  expect(missing()).toEqual(['broad-480.jpg']);
  expect(site.items.need(itemId).words.alt).toBe('A wide moor');
});

test('tags have no order: an image that took over those of its sizes gives them back', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  const [main, size] = [idOf(site, 'img/b.png'), idOf(site, 'img/c.png')];
  await apply(site, { kind: 'cells', cells: [{ itemId: main, set: { tags: ['zinc', 'ähre'] } }] });
  await apply(site, { kind: 'cells', cells: [{ itemId: size, set: { tags: ['Äpfel', 'moor'] } }] });
  const before = site.items.need(main).words.tags;
  const entry = await apply(site, { kind: 'family', itemIds: [size], of: main });
  expect(site.items.need(main).words.tags).toHaveLength(4);
  await undo(site, entry);
  expect(site.items.need(main).words.tags).toEqual(before);
});

test('sizes are never made at the place of an item that is set aside or missing: undone, that one is as it was', async () => {
  const root = await siteFolder({ 'index.html': '<title>x</title>', 'wide.jpg': await photograph(900, 600) });
  const site = await openSite(root);
  const itemId = idOf(site, 'wide.jpg');
  await apply(site, { kind: 'sizes', itemId });
  await site.scanner.scan();
  const sizes = ['wide-480.jpg', 'wide-800.jpg'].map((path) => idOf(site, path));
  await apply(site, { kind: 'family', itemIds: sizes, of: 'apart' });
  await apply(site, { kind: 'set-aside', itemIds: [sizes[0]!] });
  await rename(join(root, 'wide-800.jpg'), join(root, '..', 'away.jpg'));
  await site.scanner.scan();
  const states = () => sizes.map((id) => site.items.need(id)).map(({ state, outside }) => [state, outside]);
  const before = states();
  expect(before).toEqual([
    ['aside', false],
    ['absent', true],
  ]);
  const entry = await apply(site, { kind: 'sizes', itemId });
  await site.scanner.scan();
  expect(states()).toEqual(before);
  expect(site.items.atPath('wide-480-2.jpg')).toBeDefined();
  await undo(site, entry);
  await site.scanner.scan();
  expect(states()).toEqual(before);
});
