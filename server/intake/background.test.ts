import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, expect, test, vi } from 'vitest';
import { Unended } from '../workers/pool.ts';
import { arrive, closeSites, openSite, picture, siteFolder } from '../test/site.ts';

afterEach(closeSites);

/** A site whose pool does a task as told instead of really. */
async function siteWith(files: Record<string, Uint8Array>) {
  const site = await openSite(await siteFolder(files));
  return site;
}

test('one file that fails keeps no other from being looked at; a lost worker is no verdict, and is tried again', async () => {
  const site = await siteWith({
    'a.png': await picture(1),
    'b.png': await picture(2),
    'c.png': await picture(3),
  });
  const { run } = site.pool;
  const tried: string[] = [];
  let failing = true;
  const spy = vi.spyOn(site.pool, 'run').mockImplementation(((
    task: 'analyse',
    input: { path: string },
    how: object,
  ) => {
    if (task === 'analyse') tried.push(input.path);
    if (task === 'analyse' && input.path === 'a.png' && failing)
      return Promise.reject(new Unended('took longer than 60 s'));
    return run.call(site.pool, task, input as never, how);
  }) as never);
  await site.analyser.analyseAll();
  const known = (path: string) => site.contents.get(site.items.atPath(path)!.sha256);
  expect(known('a.png')).toBeUndefined();
  expect([known('b.png')?.preview, known('c.png')?.preview]).toEqual([true, true]);
  expect(tried.filter((path) => path === 'a.png')).toHaveLength(2);
  // A request for its image does not try without end.
  await expect(site.analyser.file(site.items.atPath('a.png')!.sha256, 320)).rejects.toMatchObject({
    code: 'not-found',
  });
  expect(tried.filter((path) => path === 'a.png')).toHaveLength(2);
  await site.analyser.analyseAll();
  spy.mockRestore();
  // At the next start it is tried again, and succeeds.
  failing = false;
  const root = site.folder.root;
  await site.close();
  const again = await openSite(root);
  await again.analyser.analyseAll();
  expect(again.contents.get(again.items.atPath('a.png')!.sha256)?.preview).toBe(true);
});

test('an error after the bytes were taken over ends in a sentence, not in checking for ever; the others go on', async () => {
  const site = await siteWith({ 'a.png': await picture(1) });
  const save = site.contents.save.bind(site.contents);
  let first = true;
  vi.spyOn(site.contents, 'save').mockImplementation((...args) => {
    if (first) {
      first = false;
      throw Object.assign(new Error('ENOSPC: no space left on device'), { code: 'ENOSPC' });
    }
    return save(...args);
  });
  const failed = await arrive(site, await picture(8), 'one.png');
  expect(failed).toMatchObject({ state: 'refused' });
  expect(failed.refused).toBe('The file couldn’t be checked: the disk is full. Upload it again.');
  const next = await arrive(site, await picture(9), 'two.png');
  expect(next.state).toBe('ready');
  expect(await readFile(join(site.folder.root, 'a.png'))).toEqual(await picture(1));
});
