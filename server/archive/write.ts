import { existsSync } from 'node:fs';
import { lstat, mkdir, readdir, readFile, rename, rm } from 'node:fs/promises';
import { basename, dirname, join, relative, resolve } from 'node:path';
import Database from 'better-sqlite3';
import { encodePath } from '../../core/address/path.ts';
import { readRedirects, REDIRECTS_FILE } from '../../core/address/redirects.ts';
import { LINKED_AT, LINKED_END, LINKED_START, linkedItem } from '../../core/archive/linked-data.ts';
import {
  ARCHIVE_FORMAT,
  contentAt,
  RECORD_KINDS,
  recordsAt,
  schemaAt,
  schemaOf,
  siteFileAt,
  type ArchivedItem,
  type SiteFile,
} from '../../core/archive/records.ts';
import { snapshotOf, stateOf } from '../backup/database-copy.ts';
import { everythingIn, gone } from '../backup/everything.ts';
import { lackingContent } from '../backup/needed.ts';
import { Fault } from '../fault.ts';
import type { DataPaths } from '../files/data-paths.ts';
import { syncFolder } from '../files/site-folder.ts';
import { BagWriter } from './bag-writer.ts';
import { recordsOf, TABLES } from './tables.ts';

/** How often it is begun anew when something is changed meanwhile. */
const TRIES = 5;
/** How often a file is read that is being written. */
const READINGS = 3;

export interface Archived {
  files: number;
  bytes: number;
  /** Records, by their kind. */
  records: Readonly<Record<string, number>>;
  /** What could not be kept, each as a sentence. */
  notes: string[];
}

export interface Following {
  /** ISO 8601. */
  now: () => string;
  tell?: (sentence: string) => void;
  progress?: (done: number, what: string) => void;
  signal?: AbortSignal | undefined;
}

/**
 * Writes a whole library as a bag: every file of its site, all content that it keeps, and its records as JSON Lines with their schemas. A server
 * may work on it meanwhile. It is whole when it is at its place: it is written beside it.
 * @throws Fault 'bad-request' when the folder can't be one, 'busy' when changes go on all the time; the reason of the signal
 */
export async function writeArchive(
  { root, data }: { root: string; data: DataPaths },
  to: string,
  following: Following,
): Promise<Archived> {
  const target = resolve(to);
  await refuseFolder(target, root, data);
  const part = `${target}.part`;
  await rm(part, { recursive: true, force: true });
  await mkdir(part, { recursive: true, mode: 0o700 });
  const work = `${target}.work.db`;
  try {
    const copied: Copied = new Map();
    const bag = new BagWriter(part);
    for (let tries = 1; ; tries++) {
      const made = await new Run({ root, data }, bag, work, copied, following).once();
      if (made) {
        await rename(part, target).catch(async (error: NodeJS.ErrnoException) => {
          // It is there already, and empty.
          if (error.code !== 'ENOTEMPTY' && error.code !== 'EEXIST') throw error;
          await rm(target, { recursive: true });
          await rename(part, target);
        });
        await syncFolder(dirname(target));
        return made;
      }
      if (tries === TRIES)
        throw new Fault(
          'busy',
          'The library is being changed all the time.',
          'Try again when less is going on.',
        );
      following.tell?.('Something was changed meanwhile. What is new is copied once more.');
    }
  } finally {
    await rm(part, { recursive: true, force: true });
    await rm(work, { force: true });
  }
}

/** @throws Fault 'bad-request' */
async function refuseFolder(target: string, root: string, data: DataPaths): Promise<void> {
  const inside = (one: string, other: string) => !relative(other, one).startsWith('..');
  // What is exported lies in the data folder, too, and is not archived.
  const within = inside(target, data.blobs) || (inside(target, root) && !inside(target, data.exports));
  if (within || inside(root, target) || inside(data.root, target))
    throw new Fault(
      'bad-request',
      `“${target}” lies in what is archived, or around it.`,
      'Name a folder of its own.',
    );
  if (existsSync(target) && (await readdir(target)).length > 0)
    throw new Fault(
      'bad-request',
      `“${target}” isn’t empty. Nothing was overwritten.`,
      'Name a folder that isn’t there yet.',
    );
}

/** Files that were copied, and their sizes and times then. */
type Copied = Map<string, Extract<SiteFile, { kind: 'file' }>>;

class Run {
  private readonly notes: string[] = [];
  private readonly records: Record<string, number> = {};

  constructor(
    private readonly source: { root: string; data: DataPaths },
    private readonly bag: BagWriter,
    private readonly work: string,
    private readonly copied: Copied,
    private readonly following: Following,
  ) {}

  /** Undefined: something was changed meanwhile. */
  async once(): Promise<Archived | undefined> {
    const { root, data } = this.source;
    await rm(this.work, { force: true });
    const begun = await snapshotOf(data.database, this.work);
    const files = await this.site();
    const db = new Database(this.work, { readonly: true });
    try {
      await this.contents(db);
      if (begun !== stateOf(data.database) || !begun.includes('"going":0')) return undefined;
      await this.tables(db, files);
      const at = this.following.now();
      const { bytes } = this.bag;
      await this.bag.finish([
        ['Source-Organization', basename(root)],
        ['External-Description', 'A media library with its site, its records and its ledger'],
        ['Bagging-Date', at.slice(0, 10)],
        ['Bag-Size', `${bytes} B`],
        ['Iconomos-Archive-Format', String(ARCHIVE_FORMAT)],
        ['Iconomos-Archived-At', at],
        ...this.notes.map((note) => ['Iconomos-Note', note] as const),
      ]);
      return { files: this.bag.files, bytes, records: this.records, notes: this.notes };
    } finally {
      db.close();
    }
  }

  /** Copies the site's folder. Answers what is in it. */
  private async site(): Promise<SiteFile[]> {
    const { root, data } = this.source;
    const lines: SiteFile[] = [];
    const still = new Set<string>();
    for await (const found of everythingIn(root, data.root)) {
      this.following.signal?.throwIfAborted();
      if (found.kind === 'note') this.notes.push(found.says);
      else if (found.kind !== 'file') lines.push(found);
      else {
        still.add(found.path);
        const line = await this.file(found.path, found.file);
        if (line) lines.push(line);
        this.following.progress?.(lines.length, 'files copied');
      }
    }
    for (const path of this.copied.keys()) if (!still.has(path)) await this.drop(path);
    return lines;
  }

  private async drop(path: string): Promise<void> {
    this.bag.forget(siteFileAt(path));
    this.copied.delete(path);
    await rm(join(this.bag.root, siteFileAt(path)), { force: true });
  }

  private async file(path: string, file: string): Promise<SiteFile | undefined> {
    for (let reading = 1; ; reading++) {
      const facts = await lstat(file).catch(gone);
      if (!facts?.isFile()) return undefined;
      const line = { kind: 'file' as const, path, modified: facts.mtimeMs, mode: facts.mode & 0o777 };
      const old = this.copied.get(path);
      if (old?.bytes === facts.size && old.modified === line.modified) return { ...old, mode: line.mode };
      try {
        const { sha256, bytes } = await this.bag.copy(file, siteFileAt(path));
        const now = await lstat(file).catch(gone);
        const isSame = now?.size === facts.size && now.mtimeMs === facts.mtimeMs && bytes === facts.size;
        if (!isSame && reading < READINGS) continue;
        if (!isSame) this.notes.push(`“${path}” was being written. It is kept as it was read.`);
        const copy = { ...line, bytes, sha256 };
        this.copied.set(path, copy);
        return copy;
      } catch (error) {
        await this.drop(path);
        const why = (error as NodeJS.ErrnoException).code ?? String(error);
        this.notes.push(`“${path}” could not be read (${why}).`);
        return undefined;
      }
    }
  }

  /** What the data folder keeps by its hash: of the ledger, of what is set aside, of originals and of Intake. */
  private async contents(db: Database.Database): Promise<void> {
    const onSite = new Set([...this.copied.values()].map((one) => one.sha256));
    const kept = new Set<string>();
    for (const entry of await readdir(this.source.data.blobs, { recursive: true, withFileTypes: true })) {
      const sha256 = entry.name;
      if (!entry.isFile() || !/^[0-9a-f]{64}$/.test(sha256)) continue;
      this.following.signal?.throwIfAborted();
      const to = contentAt(sha256);
      const at = join(this.bag.root, to);
      const from = join(entry.parentPath, sha256);
      if (existsSync(at)) kept.add(sha256);
      else if (existsSync(from)) {
        if ((await this.bag.copy(from, to)).sha256 === sha256) kept.add(sha256);
        else {
          this.bag.forget(to);
          await rm(at, { force: true });
        }
      }
      this.following.progress?.(kept.size, 'kept files copied');
    }
    for (const { by } of lackingContent(db, (sha256) => kept.has(sha256) || onSite.has(sha256)))
      this.notes.push(`${by} needs content that is missing or damaged. It isn’t in here.`);
  }

  private async tables(db: Database.Database, files: readonly SiteFile[]): Promise<void> {
    const { bag } = this;
    const lines = async (kind: (typeof RECORD_KINDS)[number], records: Iterable<unknown>) => {
      let count = 0;
      function* texts() {
        for (const record of records) {
          count++;
          yield `${JSON.stringify(record)}\n`;
        }
      }
      await bag.text(recordsAt(kind), texts());
      this.records[kind] = count;
    };
    for (const table of TABLES) {
      this.following.signal?.throwIfAborted();
      await lines(table.kind, recordsOf(db, table));
    }
    await lines('site-files', files);
    const redirects = join(bag.root, siteFileAt(REDIRECTS_FILE));
    const known = existsSync(redirects)
      ? (await readRedirects(await readFile(redirects, 'utf8'))).redirects
      : [];
    await lines(
      'redirects',
      known.map((one) => ({ ...one, status: 301 })),
    );
    const items = TABLES.find(({ kind }) => kind === 'items')!;
    function* linked() {
      yield LINKED_START;
      let first = true;
      for (const item of recordsOf(db, items) as Iterable<ArchivedItem>) {
        if (item.state !== 'here') continue;
        yield `${first ? '' : ',\n'}${JSON.stringify(linkedItem(item, encodePath))}`;
        first = false;
      }
      yield LINKED_END;
    }
    await bag.text(LINKED_AT, linked());
    for (const kind of RECORD_KINDS) await bag.text(schemaAt(kind), [schemaOf(kind)]);
  }
}
