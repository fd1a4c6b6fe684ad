import { chown, link, mkdir, readFile, stat, symlink, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, expect, test } from 'vitest';
import { apply, idOf, plan, undo } from '../test/plans.ts';
import { closeSites, openSite, smallSite } from '../test/site.ts';

afterEach(closeSites);

test('links to files that move, and their other names on the disk, are told', async () => {
  const root = await smallSite();
  await symlink('img/b.png', join(root, 'latest.png'));
  await symlink('img', join(root, 'pictures'));
  await mkdir(join(root, 'backup'));
  await link(join(root, 'img/c.png'), join(root, 'backup/c.png'));
  const site = await openSite(root);
  const said = async (...paths: string[]) =>
    (await plan(site, { kind: 'move', itemIds: paths.map((path) => idOf(site, path)), folder: 'new' })).plan
      .warnings;
  expect((await said('img/b.png')).join()).toContain('“latest.png” is a link to “img/b.png”');
  expect((await said('img/c.png')).join()).toContain('another name on the disk');
  expect((await said('img/IMG_1234.png')).join()).not.toMatch(/is a link|another name/);
  const { plan: folder } = await plan(site, { kind: 'folder', folder: 'img', to: 'media' });
  expect(folder.warnings.join()).toContain('“pictures” is a link to “img”');
});

test('what has another name on the disk is set aside as a copy: writing to the other name changes nothing kept', async () => {
  const root = await smallSite();
  await mkdir(join(root, 'backup'));
  await link(join(root, 'img/unused.png'), join(root, 'backup/same.png'));
  const site = await openSite(root);
  const bytes = await readFile(join(root, 'img/unused.png'));
  const entry = await apply(site, { kind: 'set-aside', itemIds: [idOf(site, 'img/unused.png')] });
  await writeFile(join(root, 'backup/same.png'), 'theirs');
  await undo(site, entry);
  expect((await readFile(join(root, 'img/unused.png'))).equals(bytes)).toBe(true);
  expect(await readFile(join(root, 'backup/same.png'), 'utf8')).toBe('theirs');
});

test.runIf(process.getuid?.() === 0)(
  'owners of files and pages stay through a rename and its undo',
  async () => {
    const root = await smallSite();
    for (const path of ['img/b.png', 'index.html']) await chown(join(root, path), 1234, 5678);
    const site = await openSite(root);
    const owner = async (path: string) => {
      const { uid, gid } = await stat(join(root, path));
      return [uid, gid];
    };
    const entry = await apply(site, {
      kind: 'address',
      itemId: idOf(site, 'img/b.png'),
      folder: 'img',
      name: 'd.png',
    });
    expect(await owner('img/d.png')).toEqual([1234, 5678]);
    expect(await owner('index.html')).toEqual([1234, 5678]);
    await undo(site, entry);
    expect(await owner('img/b.png')).toEqual([1234, 5678]);
    expect(await owner('index.html')).toEqual([1234, 5678]);
  },
);
