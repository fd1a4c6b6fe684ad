import { createHash, randomUUID } from 'node:crypto';
import {
  chmodSync,
  closeSync,
  constants,
  copyFileSync,
  existsSync,
  fsyncSync,
  linkSync,
  lstatSync,
  mkdirSync,
  openSync,
  readFileSync,
  renameSync,
  statSync,
  unlinkSync,
  writeSync,
  type Stats,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import type { SitePath } from '../../core/address/path.ts';
import { Fault } from '../fault.ts';
import { absoluteIn, STAGE_PREFIX, throughLink } from './folder.ts';
import type { Act, ActFacts, Done, HandsData } from './hands.ts';

/** Does the ledger's acts on files, on a thread of its own. */
const { root, blobs, arrivals } = workerData as HandsData;

/** Kept content up to this size is checked against its hash before it is used; above, copying need not read it. */
const CHECKED = 64e6;
/** A file system that makes no hard links between these places. */
const NO_LINK = new Set(['EXDEV', 'EPERM', 'EMLINK', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS', 'EACCES']);

/** Folders in which no link was met, while a list of acts is done. */
const plain = new Set<string>([root]);

/** As SiteFolder.locate. */
function locate(path: SitePath): string {
  const absolute = absoluteIn(root, path);
  plainFolder(dirname(absolute), path);
  if (lstat(absolute)?.isSymbolicLink()) throw throughLink(path);
  return absolute;
}
function plainFolder(folder: string, path: SitePath): void {
  if (plain.has(folder)) return;
  plainFolder(dirname(folder), path);
  if (lstat(folder)?.isSymbolicLink()) throw throughLink(path);
  plain.add(folder);
}
function lstat(absolute: string): Stats | undefined {
  return lstatSync(absolute, { throwIfNoEntry: false });
}

function synced(path: string, flags: string, write?: (file: number) => void): void {
  const file = openSync(path, flags);
  try {
    write?.(file);
    fsyncSync(file);
  } finally {
    closeSync(file);
  }
}
function writeAll(file: number, bytes: Uint8Array): void {
  for (let at = 0; at < bytes.length;) at += writeSync(file, bytes, at);
}
function copySynced(from: string, to: string): void {
  copyFileSync(from, to, constants.COPYFILE_EXCL | constants.COPYFILE_FICLONE);
  synced(to, 'r+');
}
/** Also from one file system to another. */
function move(from: string, to: string, beside: string): void {
  try {
    renameSync(from, to);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EXDEV') throw error;
    copySynced(from, beside);
    renameSync(beside, to);
    unlinkSync(from);
  }
}

/** Where a copy waits until it is whole. */
function part(to: string): string {
  return join(dirname(to), `${STAGE_PREFIX}part-${randomUUID()}`);
}

function blob(sha256: string): string {
  return join(blobs, sha256.slice(0, 2), sha256);
}

/**
 * The file gets a second name in the content store: nothing is copied. When it is replaced, its bytes stay there under that
 * name alone.
 */
function keep(path: SitePath, sha256: string): void {
  const to = blob(sha256);
  if (existsSync(to)) return;
  const file = locate(path);
  mkdirSync(dirname(to), { recursive: true });
  synced(file, 'r');
  // With other names already, its bytes could be changed under one of those.
  if (lstatSync(file).nlink > 1) return keepCopy(file, to);
  try {
    linkSync(file, to);
  } catch (error) {
    // Another file with the same bytes was kept meanwhile.
    if ((error as NodeJS.ErrnoException).code === 'EEXIST') return;
    if (!NO_LINK.has((error as NodeJS.ErrnoException).code ?? '')) throw error;
    keepCopy(file, to);
  }
}
function keepCopy(file: string, to: string): void {
  const part = join(arrivals, randomUUID());
  copySynced(file, part);
  renameSync(part, to);
}
function unkeep(path: SitePath, sha256: string): void {
  const kept = lstat(blob(sha256));
  const own = lstat(locate(path));
  if (kept && own && kept.ino === own.ino && kept.dev === own.dev) unlinkSync(blob(sha256));
}

function stage(act: Extract<Act, { do: 'stage' }>): ActFacts {
  const to = beside(act.path, act.name);
  const kept = blob(act.sha256);
  let bytes = act.bytes;
  if (!bytes && statSync(kept).size <= CHECKED) {
    bytes = readFileSync(kept);
    if (createHash('sha256').update(bytes).digest('hex') !== act.sha256)
      throw new Fault(
        'refused-file',
        `The kept copy of “${act.path}” is damaged: its bytes are not what they were.`,
        'Bring the file back from a backup of the site.',
      );
  }
  if (bytes) synced(to, 'wx', (file) => writeAll(file, bytes));
  else copySynced(kept, to);
  chmodSync(to, act.like === undefined ? 0o644 : statSync(locate(act.like)).mode & 0o7777);
  const { size, mtimeMs } = lstatSync(to);
  return { bytes: size, mtimeMs };
}
function beside(path: SitePath, name: string): string {
  return join(dirname(locate(path)), name);
}

function done(act: Act): ActFacts {
  switch (act.do) {
    case 'facts': {
      const found = lstat(locate(act.path));
      return found?.isFile() ? { bytes: found.size, mtimeMs: found.mtimeMs } : null;
    }
    case 'keep':
      keep(act.path, act.sha256);
      break;
    case 'unkeep':
      unkeep(act.path, act.sha256);
      break;
    case 'stage':
      return stage(act);
    case 'unstage': {
      const staged = beside(act.path, act.name);
      if (existsSync(staged)) unlinkSync(staged);
      break;
    }
    case 'place': {
      const staged = beside(act.path, act.name);
      if (existsSync(staged)) renameSync(staged, locate(act.path));
      break;
    }
    case 'aside': {
      const from = locate(act.from);
      const to = beside(act.path, act.name);
      if (existsSync(from) && !existsSync(to)) move(from, to, part(to));
      break;
    }
    case 'move': {
      const from = locate(act.from);
      const to = locate(act.to);
      if (existsSync(from)) move(from, to, part(to));
      break;
    }
    case 'delete': {
      const file = locate(act.path);
      if (existsSync(file)) unlinkSync(file);
      break;
    }
    case 'adopt': {
      const file = locate(act.path);
      if (!existsSync(file)) break;
      const to = blob(act.sha256);
      mkdirSync(dirname(to), { recursive: true });
      if (existsSync(to)) unlinkSync(file);
      else move(file, to, join(arrivals, randomUUID()));
      break;
    }
    case 'sync': {
      const folder = act.folder === '' ? root : locate(act.folder);
      if (existsSync(folder)) synced(folder, 'r');
      break;
    }
    case 'sync-kept': {
      const folder = join(blobs, act.start);
      if (existsSync(folder)) synced(folder, 'r');
      break;
    }
  }
  return null;
}

parentPort!.on('message', ({ id, acts }: { id: number; acts: Act[] }) => {
  plain.clear();
  plain.add(root);
  let answer: Done;
  try {
    answer = { id, results: acts.map(done) };
  } catch (error) {
    answer =
      error instanceof Fault
        ? { id, fault: { code: error.code, message: error.message, remedy: error.remedy } }
        : { id, error: (error as Error).message, code: (error as NodeJS.ErrnoException).code };
  }
  parentPort!.postMessage(answer);
});
