import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { z } from 'zod';
import { RECORDS } from '../../core/archive/records.ts';
import { Fault } from '../fault.ts';
import { blobPath } from '../files/blobs.ts';

/** Of what is written here; a reader refuses a newer one. */
export const FORMAT = 1;
const MARK = 'iconomos-backup.json';

const Sha = z.string().regex(/^[0-9a-f]{64}$/);
/** What a snapshot holds, one in a line: files, folders and links of the site, and content of the data folder. */
export const Line = z.discriminatedUnion('kind', [
  ...RECORDS['site-files'].options,
  z.strictObject({ kind: z.literal('content'), bytes: z.int().min(0), sha256: Sha }),
]);
export type Line = z.infer<typeof Line>;

/** Written last: a snapshot without it is none. */
export const Snapshot = z.strictObject({
  format: z.int(),
  /** ISO 8601. */
  at: z.string(),
  site: z.string(),
  files: z.int().min(0),
  bytes: z.int().min(0),
  /** Of the list and of the database. */
  list: Sha,
  database: Sha,
  /** What could not be kept, each as a sentence. */
  notes: z.array(z.string()),
});
export type Snapshot = z.infer<typeof Snapshot>;

export const hashOf = (bytes: Uint8Array | string): string =>
  createHash('sha256').update(bytes).digest('hex');

/** A folder of backups: content by its SHA-256, once for all snapshots, and the snapshots. */
export class BackupFolder {
  readonly content: string;
  readonly snapshots: string;
  /** What is being written. */
  readonly work: string;
  readonly mark: string;

  constructor(readonly root: string) {
    this.content = join(root, 'content');
    this.snapshots = join(root, 'snapshots');
    this.work = join(root, 'work');
    this.mark = join(root, MARK);
  }

  contentAt(sha256: string): string {
    return blobPath(this.content, sha256);
  }
  list(name: string): string {
    return join(this.snapshots, name, 'files.jsonl');
  }
  database(name: string): string {
    return join(this.snapshots, name, 'iconomos.db');
  }
  description(name: string): string {
    return join(this.snapshots, name, 'snapshot.json');
  }

  /** The snapshots that are whole, the oldest first. @throws Fault 'bad-request' when it is no folder of backups */
  async names(): Promise<string[]> {
    await this.check();
    const all = await readdir(this.snapshots);
    return all.filter((name) => existsSync(this.description(name))).sort();
  }

  /** @throws Fault 'bad-request' */
  async check(): Promise<void> {
    if (!existsSync(this.mark))
      throw new Fault(
        'bad-request',
        `“${this.root}” holds no backups.`,
        'Name the folder that a backup was made to.',
      );
    const { format } = z.object({ format: z.int() }).parse(JSON.parse(await readFile(this.mark, 'utf8')));
    if (format > FORMAT)
      throw new Fault(
        'bad-request',
        `The backups in “${this.root}” were made by a newer Iconomos.`,
        'Use that one, or a newer one.',
      );
  }

  /** @throws Fault 'not-found' */
  async chosen(name: string | undefined): Promise<string> {
    const names = await this.names();
    const found = name === undefined ? names.at(-1) : names.find((one) => one === name);
    if (found !== undefined) return found;
    throw new Fault(
      'not-found',
      name === undefined ? `There is no whole backup in “${this.root}”.` : `There is no backup “${name}”.`,
      names.length > 0 ? `There are: ${names.join(', ')}.` : 'Make one first.',
    );
  }

  async snapshot(name: string): Promise<Snapshot> {
    return Snapshot.parse(JSON.parse(await readFile(this.description(name), 'utf8')));
  }

  /** @throws Fault 'bad-request' when it is not the list that was written */
  async lines(name: string, { list }: Snapshot): Promise<Line[]> {
    const text = await readFile(this.list(name), 'utf8');
    if (hashOf(text) !== list)
      throw new Fault(
        'bad-request',
        `The list of the backup “${name}” is damaged.`,
        'Choose another backup.',
      );
    return text
      .split('\n')
      .filter((line) => line !== '')
      .map((line) => Line.parse(JSON.parse(line)));
  }
}
