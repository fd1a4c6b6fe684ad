import type { Dirent } from 'node:fs';
import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { LIMITS } from '../limits.ts';
import { collectBlob } from './collect-blob.ts';
import type { Site } from '../app/site.ts';

/** What is needed of a site here. */
type Needs = Pick<Site, 'data' | 'blobs' | 'db' | 'contents' | 'arrivals' | 'rows' | 'events' | 'now'>;

/** Milliseconds in which work that is going on touches its files. */
const AT_WORK = 3600_000;

/**
 * Removes what nobody will come back for: files that are no longer being sent, bytes of work that was cut off, small images of files that
 * are gone, parts of exports and old ones.
 * @param started nothing is at work yet, so all that belongs to nothing can go
 */
export async function sweep(site: Needs, started: boolean): Promise<void> {
  const now = new Date(site.now()).getTime();
  await endUnsent(site, now);
  const old = started ? now + AT_WORK : now;
  const uploads = new Set(site.arrivals.uploads());
  await removeFrom(
    site.data.arrivals,
    old - AT_WORK,
    ({ name }) => !uploads.has(name.replace(/\.json$/, '')),
  );
  const known = new Set(site.contents.hashes());
  await removeFrom(site.data.thumbnails, old - AT_WORK, ({ name }) => !known.has(name.slice(0, 64)));
  const { db } = site;
  db.run('delete from export where at < ?', new Date(now - LIMITS.exportsKept).toISOString());
  const exports = new Set(db.values<string>('select file from export'));
  await removeFrom(site.data.exports, old - AT_WORK, ({ name }) => !exports.has(name), true);
}

/** Files that have been on their way for too long are no longer waited for. */
async function endUnsent(site: Needs, now: number): Promise<void> {
  for (const row of site.arrivals.inState('sending')) {
    const file = row.upload === null ? undefined : site.data.upload(row.upload);
    const facts = file === undefined ? undefined : await stat(file).catch(absent);
    if (now - (facts?.mtimeMs ?? new Date(row.at).getTime()) < LIMITS.unfinished) continue;
    site.arrivals.remove(row.id);
    if (file) for (const one of [file, `${file}.json`]) await rm(one, { force: true });
    if (row.sha256) await collectBlob(site, row.sha256);
    site.events.emit('arrivals');
  }
}

/** @param folders folders go, too, with all that is in them */
async function removeFrom(
  folder: string,
  before: number,
  goes: (entry: Dirent) => boolean,
  folders = false,
): Promise<void> {
  for (const entry of await readdir(folder, { withFileTypes: true })) {
    if (!(entry.isFile() || (folders && entry.isDirectory())) || !goes(entry)) continue;
    const file = join(folder, entry.name);
    const facts = await stat(file).catch(absent);
    if (facts && facts.mtimeMs < before) await rm(file, { force: true, recursive: folders });
  }
}

function absent(error: NodeJS.ErrnoException): undefined {
  if (error.code !== 'ENOENT') throw error;
}
