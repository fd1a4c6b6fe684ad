import { createHash } from 'node:crypto';
import { createReadStream, existsSync } from 'node:fs';
import { chmod, mkdir, open, readdir, rename, rm, rmdir, symlink, utimes, writeFile } from 'node:fs/promises';
import { dirname, join, relative, resolve } from 'node:path';
import { Fault } from '../fault.ts';
import { blobPath, OWN_FILE } from '../files/blobs.ts';
import { DataPaths } from '../files/data-paths.ts';
import { syncFolder } from '../files/site-folder.ts';
import { BackupFolder, type Line, type Snapshot } from './layout.ts';

/** Says in a data folder that it has been brought back, and its site not yet. */
const MARK = 'restoring.json';
const ENDING = '.restoring';

export interface Restored {
  name: string;
  snapshot: Snapshot;
  /** What could not be brought back, each as a sentence. */
  notes: string[];
}

/**
 * Brings a site and its data folder back from a backup, where neither is. Both are made beside their places, every file compared with its hash,
 * and put in place in the end: what is stopped half way leaves nothing, and can be begun anew.
 * @param name of the backup; undefined: the last one
 * @throws Fault 'bad-request' when something is there or the backup is damaged, 'not-found'
 */
export async function restoreBackup(
  from: string,
  name: string | undefined,
  to: { root: string; data: string },
): Promise<Restored> {
  const folder = new BackupFolder(resolve(from));
  const chosen = await folder.chosen(name);
  const snapshot = await folder.snapshot(chosen);
  const lines = await folder.lines(chosen, snapshot);
  const [root, data] = [resolve(to.root), resolve(to.data)];
  if (!relative(root, data).startsWith('..') || !relative(data, root).startsWith('..'))
    throw new Fault(
      'bad-request',
      'The data folder would lie in the site, or around it.',
      'Name another one.',
    );
  await makeRoom(root, data);

  const [site, kept] = [`${root}${ENDING}`, new DataPaths(`${data}${ENDING}`)];
  for (const one of [site, kept.root]) {
    await rm(one, { recursive: true, force: true });
    await mkdir(one, { recursive: true, mode: one === site ? 0o755 : 0o700 });
  }
  for (const one of kept.folders) await mkdir(one, { mode: 0o700 });
  const notes = await bringSite(folder, lines, site);
  await bringData(folder, chosen, snapshot, lines, kept);
  await writeFile(join(kept.root, MARK), `${JSON.stringify({ backup: chosen })}\n`, { mode: OWN_FILE });

  await rename(kept.root, data);
  await rename(site, root);
  await rm(join(data, MARK));
  for (const one of [root, data]) await syncFolder(dirname(one));
  return { name: chosen, snapshot, notes: [...snapshot.notes, ...notes] };
}

/** @throws Fault 'bad-request' when something lies where it is to be brought back */
async function makeRoom(root: string, data: string): Promise<void> {
  // Of one that was stopped between its two last steps.
  const begun = join(data, MARK);
  if (existsSync(begun) && !existsSync(root)) await rm(data, { recursive: true });
  for (const one of [root, data]) {
    if (!existsSync(one)) continue;
    if ((await readdir(one)).length > 0)
      throw new Fault(
        'bad-request',
        `“${one}” isn’t empty. Nothing was overwritten.`,
        'Name a folder that isn’t there yet, or move this one away.',
      );
    await rmdir(one);
  }
}

async function bringSite(folder: BackupFolder, lines: readonly Line[], site: string): Promise<string[]> {
  const notes: string[] = [];
  const folders: { path: string; mode: number }[] = [];
  for (const line of lines) {
    if (line.kind === 'content') continue;
    const at = join(site, line.path);
    // A list that was written by somebody else may name anything.
    if (relative(site, at).startsWith('..'))
      throw new Fault(
        'bad-request',
        `The backup names “${line.path}”, outside of the site.`,
        'Choose another backup.',
      );
    if (line.kind === 'folder') {
      await mkdir(at, { recursive: true });
      folders.push({ path: at, mode: line.mode });
    } else if (line.kind === 'link') {
      if (relative(site, resolve(dirname(at), line.to)).startsWith('..'))
        notes.push(`“${line.path}” was a link to “${line.to}”, outside of the site. It isn’t made.`);
      else await symlink(line.to, at);
    } else {
      await copyOut(folder, line.sha256, at, `“${line.path}”`);
      await chmod(at, line.mode);
      await utimes(at, line.modified / 1000, line.modified / 1000);
    }
  }
  // Folders in which nothing may be written come last.
  for (const { path, mode } of folders.reverse()) await chmod(path, mode);
  return notes;
}

async function bringData(
  folder: BackupFolder,
  name: string,
  { database }: Snapshot,
  lines: readonly Line[],
  kept: DataPaths,
): Promise<void> {
  for (const line of lines) {
    if (line.kind !== 'content') continue;
    const at = blobPath(kept.blobs, line.sha256);
    await mkdir(dirname(at), { recursive: true, mode: 0o700 });
    await copyOut(folder, line.sha256, at, 'Kept content');
    await chmod(at, OWN_FILE);
  }
  await copyFrom(folder.database(name), kept.database, database, 'The database');
  await chmod(kept.database, OWN_FILE);
}

const copyOut = (folder: BackupFolder, sha256: string, to: string, what: string) =>
  copyFrom(folder.contentAt(sha256), to, sha256, what);

/** Copies a file whose hash is known. @throws Fault 'bad-request' when it is another one */
async function copyFrom(from: string, to: string, sha256: string, what: string): Promise<void> {
  const hash = createHash('sha256');
  const out = await open(to, 'wx');
  try {
    for await (const part of createReadStream(from) as AsyncIterable<Buffer>) {
      hash.update(part);
      await out.write(part);
    }
    await out.sync();
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') throw damaged(what);
    throw error;
  } finally {
    await out.close();
  }
  if (hash.digest('hex') !== sha256) throw damaged(what);
}
const damaged = (what: string) =>
  new Fault(
    'bad-request',
    `${what} is damaged in this backup.`,
    'Choose another backup; “npm run verify” tells which are whole.',
  );
