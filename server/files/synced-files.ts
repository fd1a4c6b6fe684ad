import { createHash, randomUUID } from 'node:crypto';
import {
  chmodSync,
  chownSync,
  closeSync,
  constants,
  copyFileSync,
  fsyncSync,
  linkSync,
  lstatSync,
  openSync,
  readSync,
  renameSync,
  statSync,
  unlinkSync,
  writeSync,
  type BigIntStats,
  type Stats,
} from 'node:fs';
import { dirname, join } from 'node:path';
import type { FileRights } from '../../core/plan/plan.ts';
import type { SitePath } from '../../core/address/path.ts';
import { Fault } from '../fault.ts';
import { STAGE_PREFIX } from './site-folder.ts';

/** A file system that makes no hard links between these places. */
export const NO_LINK = new Set(['EXDEV', 'EPERM', 'EMLINK', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS', 'EACCES']);

export function lstat(absolute: string): Stats | undefined {
  return lstatSync(absolute, { throwIfNoEntry: false });
}

/** Changes with every change of a file's bytes, and when another file takes its place. */
export function markOf(file: string): string | undefined {
  const found = lstatSync(file, { bigint: true, throwIfNoEntry: false });
  return found && markIn(found);
}

export function markIn(found: BigIntStats): string {
  return [found.dev, found.ino, found.size, found.mtimeNs, found.ctimeNs].join(' ');
}

export function sameFile(one: string, other: string): boolean {
  const [a, b] = [one, other].map((file) => lstatSync(file, { bigint: true, throwIfNoEntry: false }));
  return a !== undefined && b !== undefined && a.ino === b.ino && a.dev === b.dev;
}

export function hashOf(file: string): string {
  const hash = createHash('sha256');
  const buffer = Buffer.allocUnsafe(1 << 20);
  const handle = openSync(file, 'r');
  try {
    for (let read = readSync(handle, buffer); read > 0; read = readSync(handle, buffer))
      hash.update(buffer.subarray(0, read));
  } finally {
    closeSync(handle);
  }
  return hash.digest('hex');
}

/** True when a regular file with these bytes stands there. */
export function holds(file: string, sha256: string, mark?: string): boolean {
  const found = lstat(file);
  if (!found?.isFile()) return false;
  return (mark !== undefined && markOf(file) === mark) || hashOf(file) === sha256;
}

export function changed(path: SitePath): Fault {
  return new Fault(
    'moved-on',
    `“${path}” was changed by another program while this change was being made.`,
    'Review the changes again.',
    [path],
  );
}

export function taken(path: SitePath): Fault {
  return new Fault(
    'moved-on',
    `Another program has put a file at “${path}” while this change was being made.`,
    'Choose another name, or move that file away.',
    [path],
  );
}

export function synced(path: string, flags: string, write?: (file: number) => void): void {
  const file = openSync(path, flags);
  try {
    write?.(file);
    fsyncSync(file);
  } finally {
    closeSync(file);
  }
}

export function writeAll(file: number, bytes: Uint8Array): void {
  for (let at = 0; at < bytes.length;) at += writeSync(file, bytes, at);
}

export function copySynced(from: string, to: string): void {
  copyFileSync(from, to, constants.COPYFILE_EXCL | constants.COPYFILE_FICLONE);
  synced(to, 'r+');
}

/** Where a copy waits until it is whole. */
function part(to: string): string {
  return join(dirname(to), `${STAGE_PREFIX}part-${randomUUID()}`);
}

/**
 * Gives a file another name where nothing is; also from one file system to another.
 * @throws the system's error EEXIST when something is there
 */
export function rename(from: string, to: string): void {
  try {
    linkSync(from, to);
  } catch (error) {
    const { code = '' } = error as NodeJS.ErrnoException;
    // On a file system that ignores case, both names may be one entry.
    if (code === 'EEXIST' && sameFile(from, to) && statSync(from).nlink === 1) return renameSync(from, to);
    if (!NO_LINK.has(code)) throw error;
    if (lstat(to)) throw Object.assign(new Error(`EEXIST: ${to}`), { code: 'EEXIST' });
    if (code !== 'EXDEV') return renameSync(from, to);
    const copy = part(to);
    copySynced(from, copy);
    give(copy, rightsOf(statSync(from)));
    try {
      rename(copy, to);
    } catch (failed) {
      unlinkSync(copy);
      throw failed;
    }
  }
  unlinkSync(from);
}

/** A file goes from one place to another, unless it is there already. */
export function bring(
  from: string,
  to: string,
  expected: { sha256: string; mark?: string | undefined },
  path: SitePath,
  target: SitePath,
): void {
  const { sha256, mark } = expected;
  const [here, there] = [lstat(from), lstat(to)];
  if (!here) {
    if (!holds(to, sha256)) throw changed(path);
    return;
  }
  if (there) {
    // A crash came between the new name and the end of the old one.
    if (sameFile(from, to) && here.nlink > 1) return unlinkSync(from);
    if (!sameFile(from, to)) {
      // Done already, and somebody has put a new file at the old place since.
      if (!holds(from, sha256) && holds(to, sha256)) return;
      throw taken(target);
    }
  }
  if (!holds(from, sha256, mark)) throw changed(path);
  try {
    rename(from, to);
  } catch (error) {
    throw (error as NodeJS.ErrnoException).code === 'EEXIST' ? taken(target) : error;
  }
}

export const rightsOf = ({ mode, uid, gid }: Stats) => ({
  mode: mode & 0o7777,
  owner: [uid, gid] as [number, number],
});

/** A new file belongs to the server's user; only where that may give it away, it gets the owner that it is to have. */
export function give(file: string, { mode = 0o644, owner }: FileRights): void {
  chmodSync(file, mode);
  const now = lstat(file)!;
  if (!owner || (now.uid === owner[0] && now.gid === owner[1])) return;
  try {
    chownSync(file, owner[0], owner[1]);
    // What a program may do as its owner is taken off by that.
    chmodSync(file, mode);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EPERM') throw error;
  }
}

export function damagedKept(path: SitePath, how: string): Fault {
  return new Fault(
    'refused-file',
    `The kept copy of “${path}” ${how}.`,
    'Bring the file back from a backup of the site.',
  );
}

export function damagedNew(path: SitePath, how: string): Fault {
  return new Fault(
    'refused-file',
    `The new file for “${path}” ${how}.`,
    'Open the plan again; it is computed anew.',
  );
}
