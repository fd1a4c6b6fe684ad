import { execFileSync } from 'node:child_process';
import { cp, mkdir, mkdtemp, rm, statfs, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { afterEach, beforeEach, expect, test } from 'vitest';
import type { OpenedSite } from '../app/opened-site.ts';
import { openSite as openBare } from '../app/open-site.ts';
import { idOf, plan } from '../test/plans.ts';
import { closeSites, openSite, smallSite, treeOf } from '../test/site.ts';
import { applyProposal } from './apply.ts';

/** Disks of their own, which can really be full or read-only: only where this machine lets file systems be mounted. */
const mounts = (): boolean => {
  const at = join(tmpdir(), `iconomos-mount-${process.pid}`);
  try {
    execFileSync('mkdir', ['-p', at]);
    execFileSync('mount', ['-t', 'tmpfs', 'tmpfs', at], { stdio: 'ignore' });
    execFileSync('umount', [at]);
    return true;
  } catch {
    // No right to mount: these tests are left out, the injected failures of failing.test.ts stay.
    return false;
  }
};
const canMount = process.platform === 'linux' && mounts();

let disk: string;
beforeEach(async () => {
  if (!canMount) return;
  disk = await mkdtemp(join(tmpdir(), 'iconomos-disk-'));
  execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=12m', 'tmpfs', disk]);
});
afterEach(async () => {
  await closeSites();
  if (!canMount) return;
  execFileSync('umount', ['-l', disk]);
  await rm(disk, { recursive: true, force: true });
});
const REQUESTS = [
  { kind: 'set-aside', paths: ['img/unused.png'] },
  { kind: 'move', paths: ['img/b.png'] },
  { kind: 'folder', paths: [] },
] as const;
async function allRefused(site: OpenedSite, code: RegExp): Promise<void> {
  for (const { kind, paths } of REQUESTS) {
    const itemIds = paths.map((path) => idOf(site, path));
    const proposal = await plan(
      site,
      kind === 'folder'
        ? { kind, folder: 'img', to: 'media/new' }
        : kind === 'move'
          ? { kind, itemIds, folder: 'far/away' }
          : { kind, itemIds },
    );
    await expect(applyProposal(site, proposal, 1), kind).rejects.toMatchObject({
      code: expect.stringMatching(code) as string,
    });
    expect(site.ledger.unsettled, kind).toEqual([]);
  }
}

test.runIf(canMount)(
  'on a site that is wholly read-only every change is refused, nothing is half done',
  async () => {
    const root = join(disk, 'one', 'site');
    await cp(await smallSite(), root, { recursive: true });
    const site = await openSite(root, { data: await mkdtemp(join(tmpdir(), 'iconomos-data-')) });
    const before = await treeOf(root);
    execFileSync('mount', ['-o', 'remount,ro', disk]);
    await allRefused(site, /^forbidden$/);
    execFileSync('mount', ['-o', 'remount,rw', disk]);
    expect(await treeOf(root)).toEqual(before);
    await site.scanner.scan(true);
    expect(site.references.brokenCount()).toBe(1);
  },
);

test.runIf(canMount)(
  'with a full disk under the data folder nothing changes, and with room again the server starts',
  async () => {
    const root = await smallSite();
    const data = join(disk, 'data');
    await mkdir(data);
    const site = await openBare({ site: root, data, people: [{ name: 'Ottilie', role: 'steward' }] });
    await site.scanner.scan();
    const before = await treeOf(root);
    const { bavail, bsize } = await statfs(disk);
    await writeFile(join(disk, 'fill'), Buffer.alloc(bavail * bsize)).catch(() => undefined);
    await allRefused(site, /^(?:disk-full|SQLITE_FULL)$/);
    expect(await treeOf(root)).toEqual(before);
    await site.close();
    // Without any room a database cannot even be opened: that is said, and with some it starts.
    const told: OpenedSite | Error = await openBare({ site: root, data }).catch((error: Error) => error);
    if (!(told instanceof Error)) await told.close();
    else
      expect(told).toMatchObject({
        code: 'data-folder',
        message: expect.stringContaining('the disk is full') as string,
      });
    await rm(join(disk, 'fill'));
    const again = await openBare({ site: root, data });
    expect(again.ledger.unsettled).toEqual([]);
    await again.close();
    await rm(dirname(root), { recursive: true, force: true });
  },
);

test.runIf(canMount)('a data folder that cannot be written to is told in a sentence', async () => {
  const root = await smallSite();
  const data = join(disk, 'data');
  await mkdir(data);
  await (await openBare({ site: root, data })).close();
  execFileSync('mount', ['-o', 'remount,ro', disk]);
  await expect(openBare({ site: root, data })).rejects.toMatchObject({
    code: 'data-folder',
    message: expect.stringContaining('cannot be written to') as string,
  });
});
