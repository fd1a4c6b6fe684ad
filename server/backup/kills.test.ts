import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { builtFile } from '../built.ts';
import { besideSite } from '../files/data-folder.ts';
import { closeSites, openSite, smallSite, treeOf } from '../test/site.ts';
import { verifyBackups } from './verify.ts';

/** Backups and restores that are killed at any moment leave nothing that is taken for whole. */
let folder: string;
let root: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'iconomos-killed-'));
  root = await smallSite();
  for (let at = 0; at < 300; at++)
    await writeFile(join(root, `page-${at}.html`), `<p>${at}</p>`.repeat(50 + at));
  await openSite(root);
}, 60_000);
afterAll(async () => {
  await closeSites();
  await rm(folder, { recursive: true, force: true });
});

/** Runs a command; killed after so many milliseconds, if it has not ended. @returns its exit code; null: it was killed */
function run(program: string, args: string[], killedAfter?: number): Promise<number | null> {
  const child = spawn(process.execPath, [builtFile(`${program}.js`), ...args], { stdio: 'ignore' });
  const timer = killedAfter === undefined ? undefined : setTimeout(() => child.kill('SIGKILL'), killedAfter);
  return new Promise((done) =>
    child.on('exit', (code) => {
      clearTimeout(timer);
      done(code);
    }),
  );
}
async function took(of: () => Promise<unknown>): Promise<number> {
  const begun = performance.now();
  await of();
  return performance.now() - begun;
}
const KILLS = 12;

test('a backup', async () => {
  const to = join(folder, 'backups');
  const backup = (killed?: number) => run('backup', ['--site', root, '--to', to], killed);
  const whole = await took(async () => expect(await backup()).toBe(0));
  await rm(to, { recursive: true });
  let killed = 0;
  for (let at = 0; at < KILLS; at++) {
    if ((await backup(whole * ((at + 0.5) / KILLS))) === null) killed++;
    // Whatever is taken for whole is whole.
    if (existsSync(join(to, 'iconomos-backup.json'))) expect((await verifyBackups(to)).faults).toEqual([]);
    // Every third time it begins without what the others have copied.
    if (at % 3 === 2) await rm(to, { recursive: true, force: true });
  }
  // Where the machine is faster by now, some end before.
  expect(killed).toBeGreaterThan(2);
  expect(await backup()).toBe(0);
  expect((await verifyBackups(to)).faults).toEqual([]);
}, 120_000);

test('a restore', async () => {
  const to = join(folder, 'kept');
  expect(await run('backup', ['--site', root, '--to', to])).toBe(0);
  const site = join(folder, 'restored');
  const restore = (killed?: number) => run('restore', ['--from', to, '--site', site], killed);
  const whole = await took(async () => expect(await restore()).toBe(0));
  const before = await treeOf(root);
  const clear = () =>
    Promise.all([site, besideSite(site)].map((one) => rm(one, { recursive: true, force: true })));
  await clear();
  let killed = 0;
  for (let at = 0; at < KILLS; at++) {
    if ((await restore(whole * ((at + 0.5) / KILLS))) === null) killed++;
    // The site is there as a whole, with its data, or not at all.
    if (existsSync(site)) {
      expect(await treeOf(site)).toEqual(before);
      expect(existsSync(besideSite(site))).toBe(true);
      await clear();
    }
  }
  // Where the machine is faster by now, some end before.
  expect(killed).toBeGreaterThan(2);
  expect(await restore()).toBe(0);
  expect(await treeOf(site)).toEqual(before);
}, 120_000);
