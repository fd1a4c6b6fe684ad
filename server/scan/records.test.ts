import { copyFile, mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { afterEach, expect, test } from 'vitest';
import { seeded } from '../../core/test/chance.ts';
import { proposeCells } from '../changes/records.ts';
import { proposeNames } from '../changes/addresses.ts';
import { applyProposal } from '../changes/apply.ts';
import { ALL_HERE } from '../db/item-query.ts';
import { apply } from '../test/plans.ts';
import { closeSites, openSite, picture, siteFolder, smallSite } from '../test/site.ts';
import type { OpenedSite } from '../app/opened-site.ts';

afterEach(closeSites);

const describe = (site: OpenedSite, id: number, alt: string, tags: string[] = []) =>
  applyProposal(site, proposeCells(site, [{ itemId: id, set: { alt, tags } }]), 1);
const idOf = (site: OpenedSite, path: string) => site.items.atPath(path)!.id;
const count = (site: OpenedSite) => site.db.value('select count(*) from item');

test('a described file that a build removes and remakes is that item again, with all that was said of it', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  const id = idOf(site, 'img/c.png');
  await describe(site, id, 'Words', ['sky']);
  const records = count(site);
  const bytes = await readFile(join(root, 'img/c.png'));
  await rm(join(root, 'img/c.png'));
  await site.scanner.scan();
  expect(site.items.get(id)).toMatchObject({ state: 'absent', words: { alt: 'Words', tags: ['sky'] } });
  await site.scanner.scan();
  await writeFile(join(root, 'img/c.png'), bytes);
  await site.scanner.scan();
  expect(site.items.atPath('img/c.png')).toMatchObject({ id, words: { alt: 'Words', tags: ['sky'] } });
  // The same bytes: nothing is told.
  const outside = () => site.db.value('select outside from item where id = ?', id);
  expect(outside()).toBe(0);
  await rm(join(root, 'img/c.png'));
  await site.scanner.scan();
  await site.close();
  const again = await openSite(root);
  await again.scanner.scan();
  await writeFile(join(root, 'img/c.png'), await picture(99));
  await again.scanner.scan();
  expect(again.items.atPath('img/c.png')).toMatchObject({ id, words: { alt: 'Words', tags: ['sky'] } });
  // Other bytes: told as changed by others.
  expect(again.db.value('select outside from item where id = ?', id)).toBe(1);
  expect(count(again)).toBe(records);
});

test('a site made anew 20 times in random order, with renames in between, running and stopped, keeps every record', async () => {
  const files: Record<string, Uint8Array | string> = {
    'index.html': '<title>x</title><img src="out/p1.png">',
  };
  for (let i = 0; i < 12; i++) files[`out/p${i}.png`] = await picture(i);
  const root = await siteFolder(files);
  let site = await openSite(root);
  for (const item of site.finder.list(ALL_HERE).items)
    await describe(site, item.id, `Words of ${item.sha256}`);
  const chance = seeded(7);
  const random = () => chance.below(1000) / 1000;
  for (let round = 0; round < 20; round++) {
    const paths = site.finder.list(ALL_HERE).items.map((item) => item.path);
    const content = new Map(
      await Promise.all(paths.map(async (path) => [path, await readFile(join(root, path))] as const)),
    );
    const stopped = round % 3 === 2;
    if (stopped) await site.close();
    await rm(join(root, 'out'), { recursive: true });
    if (!stopped && random() < 0.7) await site.scanner.scan();
    const order = [...content].sort(() => random() - 0.5);
    for (const [path, bytes] of order) {
      await mkdir(dirname(join(root, path)), { recursive: true });
      await writeFile(join(root, path), bytes);
      if (!stopped && random() < 0.3) await site.scanner.scan();
    }
    if (stopped) site = await openSite(root);
    await site.scanner.scan();
    const items = site.finder.list(ALL_HERE).items;
    expect(items).toHaveLength(12);
    for (const item of items) expect(item.words.alt, `round ${round}`).toBe(`Words of ${item.sha256}`);
    expect(count(site)).toBe(12);
    // A rename through us, and the build follows it from then on.
    const one = items[Math.floor(random() * items.length)]!;
    const names = [{ itemId: one.id, name: `n${round}.png` }];
    await applyProposal(site, await proposeNames(site, names), 1);
  }
});

test('the same bytes at another place while the old one is empty are the item, moved: told, with what still leads to the old place', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  const id = idOf(site, 'img/IMG_1234.png');
  await describe(site, id, 'Hill');
  await mkdir(join(root, 'new'));
  // Away over a scan and a restart, then there under another name.
  await rename(join(root, 'img/IMG_1234.png'), join(root, '..', 'kept.png'));
  await site.scanner.scan();
  await site.close();
  const again = await openSite(root);
  await rename(join(root, '..', 'kept.png'), join(root, 'new/hill.png'));
  await again.scanner.scan();
  expect(again.items.get(id)).toMatchObject({ path: 'new/hill.png', state: 'here', words: { alt: 'Hill' } });
  await again.checks.refresh();
  const [told] = await again.findings.list('moved', 10, 0);
  expect(told).toMatchObject({ itemId: id });
  expect(told!.why).toBe('It was moved from “img/IMG_1234.png”; 7 references still point there.');
});

test('references follow what others moved also where several folders are served from the root', async () => {
  const root = await siteFolder({
    'docs/page.html': '<title>x</title><img src="/a.png"><img src="/b.png">',
    'docs/a.png': await picture(1),
    'b.png': await picture(2),
  });
  const site = await openSite(root);
  // The site's own folder is one of them.
  await apply(site, { kind: 'public', folders: ['', 'docs'] });
  expect([...site.index.map.roots]).toEqual(['', 'docs']);
  const ids = [idOf(site, 'docs/a.png'), idOf(site, 'b.png')];
  await rename(join(root, 'docs/a.png'), join(root, 'docs/new-a.png'));
  await rename(join(root, 'b.png'), join(root, 'new-b.png'));
  await site.scanner.scan();
  await site.checks.refresh();
  expect((await site.findings.list('moved', 10, 0)).map((one) => one.why)).toEqual([
    expect.stringContaining('1 reference still points there.'),
    expect.stringContaining('1 reference still points there.'),
  ]);
  await apply(site, { kind: 'follow-moves', itemIds: ids });
  expect(await readFile(join(root, 'docs/page.html'), 'utf8')).toBe(
    '<title>x</title><img src="/new-a.png"><img src="/new-b.png">',
  );
});

test('of two records or two files that could be meant none is guessed; names decide where they can', async () => {
  const root = await siteFolder({
    'a/one.png': await picture(1),
    'a/two.png': await picture(1),
    'a/three.png': await picture(2),
  });
  const site = await openSite(root);
  const [one, two, three] = ['a/one.png', 'a/two.png', 'a/three.png'].map((path) => idOf(site, path));
  for (const id of [one!, two!, three!]) await describe(site, id, `Words ${id}`);
  await mkdir(join(root, 'b'));
  for (const name of ['one', 'two']) await rename(join(root, `a/${name}.png`), join(root, `b/${name}.png`));
  // One file is there twice now, under new names.
  await copyFile(join(root, 'a/three.png'), join(root, 'b/x.png'));
  await rename(join(root, 'a/three.png'), join(root, 'b/y.png'));
  await site.scanner.scan();
  expect(site.items.get(one!)).toMatchObject({ path: 'b/one.png', state: 'here' });
  expect(site.items.get(two!)).toMatchObject({ path: 'b/two.png', state: 'here' });
  expect(site.items.get(three!)).toMatchObject({ path: 'a/three.png', state: 'absent' });
  await site.checks.refresh();
  expect((await site.findings.list('missing', 10, 0)).map((row) => row.why)).toEqual([
    'Its file was removed outside Iconomos; its description is still here. “b/x.png” and “b/y.png” have identical content.',
  ]);
});

test('a file that cannot be read has no hash, and is never taken for another one', async () => {
  const root = await siteFolder({ 'a.jpg': await picture(1, 'jpeg'), 'c.png': await picture(3) });
  const site = await openSite(root);
  const id = idOf(site, 'a.jpg');
  await describe(site, id, 'A');
  // As read when nothing could be read of it.
  site.db.run("update item set sha256 = '' where id = ?", id);
  await rm(join(root, 'a.jpg'));
  await writeFile(join(root, 'b.jpg'), await picture(2, 'jpeg'));
  await site.scanner.scan();
  expect(site.items.get(id)).toMatchObject({ path: 'a.jpg', state: 'absent' });
  expect(site.items.atPath('b.jpg')!.words.alt).toBe('');
});

test('a file that is given the record of a missing one is told as it is; undone, each is what it was', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  const id = idOf(site, 'img/unused.png');
  const was = site.items.need(id);
  await describe(site, id, 'Words');
  await rm(join(root, 'img/unused.png'));
  await writeFile(join(root, 'img/found.jpg'), await picture(77, 'jpeg', 40));
  await site.scanner.scan();
  const found = site.items.atPath('img/found.jpg')!;
  const entryId = await apply(site, { kind: 'reunite', itemId: id, path: 'img/found.jpg' });
  const { sha256, bytes } = found;
  expect(site.items.get(id)).toMatchObject({
    path: 'img/found.jpg',
    state: 'here',
    sha256,
    bytes,
    width: 40,
  });
  // Its bytes are on the site, so nothing beside it is needed for them.
  expect(site.db.values('select sha256 from ledger_bytes where entry_id = ?', entryId)).toEqual([]);
  await apply(site, { kind: 'undo', entryId });
  expect(site.items.get(id)).toMatchObject({
    path: was.path,
    state: 'absent',
    sha256: was.sha256,
    width: was.width,
  });
  expect(site.items.atPath('img/found.jpg')).toMatchObject({ id: found.id, width: 40 });
});
