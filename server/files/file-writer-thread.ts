import { randomUUID } from 'node:crypto';
import { chmodSync, existsSync, linkSync, lstatSync, mkdirSync, renameSync, unlinkSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { workerData } from 'node:worker_threads';
import type { FileRights } from '../../core/plan/plan.ts';
import type { SitePath } from '../../core/address/path.ts';
import { blobPath, OWN_FILE } from './blobs.ts';
import { absoluteIn, BACK_PREFIX, throughLink } from './site-folder.ts';
import { answerQuestions } from '../workers/thread.ts';
import type { Act, ActFacts, WriterData } from './file-writer.ts';
import {
  NO_LINK,
  lstat,
  markOf,
  markIn,
  sameFile,
  hashOf,
  holds,
  changed,
  taken,
  synced,
  writeAll,
  copySynced,
  rename,
  bring,
  rightsOf,
  give,
  damagedKept,
  damagedNew,
} from './synced-files.ts';

/** Does the ledger's acts on files, on a thread of its own. */
const { root, blobs, arrivals } = workerData as WriterData;

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

const blob = (sha256: string): string => blobPath(blobs, sha256);

/** The content store gets a copy of its own: nobody who has the file open can write to it. */
function keep(path: SitePath, sha256: string): void {
  const to = blob(sha256);
  if (existsSync(to)) return;
  const file = locate(path);
  mkdirSync(dirname(to), { recursive: true });
  const copy = join(arrivals, randomUUID());
  copySynced(file, copy);
  if (hashOf(copy) !== sha256) {
    unlinkSync(copy);
    throw changed(path);
  }
  chmodSync(copy, OWN_FILE);
  renameSync(copy, to);
}

function stage(act: Extract<Act, { do: 'stage' }>): ActFacts {
  const to = beside(act.path, act.name);
  if (existsSync(to)) {
    if (holds(to, act.sha256)) return factsOf(to);
    // Left half written by a crash, while a change was taken back.
    if (act.name.startsWith(BACK_PREFIX)) unlinkSync(to);
  }
  const { new: bytes } = act;
  if (bytes && 'bytes' in bytes) synced(to, 'wx', (file) => writeAll(file, bytes.bytes));
  else {
    const from = bytes?.file ?? blob(act.sha256);
    const damaged = bytes ? damagedNew : damagedKept;
    if (!existsSync(from)) throw damaged(act.path, 'is not there any more');
    copySynced(from, to);
    if (hashOf(to) !== act.sha256) {
      unlinkSync(to);
      throw damaged(act.path, 'is damaged: its bytes are not what they were');
    }
  }
  const like = act.like === undefined ? undefined : lstat(locate(act.like));
  give(to, like ? rightsOf(like) : act);
  return factsOf(to);
}
function beside(path: SitePath, name: string): string {
  return join(dirname(locate(path)), name);
}
function factsOf(file: string): ActFacts {
  const found = lstatSync(file, { bigint: true, throwIfNoEntry: false });
  if (!found?.isFile()) return null;
  const now = lstatSync(file);
  return { bytes: Number(found.size), mtimeMs: now.mtimeMs, mark: markIn(found), ...rightsOf(now) };
}

function place({ path, name, before, after, mark }: Extract<Act, { do: 'place' }>): void {
  const staged = beside(path, name);
  const file = locate(path);
  const was = `${staged}-was`;
  if (existsSync(was)) {
    // A crash came before its end. The bytes are kept; what somebody has written to it since is not.
    if (!sameFile(was, file) && !holds(was, before ?? '')) throw changed(path);
    unlinkSync(was);
  }
  if (!existsSync(staged)) {
    if (!holds(file, after)) throw changed(path);
    return;
  }
  if (before === null) return bring(staged, file, { sha256: after, mark: markOf(staged) }, path, path);
  if (!holds(file, before, mark)) {
    if (!holds(file, after)) throw changed(path);
    return unlinkSync(staged);
  }
  // What is replaced keeps a name until it is sure that nobody has written to it meanwhile.
  const { size, mtimeNs, ino } = lstatSync(file, { bigint: true });
  let kept = true;
  try {
    linkSync(file, was);
  } catch (error) {
    if (!NO_LINK.has((error as NodeJS.ErrnoException).code ?? '')) throw error;
    kept = false;
  }
  renameSync(staged, file);
  if (!kept) return;
  const last = lstatSync(was, { bigint: true });
  if (last.ino === ino && last.size === size && last.mtimeNs === mtimeNs) return unlinkSync(was);
  renameSync(file, staged);
  rename(was, file);
  throw changed(path);
}

function adopt({ path, sha256, mark }: Extract<Act, { do: 'adopt' }>): void {
  const file = locate(path);
  const to = blob(sha256);
  const there = lstat(file);
  if (!there) {
    if (!existsSync(to)) throw changed(path);
    return;
  }
  if (!holds(file, sha256, mark)) throw changed(path);
  mkdirSync(dirname(to), { recursive: true });
  if (existsSync(to)) {
    // The last copy of these bytes: it must be what it is called.
    if (hashOf(to) !== sha256) {
      renameSync(to, join(arrivals, `damaged-${randomUUID()}`));
      return adopt({ do: 'adopt', path, sha256, mark });
    }
    return unlinkSync(file);
  }
  // Under another name, its bytes could still be changed.
  if (there.nlink > 1) {
    keep(path, sha256);
    return unlinkSync(file);
  }
  try {
    renameSync(file, to);
    chmodSync(to, OWN_FILE);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EXDEV') throw error;
    keep(path, sha256);
    unlinkSync(file);
  }
}

/** Brings kept bytes back to a place; `before`: what our own step has put there, null: nothing. */
function restore(
  path: SitePath,
  name: string,
  before: string | null,
  after: string,
  rights: FileRights = {},
): void {
  stage({ do: 'stage', path, name, sha256: after, ...rights, ...(before === null ? {} : { like: path }) });
  place({ do: 'place', path, name, before, after });
}

function takeBack({ step, staged, back, aside, movedFrom }: Extract<Act, { do: 'back' }>): void {
  if (step.do === 'move') return aside ? clearAgain(step, staged) : moveBack(step);
  const file = locate(step.path);
  const there = lstat(file);
  if (step.do === 'remove') {
    if (!there) restore(step.path, back, null, step.sha256, { mode: step.mode, owner: step.owner });
    return;
  }
  const [before, after] = step.do === 'create' ? [null, step.sha256] : [step.before, step.after];
  const waiting = beside(step.path, staged);
  if (existsSync(waiting)) {
    // Not done; or only its first half.
    if (before === null && there && sameFile(waiting, file)) unlinkSync(file);
    return;
  }
  if (before === null) {
    if (there && after !== null && holds(file, after)) unlinkSync(file);
  } else if (after === null) {
    if (!there) restore(step.path, back, null, before);
  } else if (!there) {
    if (movedFrom === undefined || !lstat(locate(movedFrom))) throw changed(step.path);
  } else if (holds(file, after)) restore(step.path, back, after, before);
  else if (!holds(file, before)) throw changed(step.path);
}
function moveBack(step: { from: SitePath; to: SitePath; sha256: string }): void {
  const [from, to] = [locate(step.from), locate(step.to)];
  if (!lstat(to)) return;
  const old = lstat(from);
  if (!old) rename(to, from);
  else if (sameFile(from, to)) {
    if (old.nlink > 1) unlinkSync(to);
  } else if (holds(to, step.sha256) && !holds(from, step.sha256)) throw taken(step.from);
}
function clearAgain(step: { to: SitePath; sha256: string }, staged: string): void {
  const aside = beside(step.to, staged);
  const file = locate(step.to);
  if (existsSync(aside)) {
    if (lstat(file) && sameFile(aside, file)) unlinkSync(file);
  } else if (holds(file, step.sha256)) rename(file, aside);
}
function giveBack({ path, name, to }: Extract<Act, { do: 'return' }>): void {
  const aside = beside(path, name);
  const file = locate(to);
  if (!existsSync(aside)) return;
  if (!lstat(file)) rename(aside, file);
  else if (sameFile(aside, file)) unlinkSync(aside);
  else throw taken(to);
}

function done(act: Act): ActFacts {
  switch (act.do) {
    case 'facts':
      return factsOf(locate(act.path));
    case 'keep':
      keep(act.path, act.sha256);
      break;
    case 'unkeep':
      if (existsSync(blob(act.sha256))) unlinkSync(blob(act.sha256));
      break;
    case 'stage':
      return stage(act);
    case 'unstage': {
      const staged = beside(act.path, act.name);
      if (existsSync(staged)) unlinkSync(staged);
      break;
    }
    case 'place':
      place(act);
      break;
    case 'aside':
      bring(locate(act.from), beside(act.path, act.name), act, act.from, act.path);
      break;
    case 'back':
      takeBack(act);
      break;
    case 'return':
      giveBack(act);
      break;
    case 'move':
      bring(locate(act.from), locate(act.to), act, act.from, act.to);
      break;
    case 'delete': {
      const file = locate(act.path);
      if (!lstat(file)) break;
      if (!holds(file, act.sha256, act.mark)) throw changed(act.path);
      unlinkSync(file);
      break;
    }
    case 'adopt':
      adopt(act);
      break;
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

answerQuestions((acts: readonly Act[]): ActFacts[] => {
  plain.clear();
  plain.add(root);
  return acts.map(done);
});
