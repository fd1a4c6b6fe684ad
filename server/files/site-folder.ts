import { constants } from 'node:fs';
import {
  chmod,
  copyFile,
  lstat,
  mkdir,
  open,
  readdir,
  readFile,
  realpath,
  rename,
  rmdir,
  stat,
  unlink,
} from 'node:fs/promises';
import { dirname, join, resolve, sep } from 'node:path';
import { baseName, clashKey, folderOf, presentPathFault, type SitePath } from '../../core/address/path.ts';
import { Fault } from '../fault.ts';

/** Start of the names of files that we stage beside their targets; never scanned, never served. */
export const STAGE_PREFIX = '.iconomos-stage-';
/** The same for what is staged to take a change back. */
export const BACK_PREFIX = `${STAGE_PREFIX}back-`;

/**
 * The site's folder on disk. Every path that reads or writes inside it goes through here: nothing outside the
 * folder is ever touched, also not through a symbolic link.
 */
export class SiteFolder {
  private constructor(
    /** Absolute real path of the folder. */
    readonly root: string,
  ) {}

  /** Opens an existing folder. @throws Fault 'no-site' */
  static async open(directory: string): Promise<SiteFolder> {
    const found = await stat(directory).catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT' || error.code === 'ENOTDIR') return undefined;
      throw error;
    });
    if (!found?.isDirectory()) {
      throw new Fault(
        'no-site',
        `There is no folder “${directory}”.`,
        'Name the folder that holds the site’s files.',
      );
    }
    return new SiteFolder(await realpath(directory));
  }

  /**
   * The absolute path of a file in the site, for reading or writing.
   * @throws Fault 'outside' when the path is none, or leads through a symbolic link
   */
  async locate(path: SitePath): Promise<string> {
    const absolute = absoluteIn(this.root, path);
    let at = this.root;
    for (const name of path.split('/')) {
      at = join(at, name);
      const found = await lstatIfThere(at);
      if (!found) break;
      if (found.isSymbolicLink()) throw throughLink(path);
    }
    return absolute;
  }

  async read(path: SitePath): Promise<Buffer> {
    return readFile(await this.locate(path));
  }

  /** Size and time of a file, or undefined when there is none. */
  async facts(path: SitePath) {
    const found = await lstatIfThere(await this.locate(path));
    return found?.isFile() ? { bytes: found.size, mtimeMs: found.mtimeMs } : undefined;
  }

  /** Names in a folder ('' is the root); none when there is no such folder. */
  async namesIn(folder: SitePath): Promise<string[]> {
    const absolute = folder === '' ? this.root : await this.locate(folder);
    return readdir(absolute).catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT' || error.code === 'ENOTDIR') return [];
      throw error;
    });
  }

  /** Names in the folder of `path` that would clash with it on a file system that ignores case or Unicode form. */
  async clashes(path: SitePath): Promise<string[]> {
    await this.locate(path);
    const key = clashKey(baseName(path));
    return (await this.namesIn(folderOf(path))).filter((name) => clashKey(name) === key);
  }

  /** As clashes, for many paths: the names of each folder are read once. */
  clashFinder(): (path: SitePath) => Promise<string[]> {
    const known = new Map<SitePath, Map<string, string[]>>();
    return async (path) => {
      const within = folderOf(path);
      let there = known.get(within);
      if (!there) {
        there = new Map();
        for (const name of await this.namesIn(within))
          there.set(clashKey(name), [...(there.get(clashKey(name)) ?? []), name]);
        known.set(within, there);
      }
      return there.get(clashKey(baseName(path))) ?? [];
    };
  }

  /** Makes the folder of a path and every one above it. Answers those that it made, the outermost first. */
  async makeFolderFor(path: SitePath): Promise<SitePath[]> {
    const made: SitePath[] = [];
    const folder = folderOf(path);
    if (folder === '') return made;
    const names = folder.split('/');
    for (let depth = 1; depth <= names.length; depth++) {
      const one = names.slice(0, depth).join('/');
      const absolute = await this.locate(one);
      if (await lstatIfThere(absolute)) continue;
      await mkdir(absolute);
      // Who reads the folder above reads this one too, whatever the server's own files are closed to.
      await chmod(absolute, (await stat(dirname(absolute))).mode & 0o7777);
      made.push(one);
    }
    return made;
  }

  /** Of some folders and those above them, the ones that are not there, the outermost first. */
  async missing(folders: readonly SitePath[]): Promise<SitePath[]> {
    const missing = new Set<SitePath>();
    const there = new Set<SitePath>(['']);
    for (const folder of folders)
      for (let at = folder; !there.has(at) && !missing.has(at); at = folderOf(at))
        ((await lstatIfThere(await this.locate(at))) ? there : missing).add(at);
    return [...missing].sort((a, b) => a.length - b.length);
  }

  /** Removes a folder if it is empty; says whether it did. */
  async removeEmptyFolder(folder: SitePath): Promise<boolean> {
    const absolute = await this.locate(folder);
    // Asked first: where nothing may be written, a folder that is not there would be an error too.
    if (!(await lstatIfThere(absolute))) return false;
    try {
      await rmdir(absolute);
      return true;
    } catch (error) {
      const code = (error as NodeJS.ErrnoException).code;
      if (code === 'ENOTEMPTY' || code === 'EEXIST' || code === 'ENOENT') return false;
      throw error;
    }
  }

  /** Whether a path is a folder, and whether any file lies in it or below. */
  async stateOf(path: SitePath): Promise<'none' | 'empty' | 'full' | 'file'> {
    const absolute = await this.locate(path);
    const found = await lstatIfThere(absolute);
    if (!found) return 'none';
    if (!found.isDirectory()) return 'file';
    const entries = await readdir(absolute, { recursive: true, withFileTypes: true });
    return entries.every((entry) => entry.isDirectory()) ? 'empty' : 'full';
  }

  async remove(path: SitePath): Promise<void> {
    await unlink(await this.locate(path));
  }
}

/**
 * The absolute path of a path in the site; whether it leads through a link is not looked at.
 * @throws Fault 'outside' when it is none
 */
export function absoluteIn(root: string, path: SitePath): string {
  const fault = presentPathFault(path);
  if (fault)
    throw new Fault(
      'outside',
      `“${path}” cannot be a path in the site. ${fault}`,
      'Choose another name or folder.',
    );
  const absolute = resolve(root, ...path.split('/'));
  if (!absolute.startsWith(root + sep))
    throw new Fault('outside', `“${path}” lies outside the site’s folder.`, 'Choose a folder of the site.');
  return absolute;
}

export function throughLink(path: SitePath): Fault {
  return new Fault(
    'outside',
    `“${path}” leads through a link.`,
    'Iconomos writes to real files and folders only.',
  );
}

async function lstatIfThere(absolute: string) {
  try {
    return await lstat(absolute);
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code;
    if (code === 'ENOENT' || code === 'ENOTDIR') return undefined;
    throw error;
  }
}

/** Copies a file and waits until its bytes are on disk. Never overwrites. */
export async function copySynced(from: string, to: string): Promise<void> {
  await copyFile(from, to, constants.COPYFILE_EXCL | constants.COPYFILE_FICLONE);
  await syncFile(to);
}

/** Writes a new file and waits until its bytes are on disk. Never overwrites. */
export async function writeSynced(to: string, bytes: Uint8Array): Promise<void> {
  const handle = await open(to, 'wx');
  try {
    await handle.writeFile(bytes);
    await handle.sync();
  } finally {
    await handle.close();
  }
}

async function syncFile(path: string): Promise<void> {
  const handle = await open(path, 'r+');
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
}

/** Waits until a folder's entries are on disk, so that a rename in it survives a power cut. */
export async function syncFolder(path: string): Promise<void> {
  const handle = await open(path, 'r');
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
}

/** Moves a file, also from one file system to another (then by copy, sync and removal). Overwrites `to`. */
export async function moveFile(from: string, to: string): Promise<void> {
  try {
    await rename(from, to);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EXDEV') throw error;
    const beside = join(dirname(to), `${STAGE_PREFIX}move-${process.pid}-${Date.now()}`);
    await copySynced(from, beside);
    await rename(beside, to);
    await unlink(from);
  }
}
