import { chmod, rename, stat, unlink } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { folderOf, type SitePath } from '../../core/address/path.ts';
import type { FileStep, Plan } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import { copySynced, moveFile, STAGE_PREFIX, syncFolder, type SiteFolder } from '../site/folder.ts';
import type { Blobs } from '../store/blobs.ts';
import type { Db } from '../store/database.ts';
import type { Items } from '../store/items.ts';
import type { LedgerRows } from '../store/ledger.ts';

export interface LedgerParts {
  db: Db;
  folder: SiteFolder;
  blobs: Blobs;
  items: Items;
  rows: LedgerRows;
  now: () => string;
  /** SHA-256 of a file, off this thread. */
  hash: (file: string) => Promise<string>;
  /** Called before each act on the disk or the database, with its name; tests end the process here. */
  onStep?: (name: string) => void;
}

/**
 * Applies plans, all or nothing, safe against a crash at any point.
 *
 * 1. Every file is compared with the plan; the intent is written to the ledger ('staging').
 * 2. New bytes are written and synced beside their targets, before-images into the content store.
 * 3. The entry becomes 'switching': from here on it is completed, also after a crash.
 * 4. Files are renamed into place, then records are changed and the entry is 'done' in one transaction.
 *
 * At start, an entry in 'staging' is taken back and one in 'switching' is completed.
 */
export class Ledger {
  private last: Promise<unknown> = Promise.resolve();

  constructor(private readonly parts: LedgerParts) {}

  /**
   * Applies a plan. New bytes that it writes must already lie in the content store.
   * @returns the ledger entry's id
   * @throws Fault 'clash' | 'moved-on' | 'stale-record'; nothing has changed then
   */
  apply(plan: Plan, personId: number): Promise<number> {
    return this.alone(async () => {
      const { db, rows } = this.parts;
      if (plan.clashes.length > 0) {
        throw new Fault('clash', plan.clashes[0]!.why, 'Change the plan and try again.', plan.clashes);
      }
      await this.refuseIfMovedOn(plan);
      const now = this.parts.now();
      if (plan.files.length === 0) {
        // Records only: one transaction is all it takes.
        return db.transaction(() => {
          const id = rows.begin(plan, personId, now);
          for (const step of plan.records) this.parts.items.apply(step, personId, now);
          rows.finish(id, plan);
          return id;
        })();
      }
      this.refuseStaleRecords(plan);
      const id = db.transaction(() => rows.begin(plan, personId, now))();
      try {
        await this.stage(id, plan);
      } catch (error) {
        await this.takeBack(id, plan);
        throw diskFault(error);
      }
      this.step('switching');
      rows.setState(id, 'switching');
      await this.switchOver(id, plan);
      this.finish(id, plan, personId, now);
      return id;
    });
  }

  /** Completes or takes back what a crash left unfinished. Answers a sentence for each. */
  recover(): Promise<string[]> {
    return this.alone(async () => {
      const told: string[] = [];
      for (const entry of this.parts.rows.unfinished()) {
        if (entry.state === 'staging') {
          await this.takeBack(entry.id, entry.plan);
          told.push(`Taken back: ${entry.plan.title}`);
        } else {
          await this.switchOver(entry.id, entry.plan);
          this.finish(entry.id, entry.plan, entry.personId, this.parts.now());
          told.push(`Completed: ${entry.plan.title}`);
        }
      }
      return told;
    });
  }

  private alone<Result>(work: () => Promise<Result>): Promise<Result> {
    const result = this.last.then(work, work);
    this.last = result.catch(() => undefined);
    return result;
  }

  private step(name: string): void {
    this.parts.onStep?.(name);
  }

  private async refuseIfMovedOn(plan: Plan): Promise<void> {
    const { folder } = this.parts;
    const moved: SitePath[] = [];
    for (const step of plan.files) {
      const [path, expected] =
        step.do === 'move'
          ? [step.from, step.sha256]
          : step.do === 'write'
            ? [step.path, step.before]
            : [step.path, step.do === 'remove' ? step.sha256 : null];
      const found = await folder.facts(path);
      if (
        expected === null
          ? found !== undefined
          : !found || (await this.parts.hash(await folder.locate(path))) !== expected
      )
        moved.push(path);
      const target = step.do === 'move' ? step.to : step.do === 'create' ? step.path : undefined;
      if (target === undefined) continue;
      const inTheWay = (await folder.clashes(target)).filter(
        (name) => !plan.files.some((one) => one.do === 'move' && one.from === join(folderOf(target), name)),
      );
      if (inTheWay.length > 0) {
        throw new Fault(
          'clash',
          `There is a file “${inTheWay[0]}” in “${folderOf(target) || 'the site’s root'}” already.`,
          'Choose another name.',
        );
      }
    }
    if (moved.length > 0) {
      throw new Fault(
        'moved-on',
        `The site has changed since this plan was made: ${moved
          .slice(0, 3)
          .map((path) => `“${path}”`)
          .join(', ')}${moved.length > 3 ? ` and ${moved.length - 3} more` : ''}.`,
        'Look at the plan again; it is computed anew.',
        moved,
      );
    }
  }

  private refuseStaleRecords(plan: Plan): void {
    for (const step of plan.records) {
      if (this.parts.items.need(step.itemId).rowVersion !== step.rowVersion)
        throw this.parts.items.staleRecord(step.itemId);
    }
  }

  /** Beside the target of the n-th step: on the same file system, so that the rename is atomic. */
  private async stagePath(id: number, index: number, path: SitePath): Promise<string> {
    return join(dirname(await this.parts.folder.locate(path)), `${STAGE_PREFIX}${id}-${index}`);
  }

  private async stage(id: number, plan: Plan): Promise<void> {
    const { folder, blobs } = this.parts;
    for (const one of foldersNeeded(plan)) {
      this.step(`folder ${one}`);
      await folder.makeFolderFor(`${one}/x`);
    }
    for (const [index, step] of plan.files.entries()) {
      if (step.do === 'write') {
        if (step.before !== null) {
          this.step(`keep ${step.path}`);
          await blobs.putCopy(await folder.locate(step.path), step.before);
        }
        if (step.after !== null) {
          const stage = await this.stagePath(id, index, step.path);
          this.step(`stage ${step.path}`);
          await copySynced(blobs.path(step.after), stage);
          if (step.before !== null)
            await chmod(stage, (await stat(await folder.locate(step.path))).mode & 0o7777);
        }
      } else if (step.do === 'create') {
        this.step(`stage ${step.path}`);
        const stage = await this.stagePath(id, index, step.path);
        await copySynced(blobs.path(step.sha256), stage);
        await chmod(stage, 0o644);
      }
    }
  }

  /** Every step leaves the same result however often it is done. */
  private async switchOver(id: number, plan: Plan): Promise<void> {
    const { folder, blobs } = this.parts;
    const touched = new Set<string>();
    for (const [index, step] of plan.files.entries()) {
      this.step(`switch ${index}`);
      switch (step.do) {
        case 'move': {
          const from = await folder.locate(step.from);
          const to = await folder.locate(step.to);
          if (await isThere(from)) await moveFile(from, to);
          touched.add(dirname(from)).add(dirname(to));
          break;
        }
        case 'write': {
          const path = await folder.locate(step.path);
          if (step.after === null) {
            if (await isThere(path)) await unlink(path);
          } else {
            const stage = await this.stagePath(id, index, step.path);
            if (await isThere(stage)) await rename(stage, path);
          }
          touched.add(dirname(path));
          break;
        }
        case 'remove': {
          const path = await folder.locate(step.path);
          if (await isThere(path)) await blobs.adopt(path, step.sha256);
          touched.add(dirname(path));
          break;
        }
        case 'create': {
          const path = await folder.locate(step.path);
          const stage = await this.stagePath(id, index, step.path);
          if (await isThere(stage)) await rename(stage, path);
          touched.add(dirname(path));
          break;
        }
      }
    }
    // Folders that the undone plan had made, the innermost first.
    if (plan.kind === 'undo')
      for (const one of [...plan.folders].reverse()) await folder.removeEmptyFolder(one);
    for (const one of plan.leaves ?? []) await folder.removeEmptyFolder(one);
    for (const one of touched) if (await isThere(one)) await syncFolder(one);
  }

  private finish(id: number, plan: Plan, personId: number, now: string): void {
    const { db, items, rows } = this.parts;
    this.step('commit');
    db.transaction(() => {
      for (const step of plan.records) items.apply(step, personId, now);
      rows.finish(id, plan);
    })();
    this.step('after');
  }

  private async takeBack(id: number, plan: Plan): Promise<void> {
    const { folder, rows } = this.parts;
    for (const [index, step] of plan.files.entries()) {
      if (step.do !== 'write' && step.do !== 'create') continue;
      const stage = await this.stagePath(id, index, step.path);
      if (await isThere(stage)) await unlink(stage);
    }
    if (plan.kind !== 'undo')
      for (const one of [...plan.folders].reverse()) await folder.removeEmptyFolder(one);
    rows.setState(id, 'taken-back');
  }
}

/** Folders that must be there before the steps can be staged: those of every target. */
function foldersNeeded(plan: Plan): SitePath[] {
  const folders = plan.files.map((step) => folderOf(targetOf(step)));
  return [...new Set(folders)].filter((folder) => folder !== '');
}

function targetOf(step: FileStep): SitePath {
  return step.do === 'move' ? step.to : step.path;
}

async function isThere(path: string): Promise<boolean> {
  try {
    await stat(path);
    return true;
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code;
    if (code === 'ENOENT' || code === 'ENOTDIR') return false;
    throw error;
  }
}

function diskFault(error: unknown): unknown {
  const code = (error as NodeJS.ErrnoException).code;
  if (code === 'ENOSPC' || code === 'EDQUOT') {
    return new Fault(
      'disk-full',
      'The disk is full, so nothing was changed.',
      'Free some space and apply the plan again.',
    );
  }
  if (code === 'EACCES' || code === 'EPERM' || code === 'EROFS') {
    return new Fault(
      'forbidden',
      'The site’s folder cannot be written to, so nothing was changed.',
      'Give the server’s user the right to write there.',
    );
  }
  return error;
}
