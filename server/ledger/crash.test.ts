import { spawnSync } from 'node:child_process';
import { cp, readdir, rm } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { afterEach, expect, test } from 'vitest';
import { builtFile } from '../built.ts';
import { ALL_HERE } from '../store/item-query.ts';
import { closeSites, openSite, smallSite, treeOf } from '../test/site.ts';

afterEach(closeSites);

function drive(root: string, what: string, at: number) {
  const done = spawnSync(process.execPath, [builtFile('crash-driver.js'), root, what, String(at)], {
    encoding: 'utf8',
  });
  if (done.signal === 'SIGKILL') return 'killed';
  if (done.status === 0 && done.stdout.includes('applied')) return 'applied';
  throw new Error(`driver failed: ${done.stderr}`);
}

/** Kills the process at every step in turn; after a restart the site must be as before or as after, to the byte. */
async function killEverywhere(what: string, start: string): Promise<{ before: number; after: number }> {
  const copy = async (name: string) => {
    const to = join(dirname(start), name);
    await cp(start, to, { recursive: true, preserveTimestamps: true });
    return to;
  };
  const before = await treeOf(start);
  const whole = await copy(`${what}-whole`);
  expect(drive(whole, what, 0)).toBe('applied');
  const after = await treeOf(whole);
  expect(after).not.toEqual(before);

  const seen = { before: 0, after: 0 };
  for (let at = 1; ; at++) {
    const root = await copy(`${what}-${at}`);
    if (drive(root, what, at) === 'applied') {
      expect(at).toBeGreaterThan(4);
      return seen;
    }
    const site = await openSite(root);
    const now = await treeOf(root);
    const state = JSON.stringify(now) === JSON.stringify(after) ? 'after' : 'before';
    expect(now, `killed at step ${at}`).toEqual(state === 'after' ? after : before);
    seen[state]++;
    // The records agree with the files, and nothing is left of the work.
    for (const { path } of site.items.list(ALL_HERE).items) {
      expect(Object.keys(now)).toContain(path);
    }
    expect(site.rows.unfinished()).toEqual([]);
    expect(
      (await readdir(root, { recursive: true })).filter((name) => name.includes('iconomos-stage')),
    ).toEqual([]);
    await site.close();
    await rm(root, { recursive: true, force: true });
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
  expect(drive(start, 'rename', 0)).toBe('applied');
  const undo = await killEverywhere('undo', start);
  expect(undo.before).toBeGreaterThan(1);
  expect(undo.after).toBeGreaterThan(3);
}, 600_000);
