import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import {
  appendFile,
  chmod,
  mkdir,
  mkdtemp,
  readdir,
  readFile,
  rm,
  symlink,
  truncate,
  writeFile,
} from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { applyProposal } from '../changes/apply.ts';
import { proposeRecords } from '../changes/records.ts';
import { besideSite } from '../files/data-folder.ts';
import { DataPaths } from '../files/data-paths.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { apply } from '../test/plans.ts';
import { closeSites, openSite, smallSite, treeOf } from '../test/site.ts';
import { BackupFolder } from './layout.ts';
import { makeBackup } from './make.ts';
import { restoreBackup } from './restore.ts';
import { verifyBackups, verifyLibrary } from './verify.ts';

let folder: string;
let root: string;
let to: string;
let minute = 0;
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'iconomos-backup-'));
  to = join(folder, 'backups');
  root = await smallSite();
});
afterEach(async () => {
  await closeSites();
  await rm(folder, { recursive: true, force: true });
});

const now = () => new Date(Date.UTC(2026, 0, 1, 0, minute++)).toISOString();
const data = () => new DataPaths(besideSite(root));
const backup = () => makeBackup({ root, data: data() }, to, { now });
const place = (name: string) => ({ root: join(folder, name), data: join(folder, `${name}.data`) });
/** A file of the backups, the first that holds this content. */
const contentOf = async (path: string) => {
  const sha256 = createHash('sha256')
    .update(await readFile(join(root, path)))
    .digest('hex');
  return new BackupFolder(to).contentAt(sha256);
};
/** Everything that a database says. */
async function rowsOf(file: string): Promise<unknown> {
  const { default: Database } = await import('better-sqlite3');
  const db = new Database(file, { readonly: true });
  const tables = db
    .prepare("select name from sqlite_schema where type = 'table' and sql not like '%virtual%'")
    .pluck()
    .all() as string[];
  const rows = Object.fromEntries(
    tables.map((name) => [name, db.prepare(`select * from "${name}"`).raw().all()]),
  );
  db.close();
  return rows;
}
/** A library in which somebody has written something, and nothing is going on. */
async function worked(): Promise<OpenedSite> {
  const site = await openSite(root);
  const [first] = [...site.index.paths].flatMap((path) => site.items.atPath(path) ?? []);
  await applyProposal(
    site,
    await proposeRecords(site, [first!.id], { set: { title: 'First' }, addTags: ['moon'] }),
    1,
  );
  await site.analyser.analyseAll();
  return site;
}

describe('a backup', () => {
  test('brings back every byte, every row and every right; made while the library is open', async () => {
    await worked();
    await mkdir(join(root, 'empty'));
    await chmod(join(root, 'index.html'), 0o640);
    await symlink('index.html', join(root, 'start.html'));
    const { snapshot } = await backup();
    expect(snapshot.notes).toEqual([]);
    const other = place('restored');
    expect((await restoreBackup(to, undefined, other)).notes).toEqual([]);
    expect(await treeOf(other.root)).toEqual(await treeOf(root));
    expect(await readdir(other.root)).toEqual(await readdir(root));
    expect(await rowsOf(new DataPaths(other.data).database)).toEqual(await rowsOf(data().database));
    const again = await openSite(other.root, { data: other.data });
    const titled = [...again.index.paths].flatMap((path) => again.items.atPath(path)?.words.title || []);
    expect(titled).toEqual(['First']);
    expect((await verifyLibrary({ root: other.root, data: new DataPaths(other.data) })).faults).toEqual([]);
  });

  test('a second one copies only what is new; each can be brought back', async () => {
    await worked();
    const first = await backup();
    expect(first.copied.files).toBeGreaterThan(5);
    expect((await backup()).copied.files).toBe(0);
    await writeFile(join(root, 'new.html'), 'new');
    const third = await backup();
    expect(third.copied).toEqual({ files: 1, bytes: 3 });
    const old = place('old');
    await restoreBackup(to, first.name, old);
    expect(existsSync(join(old.root, 'new.html'))).toBe(false);
    await restoreBackup(to, third.name, place('later'));
    expect((await verifyBackups(to)).faults).toEqual([]);
  });

  test('goes nowhere but into a folder of its own', async () => {
    await worked();
    await writeFile(join(folder, 'other.txt'), 'x');
    for (const [where, says] of [
      [join(root, 'backup'), 'lies in what is backed up'],
      [data().root, 'lies in what is backed up'],
      [folder, 'holds other things'],
    ] as const)
      await expect(makeBackup({ root, data: data() }, where, { now })).rejects.toThrow(says);
  });
});

describe('bringing back', () => {
  test('overwrites nothing, and leaves nothing where a backup is damaged', async () => {
    await worked();
    await backup();
    await expect(restoreBackup(to, undefined, { root, data: data().root })).rejects.toThrow('isn’t empty');
    await appendFile(await contentOf('index.html'), 'x');
    const other = place('restored');
    await expect(restoreBackup(to, undefined, other)).rejects.toThrow(
      '“index.html” is damaged in this backup.',
    );
    expect([existsSync(other.root), existsSync(other.data)]).toEqual([false, false]);
    await expect(restoreBackup(to, '2020-01-01', other)).rejects.toThrow('There is no backup “2020-01-01”.');
    await expect(restoreBackup(folder, undefined, other)).rejects.toThrow('holds no backups');
  });

  test('a list that names a place outside is refused', async () => {
    await worked();
    const { name } = await backup();
    const at = new BackupFolder(to);
    const list = (await readFile(at.list(name), 'utf8')).replace(
      '"path":"index.html"',
      '"path":"../index.html"',
    );
    await writeFile(at.list(name), list);
    await expect(restoreBackup(to, name, place('restored'))).rejects.toThrow('The list of the backup');
    const snapshot = JSON.parse(await readFile(at.description(name), 'utf8')) as { list: string };
    snapshot.list = createHash('sha256').update(list).digest('hex');
    await writeFile(at.description(name), JSON.stringify(snapshot));
    await expect(restoreBackup(to, name, place('restored'))).rejects.toThrow('outside of the site');
  });

  test('one that was stopped between its last steps is begun anew', async () => {
    await worked();
    await backup();
    const other = place('restored');
    await mkdir(other.data);
    await writeFile(join(other.data, 'restoring.json'), '{}');
    await mkdir(`${other.root}.restoring`);
    await restoreBackup(to, undefined, other);
    expect(await treeOf(other.root)).toEqual(await treeOf(root));
    expect(existsSync(join(other.data, 'restoring.json'))).toBe(false);
  });
});

describe('a look at what is kept', () => {
  test('tells what is damaged or gone, and what mends it', async () => {
    await worked();
    const { name } = await backup();
    const file = await contentOf('index.html');
    await truncate(file, 3);
    const damaged = await verifyBackups(to);
    expect(damaged.faults.map(({ says }) => says)).toEqual([
      expect.stringMatching(/^The content [0-9a-f]{64} is damaged\.$/),
      `Backup ${name}: “index.html” is missing or damaged.`,
    ]);
    // As told: without the damaged file, a new backup copies it again.
    await rm(file);
    await backup();
    expect((await verifyBackups(to)).faults).toEqual([]);
  });

  test('of a library: files that are others than their records say, content that is gone', async () => {
    const site = await worked();
    await backup();
    const library = { root, data: data() };
    const id = site.items.atPath('img/IMG_1234.png')!.id;
    for (const name of ['hill.png', 'dome.png'])
      await apply(site, { kind: 'address', itemId: id, folder: 'img', name });
    // What a change had written is lost to somebody who wrote over it, and no fault of the library.
    await appendFile(join(root, 'index.html'), 'x');
    expect((await verifyLibrary(library)).faults).toEqual([]);
    const replaced = site.db.value<string>(
      `select before from (select json_extract(value, '$.before') as before from ledger_plan, json_each(plan, '$.files')) where before is not null`,
    );
    const kept = await readFile(site.blobs.get(replaced!));
    await site.blobs.drop(replaced!);
    expect((await verifyLibrary(library)).faults).toEqual([
      expect.objectContaining({
        says: expect.stringMatching(/^The undo of “.*hill.png”” needs content that isn’t there/) as string,
      }),
    ]);
    await site.blobs.put(kept);
    await appendFile(join(root, 'img/b.png'), 'x');
    await rm(join(root, 'img/c.png'));
    const { faults } = await verifyLibrary(library);
    expect(faults.map(({ says }) => says).sort()).toEqual(
      [
        'The file of the record “img/c.png” isn’t there.',
        '“img/b.png” has other bytes than its record says.',
      ].sort(),
    );
  });
});
