import { execFileSync, spawn } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { readdir, stat } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { afterEach, expect, test } from 'vitest';
import { builtFile } from '../built.ts';
import { besideSite } from '../files/data-folder.ts';
import { originalIn } from '../../core/picture/recipe/edit.ts';
import { ALL_HERE } from '../db/item-query.ts';
import { KILLED } from '../test/crashing.ts';
import { closeSites, copySite, openSite, removeSite, smallSite, treeOf } from '../test/site.ts';
import { applyProposal } from './apply.ts';

afterEach(closeSites);

/** What a killed process leaves: the files as they lie at that moment, also those with two names. */
function copyAsItLies(root: string, name: string): string {
  const to = join(dirname(root), name);
  mkdirSync(to);
  execFileSync('cp', ['-a', root, besideSite(root), to]);
  return join(to, basename(root));
}

/** After a restart the site is as before or as after, to the byte. @returns which */
async function afterRestart(
  root: string,
  trees: { before: Record<string, string>; after: Record<string, string> },
  when: string,
): Promise<'before' | 'after'> {
  const site = await openSite(root);
  const now = await treeOf(root);
  const state = JSON.stringify(now) === JSON.stringify(trees.after) ? 'after' : 'before';
  expect(now, when).toEqual(trees[state]);
  // The records agree with the files, and nothing is left of the work.
  for (const { path } of site.finder.list(ALL_HERE).items) expect(Object.keys(now), when).toContain(path);
  for (const path of Object.keys(now))
    if (!path.endsWith('/')) expect((await stat(join(root, path))).nlink, `${path} ${when}`).toBe(1);
  expect(await site.rows.unfinished(), when).toEqual([]);
  // What was made of an original is never there without it.
  for (const edit of site.db.values<string>("select edit from item where edit <> ''"))
    expect(site.blobs.has(originalIn(edit)!), when).toBe(true);
  // What was written by us is not told as changed by others.
  expect(site.db.all("select path from item where state = 'here' and outside = 1"), when).toEqual([]);
  expect(
    (await readdir(root, { recursive: true })).filter((name) => name.includes('iconomos-stage')),
    when,
  ).toEqual([]);
  await site.close();
  await removeSite(root);
  return state;
}

/**
 * Applies a plan and keeps, at every step, what a kill would leave there; each of these is started again. Also what a kill
 * leaves while it starts again.
 */
async function killEverywhere(
  what: string,
  root: string,
): Promise<{ before: number; after: number; twice: number }> {
  const kept: { root: string; when: string }[] = [];
  let armed = false;
  const site = await openSite(root, {
    onStep: (step) => {
      if (!armed) return;
      const when = `killed at step ${kept.length + 1}, ${step}`;
      kept.push({ root: copyAsItLies(root, `${what}-${kept.length}`), when });
    },
  });
  const before = await treeOf(root);
  const proposal = await KILLED[what]!(site);
  armed = true;
  await applyProposal(site, proposal, 1);
  armed = false;
  const after = await treeOf(root);
  expect(after).not.toEqual(before);
  await site.close();

  const seen = { before: 0, after: 0, twice: 0 };
  const again: typeof kept = [];
  for (const [at, one] of kept.entries()) {
    // Every third is killed once more, while it is taken back or completed.
    if (at % 3 === 1) {
      const copy = copyAsItLies(one.root, `${what}-${at}-again`);
      const steps: typeof kept = [];
      const restarted = await openSite(copy, {
        onStep: (step) =>
          steps.push({
            root: copyAsItLies(copy, `${what}-${at}-${steps.length}`),
            when: `${one.when}, then at ${step}`,
          }),
      });
      await restarted.close();
      again.push(...steps.filter((_, step) => step % 4 === at % 4));
    }
    seen[await afterRestart(one.root, { before, after }, one.when)]++;
  }
  for (const one of again) {
    await afterRestart(one.root, { before, after }, one.when);
    seen.twice++;
  }
  return seen;
}

test('killed at any step of a rename, the site is as before or as after', async () => {
  const seen = await killEverywhere('rename', await smallSite());
  expect(seen.before).toBeGreaterThan(3);
  expect(seen.after).toBeGreaterThan(3);
  expect(seen.twice).toBeGreaterThan(3);
});

test('killed at any step of setting aside, and of the undo of a rename', async () => {
  const aside = await killEverywhere('aside', await smallSite());
  expect(aside.after).toBeGreaterThan(1);
  const start = await smallSite();
  const site = await openSite(start);
  await applyProposal(site, await KILLED['rename']!(site), 1);
  await site.close();
  const undo = await killEverywhere('undo', start);
  expect(undo.before).toBeGreaterThan(1);
  expect(undo.after).toBeGreaterThan(3);
});

test('killed at any step of a treatment that names images anew: images, pages, records and originals go together', async () => {
  const seen = await killEverywhere('treat', await smallSite());
  expect(seen.before).toBeGreaterThan(3);
  expect(seen.after).toBeGreaterThan(3);
});

test('killed at any step of a merge of doubles, nothing is lost: pages, words and the set-aside go together', async () => {
  const seen = await killEverywhere('merge', await smallSite());
  expect(seen.before).toBeGreaterThan(3);
  expect(seen.after).toBeGreaterThan(3);
});

test('killed at any step of an exchange of addresses, no file is over another', async () => {
  const seen = await killEverywhere('exchange', await smallSite());
  expect(seen.before).toBeGreaterThan(1);
  expect(seen.after).toBeGreaterThan(4);
});

test('killed at any step of giving items other bytes, each has them whole or not, and nobody is told that others did it', async () => {
  const seen = await killEverywhere('rewrite', await smallSite());
  expect(seen.before).toBeGreaterThan(1);
  expect(seen.after).toBeGreaterThan(2);
});

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

test('a process that is really killed leaves no more than that', async () => {
  const start = await smallSite();
  const before = await treeOf(start);
  const whole = join(dirname(start), 'whole');
  await copySite(start, whole);
  expect(await drive(whole, 'rename', 0)).toBe('applied');
  const after = await treeOf(whole);
  expect(after).not.toEqual(before);
  const states: string[] = [];
  for (const at of [3, 9, 15]) {
    const root = join(dirname(start), `killed-${at}`);
    await copySite(start, root);
    expect(await drive(root, 'rename', at)).toBe('killed');
    states.push(await afterRestart(root, { before, after }, `killed at step ${at}`));
  }
  expect(states).toContain('before');
  expect(states).toContain('after');
});
