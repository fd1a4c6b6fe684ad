import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, existsSync } from 'node:fs';
import { lstat, mkdir, open, readdir, rename, rm, stat, unlink } from 'node:fs/promises';
import { basename, dirname, join, relative, resolve } from 'node:path';
import type { SitePath } from '../../core/address/path.ts';
import { Fault } from '../fault.ts';
import type { DataPaths } from '../files/data-paths.ts';
import { syncFolder, writeSynced } from '../files/site-folder.ts';
import { snapshotOf, stateOf } from './database-copy.ts';
import { everythingIn, gone } from './everything.ts';
import { BackupFolder, FORMAT, hashOf, type Line, type Snapshot } from './layout.ts';

/** How often it is begun anew when something is changed meanwhile. */
const TRIES = 5;
/** How often a file is read that is being written. */
const READINGS = 3;
/** Age of what a run that was stopped has left, in milliseconds. */
const LEFT = 24 * 3600_000;

export interface Made {
  name: string;
  snapshot: Snapshot;
  /** Files and bytes that were not there from an earlier backup. */
  copied: { files: number; bytes: number };
}
type FileLine = Extract<Line, { kind: 'file' }>;

/**
 * Makes a backup of a site and its data folder, while a server may work on them: the database as of one moment, and with it the files as they
 * were then. Only content that no earlier backup in the folder holds is copied.
 * @param now ISO 8601
 * @throws Fault 'bad-request' when the folder can't be one of backups, 'busy' when changes go on all the time
 */
export async function makeBackup(
  { root, data }: { root: string; data: DataPaths },
  to: string,
  { now, tell = () => {} }: { now: () => string; tell?: (sentence: string) => void },
): Promise<Made> {
  const folder = await prepared(to, [root, data.root]);
  const work = join(folder.work, randomUUID());
  await mkdir(work, { recursive: true, mode: 0o700 });
  try {
    const before = await latestFiles(folder);
    const copied = { files: 0, bytes: 0 };
    for (let tries = 1; ; tries++) {
      const run = new Run(folder, work, root, data, before, copied);
      const made = await run.once(now());
      if (made || tries === TRIES) {
        if (!made)
          throw new Fault(
            'busy',
            'The library is being changed all the time.',
            'Try again when less is going on.',
          );
        return made;
      }
      tell('Something was changed meanwhile. What is new is copied once more.');
    }
  } finally {
    await rm(work, { recursive: true, force: true });
  }
}

/** @throws Fault 'bad-request' */
async function prepared(to: string, sources: readonly string[]): Promise<BackupFolder> {
  const folder = new BackupFolder(resolve(to));
  for (const source of sources) {
    const inside = (one: string, other: string) => !relative(other, one).startsWith('..');
    if (inside(folder.root, source) || inside(source, folder.root))
      throw new Fault(
        'bad-request',
        `“${folder.root}” lies in what is backed up, or around it.`,
        'Name a folder of its own, best on another disk.',
      );
  }
  if (existsSync(folder.mark)) await folder.check();
  else {
    const others = existsSync(folder.root) ? await readdir(folder.root) : [];
    if (others.length > 0)
      throw new Fault(
        'bad-request',
        `“${folder.root}” holds other things.`,
        'Name an empty folder, or one of backups.',
      );
    await mkdir(folder.root, { recursive: true, mode: 0o700 });
    await writeSynced(folder.mark, Buffer.from(`${JSON.stringify({ format: FORMAT })}\n`));
  }
  for (const one of [folder.content, folder.snapshots, folder.work])
    await mkdir(one, { recursive: true, mode: 0o700 });
  for (const name of await readdir(folder.work)) {
    const left = join(folder.work, name);
    if (Date.now() - (await stat(left)).mtimeMs > LEFT) await rm(left, { recursive: true, force: true });
  }
  return folder;
}

/** The files of the last backup, by their paths: one of the same size and time needs not be read again. */
async function latestFiles(folder: BackupFolder): Promise<Map<SitePath, FileLine>> {
  const name = (await folder.names()).at(-1);
  if (name === undefined) return new Map();
  const lines = await folder.lines(name, await folder.snapshot(name));
  return new Map(lines.flatMap((line) => (line.kind === 'file' ? [[line.path, line] as const] : [])));
}

class Run {
  private readonly lines: Line[] = [];
  private readonly notes: string[] = [];

  constructor(
    private readonly folder: BackupFolder,
    private readonly work: string,
    private readonly root: string,
    private readonly data: DataPaths,
    private readonly before: ReadonlyMap<SitePath, FileLine>,
    private readonly copied: Made['copied'],
  ) {}

  /** Undefined: something was changed meanwhile. */
  async once(at: string): Promise<Made | undefined> {
    const database = join(this.work, 'iconomos.db');
    await rm(database, { force: true });
    const begun = await snapshotOf(this.data.database, database);
    await this.walk();
    await this.contents();
    if (begun !== stateOf(this.data.database)) return undefined;
    const name = `${at.slice(0, 19).replace(/:/g, '-')}-${randomUUID().slice(0, 4)}`;
    const list = this.lines.map((line) => `${JSON.stringify(line)}\n`).join('');
    const held = this.lines.filter((line) => line.kind === 'file' || line.kind === 'content');
    const snapshot: Snapshot = {
      format: FORMAT,
      at,
      site: basename(this.root),
      files: held.length,
      bytes: held.reduce((sum, { bytes }) => sum + bytes, 0),
      list: hashOf(list),
      database: await hashOfFile(database),
      notes: this.notes,
    };
    const place = join(this.work, 'snapshot');
    await mkdir(place, { mode: 0o700 });
    await rename(database, join(place, 'iconomos.db'));
    await writeSynced(join(place, 'files.jsonl'), Buffer.from(list));
    await writeSynced(join(place, 'snapshot.json'), Buffer.from(`${JSON.stringify(snapshot, null, 1)}\n`));
    await rename(place, join(this.folder.snapshots, name));
    await syncFolder(this.folder.snapshots);
    return { name, snapshot, copied: this.copied };
  }

  /** Everything in the folder of the site. */
  private async walk(): Promise<void> {
    for await (const found of everythingIn(this.root, this.data.root)) {
      if (found.kind === 'note') this.notes.push(found.says);
      else if (found.kind === 'file') await this.file(found.path, found.file);
      else this.lines.push(found);
    }
  }

  private async file(path: SitePath, file: string): Promise<void> {
    for (let reading = 1; ; reading++) {
      const facts = await lstat(file).catch(gone);
      if (!facts?.isFile()) return;
      const line = {
        kind: 'file' as const,
        path,
        bytes: facts.size,
        modified: facts.mtimeMs,
        mode: facts.mode & 0o777,
      };
      const old = this.before.get(path);
      const isOld = old?.bytes === line.bytes && old.modified === line.modified;
      if (isOld && existsSync(this.folder.contentAt(old.sha256))) {
        this.lines.push({ ...line, sha256: old.sha256 });
        return;
      }
      try {
        const { sha256, bytes } = await this.store(file);
        const now = await lstat(file).catch(gone);
        const isSame = now?.size === facts.size && now.mtimeMs === facts.mtimeMs && bytes === facts.size;
        if (!isSame && reading < READINGS) continue;
        if (!isSame) this.notes.push(`“${path}” was being written. It is kept as it was read.`);
        this.lines.push({ ...line, bytes, sha256 });
      } catch (error) {
        this.notes.push(
          `“${path}” could not be read (${(error as NodeJS.ErrnoException).code ?? String(error)}).`,
        );
      }
      return;
    }
  }

  /** What the data folder keeps by its hash. */
  private async contents(): Promise<void> {
    const names = await readdir(this.data.blobs, { recursive: true, withFileTypes: true });
    for (const one of names.filter((entry) => entry.isFile() && /^[0-9a-f]{64}$/.test(entry.name))) {
      const file = join(one.parentPath, one.name);
      const facts = await stat(file).catch(gone);
      if (!facts) continue;
      this.lines.push({ kind: 'content', sha256: one.name, bytes: facts.size });
      if (existsSync(this.folder.contentAt(one.name))) continue;
      const { sha256 } = await this.store(file);
      if (sha256 === one.name) continue;
      this.lines.pop();
      this.notes.push(`The kept content ${one.name} is damaged, so it can’t be kept.`);
    }
  }

  /** Copies a file into the content, unless it is there. */
  private async store(file: string): Promise<{ sha256: string; bytes: number }> {
    const copy = join(this.work, randomUUID());
    const hash = createHash('sha256');
    let bytes = 0;
    const out = await open(copy, 'wx', 0o600);
    try {
      for await (const part of createReadStream(file) as AsyncIterable<Buffer>) {
        hash.update(part);
        bytes += part.length;
        await out.write(part);
      }
      await out.sync();
    } finally {
      await out.close();
    }
    const sha256 = hash.digest('hex');
    const to = this.folder.contentAt(sha256);
    if (existsSync(to)) await unlink(copy);
    else {
      await mkdir(dirname(to), { recursive: true, mode: 0o700 });
      await rename(copy, to);
      await syncFolder(dirname(to));
      this.copied.files++;
      this.copied.bytes += bytes;
    }
    return { sha256, bytes };
  }
}

/** SHA-256 of a file. */
export async function hashOfFile(file: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const part of createReadStream(file) as AsyncIterable<Buffer>) hash.update(part);
  return hash.digest('hex');
}
