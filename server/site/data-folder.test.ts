import { existsSync } from 'node:fs';
import { mkdir, readdir, symlink } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { afterEach, expect, test } from 'vitest';
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
