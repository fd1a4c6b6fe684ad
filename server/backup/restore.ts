import { chmod, mkdir } from 'node:fs/promises';
import { dirname, resolve } from 'node:path';
import { Fault } from '../fault.ts';
import { blobPath, OWN_FILE } from '../files/blobs.ts';
import type { DataPaths } from '../files/data-paths.ts';
import { bringBack, bringSite, copyKnown } from './bring-back.ts';
import { BackupFolder, type Line, type Snapshot } from './layout.ts';

export interface Restored {
  name: string;
  snapshot: Snapshot;
  /** What could not be brought back, each as a sentence. */
  notes: string[];
}

/**
 * Brings a site and its data folder back from a backup, where neither is. Every file is compared with its hash.
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
  const notes = await bringBack(to, chosen, async (site, kept) => {
    const files = lines.filter((line) => line.kind !== 'content');
    const told = await bringSite(files, site, ({ sha256, path }, at) =>
      copyOut(folder.contentAt(sha256), at, sha256, `“${path}”`),
    );
    await bringData(folder, chosen, snapshot, lines, kept);
    return told;
  });
  return { name: chosen, snapshot, notes: [...snapshot.notes, ...notes] };
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
    await copyOut(folder.contentAt(line.sha256), at, line.sha256, 'Kept content');
    await chmod(at, OWN_FILE);
  }
  await copyOut(folder.database(name), kept.database, database, 'The database');
  await chmod(kept.database, OWN_FILE);
}

/** @throws Fault 'bad-request' when it is another file than the hash says */
async function copyOut(from: string, to: string, sha256: string, what: string): Promise<void> {
  if (await copyKnown(from, to, sha256)) return;
  throw new Fault(
    'bad-request',
    `${what} is damaged in this backup.`,
    'Choose another backup; “npm run verify” tells which are whole.',
  );
}
