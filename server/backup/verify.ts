import { existsSync } from 'node:fs';
import { readdir, stat } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import Database from 'better-sqlite3';
import type { DataPaths } from '../files/data-paths.ts';
import { BackupFolder, type Line } from './layout.ts';
import { hashOfFile } from './make.ts';
import { faultsOf, filesHere, lackingContent } from './needed.ts';

/** Something that is wrong, and what mends it. */
export interface Wrong {
  says: string;
  mend: string;
}
export interface Verified {
  /** Files whose hash was computed. */
  files: number;
  bytes: number;
  rows: number;
  faults: Wrong[];
}

const ANOTHER = 'Restore another backup, and make a new one.';

/**
 * Looks through a folder of backups: every file's hash, every list, every row of each database, everything that a record refers to.
 * @throws Fault 'bad-request' when it is no folder of backups
 */
export async function verifyBackups(
  from: string,
  tell: (done: number, total: number) => void = () => {},
): Promise<Verified> {
  const folder = new BackupFolder(resolve(from));
  const names = await folder.names();
  const found: Verified = { files: 0, bytes: 0, rows: 0, faults: [] };
  const sound = await soundContent(folder.content, found, tell);
  for (const name of names) {
    const fault = (says: string, mend = ANOTHER) =>
      found.faults.push({ says: `Backup ${name}: ${says}`, mend });
    try {
      const snapshot = await folder.snapshot(name);
      const lines = await folder.lines(name, snapshot);
      for (const line of lines) {
        const sha256 = 'sha256' in line ? line.sha256 : undefined;
        if (sha256 === undefined || sound.has(sha256)) continue;
        fault(
          `${line.kind === 'file' ? `“${line.path}”` : `Kept content ${sha256}`} is missing or damaged.`,
          'A new backup copies it again, if the site still has it.',
        );
      }
      if ((await hashOfFile(folder.database(name))) !== snapshot.database) fault('The database is damaged.');
      else found.rows += checkedRows(folder.database(name), lines, fault);
    } catch (error) {
      fault(error instanceof Error ? error.message : String(error));
    }
  }
  return found;
}

/** Content whose bytes are those that its name says. */
async function soundContent(
  folder: string,
  found: Verified,
  tell: (done: number, total: number) => void,
): Promise<Set<string>> {
  const sound = new Set<string>();
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  const files = entries.filter((entry) => entry.isFile());
  for (const [at, { name, parentPath }] of files.entries()) {
    const file = join(parentPath, name);
    tell(at, files.length);
    found.files++;
    found.bytes += (await stat(file)).size;
    if ((await hashOfFile(file)) === name) sound.add(name);
    else
      found.faults.push({
        says: `The content ${name} is damaged.`,
        mend: 'Delete this file; a new backup copies it again, if the site still has it.',
      });
  }
  tell(files.length, files.length);
  return sound;
}

/** Whether all that rows of a database refer to is in the backup. Answers how many rows there are. */
function checkedRows(file: string, lines: readonly Line[], fault: (says: string) => unknown): number {
  const held = new Set(lines.flatMap((line) => ('sha256' in line ? [line.sha256] : [])));
  const files = new Map(
    lines.flatMap((line) => (line.kind === 'file' ? [[line.path, line.sha256] as const] : [])),
  );
  const db = new Database(file, { readonly: true, fileMustExist: true });
  try {
    faultsOf(db).forEach((says) => fault(says));
    for (const { by } of lackingContent(db, (sha256) => held.has(sha256)))
      fault(`${by} needs content that isn’t there.`);
    for (const { path, sha256 } of filesHere(db)) {
      const has = files.get(path);
      if (has === undefined) fault(`The file of the record “${path}” isn’t there.`);
      else if (has !== sha256) fault(`The file “${path}” is another one than its record says.`);
    }
    return rowsIn(db);
  } finally {
    db.close();
  }
}

function rowsIn(db: Database.Database): number {
  const tables = db
    .prepare("select name from sqlite_schema where type = 'table' and name not like 'sqlite_%'")
    .pluck()
    .all() as string[];
  return tables.reduce((sum, name) => {
    const rows = db
      .prepare(`select count(*) from "${name.replaceAll('"', '""')}"`)
      .pluck()
      .get() as number;
    return sum + rows;
  }, 0);
}

/**
 * Looks through a library where it lies, also while a server works on it: the hash of all kept content and of every item's file, every row,
 * everything that a record refers to. Nothing is changed.
 * @param backups a folder of backups in which what is lost here may still be
 */
export async function verifyLibrary(
  { root, data }: { root: string; data: DataPaths },
  backups?: string,
  tell: (done: number, total: number) => void = () => {},
): Promise<Verified> {
  const found: Verified = { files: 0, bytes: 0, rows: 0, faults: [] };
  const kept = await soundKept(data.blobs, found);
  const db = new Database(data.database, { readonly: true, fileMustExist: true });
  try {
    for (const says of faultsOf(db))
      found.faults.push({ says, mend: 'Stop the server and restore a backup.' });
    const here = filesHere(db);
    const onSite = new Set<string>();
    for (const [at, { path, sha256 }] of here.entries()) {
      tell(at, here.length);
      const file = join(root, path);
      const facts = await stat(file).catch(() => undefined);
      if (!facts) {
        found.faults.push({
          says: `The file of the record “${path}” isn’t there.`,
          mend: 'Put it back; Upkeep lists it under “Missing files”.',
        });
        continue;
      }
      found.files++;
      found.bytes += facts.size;
      const now = await hashOfFile(file);
      onSite.add(now);
      if (now !== sha256)
        found.faults.push({
          says: `“${path}” has other bytes than its record says.`,
          mend: 'Was it changed outside? Then open the site in Iconomos, which reads it anew; else bring it back from a backup.',
        });
    }
    tell(here.length, here.length);
    const folder = backups === undefined ? undefined : new BackupFolder(resolve(backups));
    await folder?.check();
    for (const { sha256, by } of lackingContent(db, (one) => kept.has(one) || onSite.has(one))) {
      const isThere = folder !== undefined && existsSync(folder.contentAt(sha256));
      found.faults.push({
        says: `${by} needs content that isn’t there (${sha256}).`,
        mend: isThere
          ? `Copy “${folder.contentAt(sha256)}” to the blobs of the data folder.`
          : 'A backup of before may hold it: name its folder with --backups.',
      });
    }
    found.rows = rowsIn(db);
  } finally {
    db.close();
  }
  return found;
}

async function soundKept(blobs: string, found: Verified): Promise<Set<string>> {
  const sound = new Set<string>();
  for (const { name, parentPath } of await readdir(blobs, { recursive: true, withFileTypes: true })) {
    if (!/^[0-9a-f]{64}$/.test(name)) continue;
    const file = join(parentPath, name);
    found.files++;
    found.bytes += (await stat(file)).size;
    if ((await hashOfFile(file)) === name) sound.add(name);
    else
      found.faults.push({
        says: `The kept content ${name} is damaged.`,
        mend: 'Bring it back from a backup, under the same name.',
      });
  }
  return sound;
}
