import { join } from 'node:path';
import { clashKey, folderOf, type SitePath } from '../../core/address/path.ts';
import type { FileStep, Plan, RecordStep } from '../../core/plan/plan.ts';
import { placesBefore } from '../../core/plan/inverse.ts';
import { sameValue } from '../../core/plan/settings.ts';
import { Fault } from '../fault.ts';
import { STAGE_PREFIX, type SiteFolder } from '../site/folder.ts';
import type { Act, ActFacts, Hands } from '../site/hands.ts';
import type { Db } from '../store/database.ts';
import type { Items } from '../store/items.ts';
import { inLanes } from '../work/lanes.ts';
import type { LedgerRows } from '../store/ledger.ts';
import type { Settings } from '../store/settings.ts';

export interface LedgerParts {
  db: Db;
  folder: SiteFolder;
  hands: Hands;
  items: Items;
  rows: LedgerRows;
  settings: Settings;
  now: () => string;
  /** What the last scan found of a file. */
  known: (path: SitePath) => { bytes: number; mtimeMs: number; sha256: string } | undefined;
  /** SHA-256 of a file, off this thread. */
  hash: (file: string) => Promise<string>;
  /** Called before each act on the disk or the database, with its name; tests end the process here. */
  onStep?: (name: string) => void;
}

/** How an act is followed and stopped. */
export interface Following {
  /** Called with how many of the steps are done. */
  progress?: ((done: number, total: number, what: string) => void) | undefined;
  /** Stops it, as long as nothing has been put in place: then all is as before. */
  signal?: AbortSignal | undefined;
  /** What the person wants to be remembered with it. */
  note?: string | undefined;
  /** New bytes that the plan writes, by hash; what is not here lies in the content store. */
  contents?: ReadonlyMap<string, Uint8Array> | undefined;
  /** Called with the size and time of each file that was written. */
  wrote?: ((path: SitePath, facts: { bytes: number; mtimeMs: number }) => void) | undefined;
  /** Called when all files are in place; the records come next. */
  switched?: (() => void) | undefined;
}

/** So many records are changed between two breaths of the server's thread; a plan with more goes on in slices. */
const SLICE = 250;
/** So many acts on files are done between two looks at whether it was stopped. */
const ACTS = 150;

/**
 * Applies plans, all or nothing, safe against a crash at any point.
 *
 * 1. Every file is compared with the plan; the intent is written to the ledger ('staging').
 * 2. New bytes are written and synced beside their targets; what they replace gets a second name in the content store.
 * 3. The entry becomes 'switching': from here on it is completed, also after a crash.
 * 4. Files are renamed into place, then records are changed, in slices that count themselves when there are many,
 *    and the entry is 'done'. All changes of records come one after the other through here, so none comes between.
 *
 * At start, an entry in 'staging' is taken back and one in 'switching' is completed.
 */
export class Ledger {
  private last: Promise<unknown> = Promise.resolve();

  constructor(private readonly parts: LedgerParts) {}

  /**
   * Applies a plan. New bytes that it writes are at hand or in the content store.
   * @returns the ledger entry's id
   * @throws Fault 'clash' | 'moved-on' | 'stale-record'; nothing has changed then
   */
  apply(plan: Plan, personId: number, following: Following = {}): Promise<number> {
    return this.alone(async () => {
      const { db, rows } = this.parts;
      if (plan.clashes.length > 0) {
        throw new Fault('clash', plan.clashes[0]!.why, 'Change the plan and try again.', plan.clashes);
      }
      await this.refuseIfMovedOn(plan, following);
      this.refuseOtherSettings(plan);
      const now = this.parts.now();
      if (plan.files.length === 0 && plan.records.length <= SLICE) {
        // Few records only: one transaction is all it takes.
        return db.transaction(() => {
          const id = rows.begin(plan, personId, now, following.note);
          this.changeRecords(plan.records, personId, now);
          this.changeSettings(plan, personId, now);
          rows.finish(id, plan);
          return id;
        })();
      }
      this.refuseStaleRecords(plan);
      const id = db.transaction(() => rows.begin(plan, personId, now, following.note))();
      try {
        await this.stage(id, plan, following);
      } catch (error) {
        await this.takeBack(id, plan);
        throw diskFault(error);
      }
      this.step('switching');
      rows.setState(id, 'switching');
      await this.switchOver(id, plan, following);
      following.switched?.();
      await this.finish(id, plan, personId, now, following);
      return id;
    });
  }

  private changeRecords(steps: readonly RecordStep[], personId: number, now: string): void {
    for (const step of steps) this.parts.items.apply(step, personId, now);
  }

  private changeSettings(plan: Plan, personId: number, now: string): void {
    for (const step of plan.settings ?? []) this.parts.settings.set(step, personId, now);
  }

  private refuseOtherSettings(plan: Plan): void {
    for (const step of plan.settings ?? []) {
      if (sameValue(this.parts.settings.get(step.room, step.key), step.before)) continue;
      // Within one plan a key may come twice: then the later step starts from what the earlier one leaves.
      if (plan.settings!.some((one) => one !== step && one.room === step.room && one.key === step.key))
        continue;
      throw new Fault(
        'moved-on',
        `Someone changed “${step.key}” after this plan was made.`,
        'Look at the plan again; it is computed anew.',
      );
    }
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
          await this.switchOver(entry.id, entry.plan, {});
          await this.finish(entry.id, entry.plan, entry.personId, this.parts.now(), {});
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

  /**
   * Does acts on files, each under its name as a step; tests that end the process at a step need them one by one.
   * @param apart they do not hang together, and may be done in any order
   */
  private async act(
    acts: readonly (readonly [name: string, act: Act])[],
    what = '',
    { progress, signal }: Following = {},
    apart = false,
  ): Promise<ActFacts[]> {
    const found: ActFacts[] = [];
    const together = this.parts.onStep ? 1 : ACTS;
    for (let at = 0; at < acts.length; at += together) {
      signal?.throwIfAborted();
      if (what !== '') progress?.(at, acts.length, what);
      const slice = acts.slice(at, at + together);
      for (const [name] of slice) if (name !== '') this.step(name);
      const some = slice.map(([, act]) => act);
      const { hands } = this.parts;
      found.push(...(await (apart && together > 1 ? hands.doApart(some) : hands.do(some))));
    }
    return found;
  }

  private async refuseIfMovedOn(plan: Plan, { progress, signal }: Following): Promise<void> {
    const { folder } = this.parts;
    const moved: SitePath[] = [];
    const standsAt = placesBefore(plan.files);
    const leaving = new Set(standsAt.values());
    const clashes = folder.clashFinder();
    const expected: { path: SitePath; now: SitePath; sha256: string | null }[] = [];
    for (const step of plan.files) {
      signal?.throwIfAborted();
      if (step.do === 'make-folder' || step.do === 'drop-folder') {
        if ((await folder.stateOf(step.path)) !== (step.do === 'drop-folder' ? 'empty' : 'none'))
          moved.push(step.path);
        continue;
      }
      const path = step.do === 'move' ? step.from : step.path;
      const now = step.do === 'write' ? (standsAt.get(path) ?? path) : path;
      const sha256 = step.do === 'write' ? step.before : step.do === 'create' ? null : step.sha256;
      expected.push({ path, now, sha256 });
      const target = step.do === 'move' ? step.to : step.do === 'create' ? step.path : undefined;
      if (target === undefined) continue;
      const inTheWay = (await clashes(target)).filter((name) => !leaving.has(join(folderOf(target), name)));
      if (inTheWay.length > 0) {
        throw new Fault(
          'clash',
          `There is a file “${inTheWay[0]}” in “${folderOf(target) || 'the site’s root'}” already.`,
          'Choose another name.',
        );
      }
    }
    const found = await this.act(
      expected.map(({ now }) => ['', { do: 'facts', path: now }]),
      'files compared',
      { progress, signal },
    );
    const toHash: (typeof expected)[number][] = [];
    for (const [at, one] of expected.entries()) {
      const facts = found[at]!;
      const known = this.parts.known(one.now);
      if (one.sha256 === null || !facts) {
        if ((one.sha256 === null) !== (facts === null)) moved.push(one.path);
      } else if (
        known &&
        known.sha256 !== '' &&
        known.bytes === facts.bytes &&
        known.mtimeMs === facts.mtimeMs
      ) {
        // As the last scan found it: its size and time are still the same.
        if (known.sha256 !== one.sha256) moved.push(one.path);
      } else toHash.push(one);
    }
    await inLanes(toHash, async ({ path, now, sha256 }) => {
      signal?.throwIfAborted();
      if ((await this.parts.hash(await folder.locate(now))) !== sha256) moved.push(path);
    });
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
    const stale = this.parts.items.newerThan(plan.records);
    if (stale !== undefined) throw this.parts.items.staleRecord(stale);
  }

  private async stage(id: number, plan: Plan, following: Following): Promise<void> {
    for (const one of foldersNeeded(plan)) {
      this.step(`folder ${one}`);
      await this.parts.folder.makeFolderFor(`${one}/x`);
    }
    const standsAt = placesBefore(plan.files);
    const acts: [string, Act][] = [];
    const kept = new Set<string>();
    for (const [index, step] of plan.files.entries()) {
      const name = stageName(id, index);
      if (step.do === 'write') {
        const now = standsAt.get(step.path) ?? step.path;
        if (step.before !== null) {
          kept.add(step.before.slice(0, 2));
          acts.push([`keep ${step.path}`, { do: 'keep', path: now, sha256: step.before }]);
        }
        if (step.after === null) continue;
        const bytes = following.contents?.get(step.after);
        const like = step.before === null ? {} : { like: now };
        acts.push([
          `stage ${step.path}`,
          { do: 'stage', path: step.path, name, sha256: step.after, bytes, ...like },
        ]);
      } else if (step.do === 'create') {
        const bytes = following.contents?.get(step.sha256);
        acts.push([`stage ${step.path}`, { do: 'stage', path: step.path, name, sha256: step.sha256, bytes }]);
      }
    }
    const found = await this.act(acts, 'files made ready', following, true);
    await this.act([...kept].map((start) => ['', { do: 'sync-kept', start }]));
    for (const [at, [, act]] of acts.entries())
      if (act.do === 'stage') following.wrote?.(act.path, found[at]!);
  }

  /**
   * Moves that stand in each other's way (a to b, b to c; or a and b exchanged) go aside first, all of them, before any is
   * put in place. That this is done is kept: from then on an old place may hold another file already.
   * @returns the indexes of those steps
   */
  private async clearTheWay(id: number, plan: Plan): Promise<ReadonlySet<number>> {
    const moves = [...plan.files.entries()].flatMap(([index, step]) =>
      step.do === 'move' ? [{ index, ...step }] : [],
    );
    const from = new Set(moves.map((step) => clashKey(step.from)));
    const to = new Set(moves.map((step) => clashKey(step.to)));
    const crowded = moves.filter((step) => from.has(clashKey(step.to)) || to.has(clashKey(step.from)));
    if (crowded.length > 0 && !this.parts.rows.isCleared(id)) {
      await this.act(
        crowded.map(({ from, to, index }) => [
          `aside ${from}`,
          { do: 'aside', from, path: to, name: stageName(id, index) },
        ]),
      );
      this.parts.rows.setCleared(id);
    }
    return new Set(crowded.map((step) => step.index));
  }

  /** Every step leaves the same result however often it is done. */
  private async switchOver(id: number, plan: Plan, { progress }: Following): Promise<void> {
    const { folder } = this.parts;
    const touched = new Set<SitePath>();
    const kept = new Set<string>();
    const crowded = await this.clearTheWay(id, plan);
    let acts: [string, Act][] = [];
    for (const [index, step] of plan.files.entries()) {
      const name = stageName(id, index);
      const act = (act: Act) => acts.push([`switch ${index}`, act]);
      touched.add(folderOf(step.do === 'move' ? step.from : step.path));
      switch (step.do) {
        case 'move':
          touched.add(folderOf(step.to));
          if (crowded.has(index)) act({ do: 'place', path: step.to, name });
          else act({ do: 'move', from: step.from, to: step.to });
          break;
        case 'write':
          if (step.after === null) act({ do: 'delete', path: step.path });
          else act({ do: 'place', path: step.path, name });
          break;
        case 'create':
          act({ do: 'place', path: step.path, name });
          break;
        case 'remove':
          kept.add(step.sha256.slice(0, 2));
          act({ do: 'adopt', path: step.path, sha256: step.sha256 });
          break;
        case 'make-folder':
        case 'drop-folder':
          // Everything before it is in place first.
          await this.act(acts);
          acts = [];
          this.step(`switch ${index}`);
          if (step.do === 'make-folder') await folder.makeFolderFor(`${step.path}/x`);
          else await folder.removeEmptyFolder(step.path);
      }
    }
    await this.act(acts, 'files put in place', { progress });
    // Folders that the undone plan had made, the innermost first.
    if (plan.kind === 'undo')
      for (const one of [...plan.folders].reverse()) await folder.removeEmptyFolder(one);
    for (const one of plan.leaves ?? []) await folder.removeEmptyFolder(one);
    await this.act([
      ...[...touched].map((one): [string, Act] => ['', { do: 'sync', folder: one }]),
      ...[...kept].map((start): [string, Act] => ['', { do: 'sync-kept', start }]),
    ]);
  }

  /** The records, in slices; how many are done is kept with each, so that a crash between them goes on from there. */
  private async finish(
    id: number,
    plan: Plan,
    personId: number,
    now: string,
    { progress }: Following,
  ): Promise<void> {
    const { db, rows } = this.parts;
    const total = plan.records.length;
    if (rows.recordsDone(id) === 0) this.parts.items.leavePaths(exchanged(plan));
    for (let at = rows.recordsDone(id); total - at > SLICE; at += SLICE) {
      this.step(`records ${at}`);
      // Slices are not synced one by one: a power cut loses the latest, and the entry goes on from the last that is there.
      db.pragma('synchronous = NORMAL');
      db.transaction(() => {
        this.changeRecords(plan.records.slice(at, at + SLICE), personId, now);
        rows.setRecordsDone(id, at + SLICE);
      })();
      db.pragma('synchronous = FULL');
      progress?.(at + SLICE, total, 'records changed');
      await new Promise(setImmediate);
    }
    this.step('commit');
    db.transaction(() => {
      this.changeRecords(plan.records.slice(rows.recordsDone(id)), personId, now);
      this.changeSettings(plan, personId, now);
      rows.finish(id, plan);
    })();
    this.step('after');
  }

  private async takeBack(id: number, plan: Plan): Promise<void> {
    const { folder, rows } = this.parts;
    const standsAt = placesBefore(plan.files);
    await this.act(
      [...plan.files.entries()].flatMap(([index, step]): [string, Act][] => {
        if (step.do !== 'write' && step.do !== 'create') return [];
        const unstage: Act = { do: 'unstage', path: step.path, name: stageName(id, index) };
        if (step.do === 'create' || step.before === null) return [['', unstage]];
        const path = standsAt.get(step.path) ?? step.path;
        return [
          ['', unstage],
          ['', { do: 'unkeep', path, sha256: step.before }],
        ];
      }),
    );
    if (plan.kind !== 'undo')
      for (const one of [...plan.folders].reverse()) await folder.removeEmptyFolder(one);
    rows.setState(id, 'taken-back');
  }
}

/** Name of what the n-th step of an entry stages beside its place: on the same file system, so that the rename is atomic. */
function stageName(id: number, index: number): string {
  return `${STAGE_PREFIX}${id}-${index}`;
}

/** Items whose path becomes another one's in the same plan: no two may have it at any moment. */
function exchanged(plan: Plan): number[] {
  const wanted = new Set(plan.records.map((step) => step.after.path));
  return plan.records
    .filter((step) => step.before.path !== step.after.path && wanted.has(step.before.path))
    .filter((step) => step.before.path !== undefined)
    .map((step) => step.itemId);
}

/** Folders that must be there before the steps can be staged: those of every target. */
function foldersNeeded(plan: Plan): SitePath[] {
  const folders = plan.files.flatMap((step) =>
    step.do === 'make-folder' || step.do === 'drop-folder' ? [] : [folderOf(targetOf(step))],
  );
  return [...new Set(folders)].filter((folder) => folder !== '');
}

function targetOf(step: FileStep): SitePath {
  return step.do === 'move' ? step.to : step.path;
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
