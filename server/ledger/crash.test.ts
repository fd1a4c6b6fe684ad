import { spawn } from 'node:child_process';
import { readdir, stat } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { afterEach, expect, test } from 'vitest';
import { builtFile } from '../built.ts';
import { ALL_HERE } from '../store/item-query.ts';
import { closeSites, openSite, smallSite, treeOf, copySite, removeSite } from '../test/site.ts';

afterEach(closeSites);

/** Applies a plan in a process of its own, which ends itself at a step. */
function drive(root: string, what: string, at: number): Promise<'killed' | 'applied'> {
  return new Promise((done, failed) => {
    const child = spawn(process.execPath, [builtFile('crash-driver.js'), root, what, String(at)]);
    let [said, wrong] = ['', ''];
    child.stdout.on('data', (text: Buffer) => (said += text.toString()));
    child.stderr.on('data', (text: Buffer) => (wrong += text.toString()));
    child.on('close', (code, signal) => {
      if (signal === 'SIGKILL') done('killed');
      else if (code === 0 && said.includes('applied')) done('applied');
      else failed(new Error(`driver failed: ${wrong}`));
    });
  });
}

/** So many are driven and killed at once: most of the time they wait for the disk. */
const AT_ONCE = 4;

/** Kills the process at every step in turn; after a restart the site must be as before or as after, to the byte. */
async function killEverywhere(what: string, start: string): Promise<{ before: number; after: number }> {
  const copy = async (name: string) => {
    const to = join(dirname(start), name);
    await copySite(start, to);
    return to;
  };
  const before = await treeOf(start);
  // Read once, so that the copies are known already and each try starts sooner.
  await (await openSite(start)).close();
  const whole = await copy(`${what}-whole`);
  expect(await drive(whole, what, 0)).toBe('applied');
  const after = await treeOf(whole);
  expect(after).not.toEqual(before);

  const seen = { before: 0, after: 0 };
  const attempt = async (at: number): Promise<'killed' | 'applied'> => {
    const root = await copy(`${what}-${at}`);
    if ((await drive(root, what, at)) === 'applied') return 'applied';
    const site = await openSite(root);
    const now = await treeOf(root);
    const state = JSON.stringify(now) === JSON.stringify(after) ? 'after' : 'before';
    expect(now, `killed at step ${at}`).toEqual(state === 'after' ? after : before);
    seen[state]++;
    // The records agree with the files, and nothing is left of the work.
    for (const { path } of site.items.list(ALL_HERE).items) {
      expect(Object.keys(now)).toContain(path);
    }
    for (const path of Object.keys(now))
      if (!path.endsWith('/')) expect((await stat(join(root, path))).nlink, path).toBe(1);
    expect(await site.rows.unfinished()).toEqual([]);
    // What was written by us is not told as changed by others.
    expect(site.db.prepare("select path from item where state = 'here' and outside = 1").all()).toEqual([]);
    expect(
      (await readdir(root, { recursive: true })).filter((name) => name.includes('iconomos-stage')),
    ).toEqual([]);
    await site.close();
    await removeSite(root);
    return 'killed';
  };
  for (let at = 1; ; at += AT_ONCE) {
    const ends = await Promise.all(Array.from({ length: AT_ONCE }, (_, more) => attempt(at + more)));
    if (!ends.includes('applied')) continue;
    expect(at + ends.indexOf('applied')).toBeGreaterThan(4);
    return seen;
  }
}

test('killed at any step of a rename, the site is as before or as after', async () => {
  const seen = await killEverywhere('rename', await smallSite());
  expect(seen.before).toBeGreaterThan(3);
  expect(seen.after).toBeGreaterThan(3);
}, 600_000);

test('killed at any step of setting aside, and of the undo of a rename', async () => {
  const start = await smallSite();
  const aside = await killEverywhere('aside', start);
  expect(aside.after).toBeGreaterThan(1);
  expect(await drive(start, 'rename', 0)).toBe('applied');
  const undo = await killEverywhere('undo', start);
  expect(undo.before).toBeGreaterThan(1);
  expect(undo.after).toBeGreaterThan(3);
}, 600_000);

test('killed at any step of a merge of doubles, nothing is lost: pages, words and the set-aside go together', async () => {
  const seen = await killEverywhere('merge', await smallSite());
  expect(seen.before).toBeGreaterThan(3);
  expect(seen.after).toBeGreaterThan(3);
}, 600_000);

test('killed at any step of an exchange of addresses, no file is over another', async () => {
  const seen = await killEverywhere('exchange', await smallSite());
  expect(seen.before).toBeGreaterThan(1);
  expect(seen.after).toBeGreaterThan(4);
}, 600_000);

test('killed at any step of giving items other bytes, each has them whole or not, and nobody is told that others did it', async () => {
  const seen = await killEverywhere('rewrite', await smallSite());
  expect(seen.before).toBeGreaterThan(1);
  expect(seen.after).toBeGreaterThan(2);
}, 600_000);
