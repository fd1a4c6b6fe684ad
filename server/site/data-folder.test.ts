import { existsSync } from 'node:fs';
import { mkdir, readdir, rm, symlink, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { afterEach, expect, test } from 'vitest';
import { proposeAside } from '../ledger/files.ts';
import { applyProposal } from '../ledger/proposal.ts';
import { closeSites, openSite, smallSite } from '../test/site.ts';

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
  expect(site.items.counts().items).toBe(6);
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
  expect((await openSite(root)).items.counts().items).toBe(6);
});

test('what a killed server has left behind does not keep the next one from starting', async () => {
  const root = await smallSite();
  await (await openSite(root)).close();
  await writeFile(
    join(root, '.iconomos/owner.json'),
    JSON.stringify({ process: 1, host: 'gone', since: '2026-01-01' }),
  );
  expect((await openSite(root)).items.counts().items).toBe(6);
});

test('a missing database beside kept files is told, and no empty one takes its place', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  await applyProposal(site, await proposeAside(site, [site.items.atPath('img/unused.png')!.id]), 1);
  await site.close();
  for (const name of ['iconomos.db', 'iconomos.db-wal', 'iconomos.db-shm'])
    await rm(join(root, '.iconomos', name), { force: true });
  await expect(openSite(root)).rejects.toMatchObject({
    code: 'data-folder',
    message: expect.stringContaining('is missing') as string,
  });
  expect(existsSync(join(root, '.iconomos/iconomos.db'))).toBe(false);
});

test('a database that is no database is told in a sentence', async () => {
  const root = await smallSite();
  await mkdir(join(root, '.iconomos'));
  await writeFile(join(root, '.iconomos/iconomos.db'), 'x'.repeat(5000));
  await expect(openSite(root)).rejects.toMatchObject({
    code: 'data-folder',
    message: expect.stringContaining('is damaged') as string,
  });
});
