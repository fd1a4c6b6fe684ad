import type { SitePath } from '../../core/address/path.ts';
import { UNSURE, type FileFacts } from '../../core/media/facts.ts';
import type { Db } from './database.ts';
import { storedJson } from './stored-json.ts';

interface FileRow {
  path: string;
  bytes: number;
  mtime_ms: number;
  sha256: string;
  hidden: number;
  is_text: number;
  unsearched: number;
  item: string | null;
  reading: string | null;
}

/** Raise this when core reads files differently than before: every file of an older data folder is then read anew. */
const READER_VERSION = 6;

const DAMAGED = Symbol();

/** A part of what was read of a file, where there is one. */
const part = <Part>(text: string | null, path: SitePath) =>
  text ? storedJson<Part | typeof DAMAGED>(text, DAMAGED, `what was read of “${path}”`) : undefined;

/** The files of the site as last read. */
export class Files {
  constructor(private readonly db: Db) {}

  load(): Map<SitePath, FileFacts> {
    const files = new Map<SitePath, FileFacts>();
    const current = this.db.value('select version from reader') === READER_VERSION;
    const rows = this.db.each<FileRow>(
      'select path, bytes, mtime_ms, sha256, hidden, is_text, unsearched, item, reading from file',
    );
    for (const row of rows) {
      const item = part<NonNullable<FileFacts['item']>>(row.item, row.path);
      const reading = part<NonNullable<FileFacts['reading']>>(row.reading, row.path);
      files.set(row.path, {
        path: row.path,
        bytes: row.bytes,
        mtimeMs: current && item !== DAMAGED && reading !== DAMAGED ? row.mtime_ms : UNSURE,
        sha256: row.sha256,
        hidden: row.hidden === 1,
        isText: row.is_text === 1,
        ...(row.unsearched ? { unsearched: true } : {}),
        ...(item && item !== DAMAGED ? { item } : {}),
        ...(reading && reading !== DAMAGED ? { reading } : {}),
      });
    }
    return files;
  }

  /** Another code than the present one has read the files. */
  readByOther(): boolean {
    return this.db.value('select version from reader') !== READER_VERSION;
  }

  /** Says that every file has been read by the present code. */
  markRead(): void {
    this.db.run('update reader set version = ?', READER_VERSION);
  }

  save(one: FileFacts): void {
    this.db.run(
      `insert into file (path, bytes, mtime_ms, sha256, hidden, is_text, unsearched, item, reading)
           values (?, ?, ?, ?, ?, ?, ?, ?, ?)
         on conflict (path) do update set bytes = excluded.bytes, mtime_ms = excluded.mtime_ms, sha256 = excluded.sha256,
           hidden = excluded.hidden, is_text = excluded.is_text, unsearched = excluded.unsearched, item = excluded.item, reading = excluded.reading`,
      one.path,
      one.bytes,
      one.mtimeMs,
      one.sha256,
      Number(one.hidden),
      Number(one.isText),
      Number(one.unsearched ?? false),
      one.item ? JSON.stringify(one.item) : null,
      one.reading ? JSON.stringify(one.reading) : null,
    );
    if (!one.reading) return;
    this.db.run(
      `insert into page (path, title, unread) values (?, ?, ?)
         on conflict (path) do update set title = excluded.title, unread = excluded.unread`,
      one.path,
      one.reading.title,
      one.reading.unread ?? null,
    );
  }

  /** Texts that could not even be searched for names. */
  unsearched(): SitePath[] {
    return this.db.values<SitePath>('select path from file where unsearched = 1 order by path');
  }

  remove(path: SitePath): void {
    this.db.run('delete from file where path = ?', path);
    this.db.run('delete from page where path = ?', path);
    this.db.run('delete from placement where page = ?', path);
    this.db.run('delete from mention where page = ?', path);
  }
}
