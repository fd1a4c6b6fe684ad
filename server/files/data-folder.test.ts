import { existsSync } from 'node:fs';
import { chmod, mkdir, readdir, rename, rm, stat, symlink, writeFile } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { afterEach, expect, test } from 'vitest';
import { proposeAside } from '../changes/files.ts';
import { applyProposal } from '../changes/apply.ts';
import { proposeUndo } from '../changes/undo.ts';
import { closeSites, openSite, siteFolder, smallSite } from '../test/site.ts';
import { besideSite } from './data-folder.ts';
import { DataPaths } from './data-paths.ts';
import { lockDataFolder } from './data-lock.ts';

afterEach(closeSites);

test('a data folder that is a link inside the site is not followed: nothing is written where it points', async () => {
  const root = await smallSite();
  const elsewhere = join(dirname(root), 'elsewhere');
  await mkdir(elsewhere);
  await symlink(elsewhere, join(root, '.iconomos'));
  await expect(openSite(root)).rejects.toMatchObject({ code: 'outside' });
  expect(await readdir(elsewhere)).toEqual([]);
});

test('a data folder that is named lies where it is named, and the site stays free of ours', async () => {
  const root = await smallSite();
  const data = join(dirname(root), 'data');
  const site = await openSite(root, { data });
  expect(site.finder.counts().items).toBe(6);
  expect([existsSync(join(data, 'iconomos.db')), existsSync(join(root, '.iconomos'))]).toEqual([true, false]);
});

test('a second server on the same data folder is refused, and told which one works there', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  await expect(openSite(root)).rejects.toMatchObject({
    code: 'busy',
    message: expect.stringMatching(
      `^Another Iconomos works on the data folder .* \\(process ${process.pid} on `,
    ) as string,
  });
  await site.close();
  expect((await openSite(root)).finder.counts().items).toBe(6);
});

test('what a killed server has left behind does not keep the next one from starting', async () => {
  const root = await smallSite();
  await (await openSite(root)).close();
  await writeFile(
    join(besideSite(root), 'owner.json'),
    JSON.stringify({ process: 1, host: 'gone', since: '2026-01-01' }),
  );
  expect((await openSite(root)).finder.counts().items).toBe(6);
});

test('a missing database beside kept files is told, and no empty one takes its place', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  await applyProposal(site, await proposeAside(site, [site.items.atPath('img/unused.png')!.id]), 1);
  await site.close();
  for (const name of ['iconomos.db', 'iconomos.db-wal', 'iconomos.db-shm'])
    await rm(join(besideSite(root), name), { force: true });
  await expect(openSite(root)).rejects.toMatchObject({
    code: 'data-folder',
    message: expect.stringContaining('is missing') as string,
  });
  expect(existsSync(join(besideSite(root), 'iconomos.db'))).toBe(false);
});

test('a database that is no database is told in a sentence', async () => {
  const root = await smallSite();
  await mkdir(besideSite(root));
  await writeFile(join(besideSite(root), 'iconomos.db'), 'x'.repeat(5000));
  await expect(openSite(root)).rejects.toMatchObject({
    code: 'data-folder',
    message: expect.stringContaining('is damaged') as string,
  });
});

test('the data lie beside the site, and only the user of the server can read them', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  expect(await readdir(dirname(root))).toEqual(['site', 'site.iconomos']);
  expect(await readdir(root)).not.toContain('.iconomos');
  await site.close();
  await chmod(besideSite(root), 0o755);
  await chmod(join(besideSite(root), 'iconomos.db'), 0o644);
  await openSite(root);
  const rights = async (path: string) => ((await stat(path)).mode & 0o777).toString(8);
  expect(await rights(besideSite(root))).toBe('700');
  for (const name of await readdir(besideSite(root)))
    expect([name, await rights(join(besideSite(root), name))]).toEqual([
      name,
      new DataPaths(besideSite(root)).folders.some((one) => basename(one) === name) ? '700' : '600',
    ]);
});

test('data that lay in the site move beside it, with all they hold, and that is told', async () => {
  const root = await smallSite();
  const first = await openSite(root);
  await applyProposal(first, await proposeAside(first, [first.items.atPath('img/unused.png')!.id]), 1);
  await first.close();
  await rename(besideSite(root), join(root, '.iconomos'));
  const told: string[] = [];
  const site = await openSite(root, { tell: (sentence) => told.push(sentence) });
  expect(told).toEqual([`The data folder has moved out of the site, to “${besideSite(root)}”.`]);
  expect(existsSync(join(root, '.iconomos'))).toBe(false);
  const [aside] = site.rows.list(1);
  await applyProposal(site, await proposeUndo(site, aside!.id), 1);
  expect(existsSync(join(root, 'img/unused.png'))).toBe(true);
  await site.close();
  // Left there by somebody once more, it is not taken for the data.
  await mkdir(join(root, '.iconomos'));
  await openSite(root, { tell: (sentence) => told.push(sentence) });
  expect(told[1]).toContain('is not used any more');
});

test('data in the site do not move while another server works on them', async () => {
  const root = await smallSite();
  await (await openSite(root)).close();
  await rename(besideSite(root), join(root, '.iconomos'));
  const release = lockDataFolder(new DataPaths(join(root, '.iconomos')));
  await expect(openSite(root)).rejects.toMatchObject({ code: 'busy' });
  release();
  expect((await openSite(root)).finder.counts().items).toBe(6);
});

test('a data folder in a public folder is refused; beside the public folder it is not', async () => {
  const root = await siteFolder({ 'public/index.html': '<title>Hill</title>', 'content/a.md': 'Hill' });
  for (const data of [join(root, 'data'), join(root, 'public/data'), root])
    await expect(openSite(root, { data })).rejects.toMatchObject({
      code: 'data-folder',
      message: expect.stringContaining('where visitors could load it') as string,
    });
  expect(await readdir(root)).toEqual(['content', 'public']);
  const site = await openSite(root);
  site.layout.setValue('public', 'public');
  await site.close();
  await rename(besideSite(root), join(root, 'data'));
  expect((await openSite(root, { data: join(root, 'data') })).data.root).toBe(join(root, 'data'));
});
