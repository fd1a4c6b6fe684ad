import { createReadStream, existsSync } from 'node:fs';
import { chmod, mkdir } from 'node:fs/promises';
import { dirname, join, resolve } from 'node:path';
import { createInterface } from 'node:readline';
import {
  ARCHIVE_FORMAT,
  contentAt,
  RECORDS,
  recordsAt,
  siteFileAt,
  type RecordKind,
  type SiteFile,
} from '../../core/archive/records.ts';
import { bringBack, bringSite, copyKnown } from '../backup/bring-back.ts';
import { openDatabase } from '../db/open.ts';
import { Fault } from '../fault.ts';
import { blobPath, OWN_FILE } from '../files/blobs.ts';
import { checkBag, type BagFault, type CheckedBag, type CheckOptions } from './check.ts';
import { TABLES, TableWriter } from './tables.ts';
import { withBag } from './unpack.ts';

export interface Brought {
  files: number;
  /** Records, by their kind. */
  records: Readonly<Record<string, number>>;
  /** What was left out, and why. */
  faults: BagFault[];
}

/**
 * Makes a site and its data folder of an archive, a folder or a ZIP, where neither is: everything as it was, but for passwords and tokens. A file whose bytes are
 * not those of the archive's lists is left out and told, and so is a record that can't be read.
 * @throws Fault 'bad-request' when it is no archive of a library, a newer one, or something is there already
 */
export function bringArchive(
  from: string,
  to: { root: string; data: string },
  options: CheckOptions = {},
): Promise<Brought> {
  return withBag(from, `${resolve(to.root)}.unpacked`, (folder, faults) =>
    bringBag(folder, faults, to, options),
  );
}

async function bringBag(
  folder: string,
  unpacked: readonly BagFault[],
  to: { root: string; data: string },
  options: CheckOptions,
): Promise<Brought> {
  const bag = await checkBag(folder, options);
  refuseOther(bag);
  const faults = [...unpacked, ...bag.faults];
  return bringBack(to, bag.root, async (site, kept) => {
    const records: Record<string, number> = {};
    const lines: SiteFile[] = [];
    await each(bag, 'site-files', faults, (line) => lines.push(line as SiteFile));
    const isSound = (path: string) => bag.sound.has(path);
    const files = lines.filter((line) => line.kind !== 'file' || isSound(siteFileAt(line.path)));
    const notes = await bringSite(files, site, async ({ path, sha256 }, at) => {
      await mkdir(dirname(at), { recursive: true });
      await copyOut(bag, siteFileAt(path), at, sha256);
    });
    notes.forEach((says) => faults.push({ file: recordsAt('site-files'), line: 0, says }));
    for (const path of bag.sound.keys()) {
      const sha256 = /^data\/content\/.*\/([0-9a-f]{64})$/.exec(path)?.[1];
      if (sha256 === undefined || path !== contentAt(sha256)) continue;
      const at = blobPath(kept.blobs, sha256);
      await mkdir(dirname(at), { recursive: true, mode: 0o700 });
      await copyOut(bag, path, at, sha256);
      await chmod(at, OWN_FILE);
    }

    const db = openDatabase(kept.database);
    try {
      db.exec('begin');
      db.pragma('defer_foreign_keys = ON');
      for (const table of TABLES) {
        if (table.derived) continue;
        const writer = new TableWriter(db, table);
        let count = 0;
        await each(bag, table.kind, faults, (record, line) => {
          try {
            writer.write(record);
            count++;
          } catch (error) {
            faults.push({
              file: recordsAt(table.kind),
              line,
              says: `It can’t be kept: ${(error as Error).message}.`,
            });
          }
        });
        records[table.kind] = count;
      }
      const lost = db.all('pragma foreign_key_check');
      if (lost.length > 0)
        throw new Fault(
          'bad-request',
          `${lost.length === 1 ? 'A record' : `${lost.length} records`} of this archive refer to others that can’t be read.`,
          'Ask for the archive once more. Nothing was made.',
          faults,
        );
      db.exec('commit');
    } finally {
      db.close();
    }
    await chmod(kept.database, OWN_FILE);
    return { files: files.length, records, faults };
  });
}

/** @throws Fault 'bad-request' */
function refuseOther({ info }: CheckedBag): void {
  const format = info.get('iconomos-archive-format');
  if (format === undefined)
    throw new Fault(
      'bad-request',
      'This bag isn’t the archive of a library: its bag-info.txt doesn’t say so.',
      'Bring its files in by Intake.',
    );
  if (!/^\d+$/.test(format) || Number(format) < 1 || Number(format) > ARCHIVE_FORMAT)
    throw new Fault(
      'bad-request',
      `This archive has the format ${format}; up to ${ARCHIVE_FORMAT} can be read.`,
      'Use a newer Iconomos.',
    );
}

async function copyOut({ root }: CheckedBag, path: string, to: string, sha256: string): Promise<void> {
  if (await copyKnown(join(root, path), to, sha256)) return;
  throw new Fault(
    'bad-request',
    `“${path}” has changed while it was read, or the archive contradicts itself.`,
    'Make sure that nobody writes in it, and try again. Nothing was made.',
  );
}

/** Reads the records of a kind, line by line. What is none is told. */
async function each(
  { root, sound }: CheckedBag,
  kind: RecordKind,
  faults: BagFault[],
  take: (record: Record<string, unknown>, line: number) => void,
): Promise<void> {
  const path = recordsAt(kind);
  // A list that isn't sound is told already.
  if (!sound.has(path)) {
    if (!existsSync(join(root, path))) faults.push({ file: path, line: 0, says: 'It is missing.' });
    return;
  }
  let line = 0;
  for await (const text of createInterface({
    input: createReadStream(join(root, path)),
    crlfDelay: Infinity,
  })) {
    line++;
    if (text === '') continue;
    const read = RECORDS[kind].safeParse(parsed(text));
    if (read.success) take(read.data, line);
    else {
      const [first] = read.error.issues;
      const where = first!.path.join('.');
      faults.push({
        file: path,
        line,
        says: `The line is no record of this kind${where === '' ? '' : ` (${where})`}: ${first!.message}.`,
      });
    }
  }
}
function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
