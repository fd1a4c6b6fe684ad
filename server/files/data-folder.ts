import { existsSync } from 'node:fs';
import { chmod, cp, lstat, mkdir, readdir, rename, rm } from 'node:fs/promises';
import { basename, join, relative, resolve, sep } from 'node:path';
import { isWithin } from '../../core/address/path.ts';
import { Fault } from '../fault.ts';
import { OWN_FILE } from './blobs.ts';
import { lockDataFolder } from './data-lock.ts';
import { DataPaths } from './data-paths.ts';

/** Where the data lay once: in the site, where a web server may hand them out. */
const ONCE = '.iconomos';

/** Where a site's data lie unless another folder is named: beside the site. @param root the site's real path */
export const besideSite = (root: string): string => `${root}.iconomos`;

/** Where the data of a site are now, for those who only read. */
export function dataFolderOf(root: string, named?: string): string {
  if (named !== undefined) return resolve(named);
  const beside = besideSite(root);
  return !existsSync(beside) && existsSync(join(root, ONCE)) ? join(root, ONCE) : beside;
}

/**
 * The data folder of a site, made if there is none, locked for this process. Data that still lie in the site are moved beside it.
 * Only the user of the server can read it: what is set aside, sent and not published yet is nobody else's business.
 * @param tell says what has been moved
 * @throws Fault 'busy', 'data-folder', 'outside'
 */
export async function takeDataFolder(
  root: string,
  named: string | undefined,
  tell: (sentence: string) => void,
): Promise<{ data: DataPaths; release: () => void }> {
  const data = new DataPaths(named === undefined ? besideSite(root) : resolve(named));
  if (named === undefined) await moveOut(root, data.root, tell);
  // Without a database nobody has said which folders are public.
  if (!existsSync(data.database)) refusePublic(root, data.root, ['']);
  await makeDataFolder(data);
  return { data, release: await lockedAndWhole(data) };
}

/** @throws Fault 'data-folder' when visitors could load what lies there. @param publicFolders of the site; '' is its root */
export function refusePublic(root: string, dataFolder: string, publicFolders: readonly string[]): void {
  const path = relative(root, dataFolder).split(sep).join('/');
  if (path.startsWith('..') || !publicFolders.some((one) => isWithin(one, path))) return;
  throw new Fault(
    'data-folder',
    `The data folder “${dataFolder}” lies in a public folder of the site, where visitors could load it.`,
    'Stop the server, move it out of there, and name it with --data.',
  );
}

async function moveOut(root: string, beside: string, tell: (sentence: string) => void): Promise<void> {
  const once = join(root, ONCE);
  const found = await lstat(once).catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return undefined;
    throw error;
  });
  if (!found) return;
  // A link would make us write wherever the site points.
  if (found.isSymbolicLink())
    throw new Fault(
      'outside',
      `The folder ${ONCE} in the site is a link to somewhere else.`,
      'Remove the link, or name the data folder with --data.',
    );
  if (existsSync(new DataPaths(beside).database)) {
    tell(`“${once}” is not used any more: the data are in “${beside}”.`);
    return;
  }
  // Nobody else works there while it moves.
  (await lockedAndWhole(new DataPaths(once)))();
  try {
    await rename(once, beside).catch(async (error: NodeJS.ErrnoException) => {
      if (error.code !== 'EXDEV') throw error;
      await cp(once, beside, { recursive: true, preserveTimestamps: true });
      await rm(once, { recursive: true });
    });
  } catch (error) {
    throw new Fault(
      'data-folder',
      `The data folder “${once}” lies in the site, where visitors could load it, and cannot be moved to “${beside}” (${(error as NodeJS.ErrnoException).code}).`,
      'Move it out of the site yourself, and name it with --data.',
    );
  }
  tell(`The data folder has moved out of the site, to “${beside}”.`);
}

/**
 * Takes the data folder for this process, and looks whether it is whole: an empty database beside kept bytes would let all
 * words, tags and changes be forgotten without a word.
 */
async function lockedAndWhole(data: DataPaths): Promise<() => void> {
  const release = lockDataFolder(data);
  if (existsSync(data.database) || !existsSync(data.blobs)) return release;
  const kept = await readdir(data.blobs, { recursive: true, withFileTypes: true });
  if (!kept.some((entry) => entry.isFile())) return release;
  release();
  throw new Fault(
    'data-folder',
    `The database “${basename(data.database)}” is missing in “${data.root}”, while files that Iconomos keeps are still there.`,
    'Bring it back from a backup. To begin with an empty library, name another data folder with --data.',
  );
}

/** Rights of the user of the server alone. */
const OWN_FOLDER = 0o700;

async function makeDataFolder({ root, folders }: DataPaths): Promise<void> {
  try {
    for (const folder of folders) await mkdir(folder, { recursive: true, mode: OWN_FOLDER });
    await chmod(root, OWN_FOLDER);
    for (const entry of await readdir(root, { withFileTypes: true }))
      await chmod(join(root, entry.name), entry.isDirectory() ? OWN_FOLDER : OWN_FILE);
  } catch (error) {
    throw new Fault(
      'data-folder',
      `The data folder “${root}” cannot be ${existsSync(root) ? 'written to' : 'made'} (${(error as NodeJS.ErrnoException).code}).`,
      'Give the server’s user the right to write there, or name another one with --data.',
    );
  }
}
