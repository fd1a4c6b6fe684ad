import type { SitePath } from '../../core/address/path.ts';
import { each, filter, map, mapOf, setOf } from '../../core/paced.ts';
import { inverseSettings } from '../../core/plan/inverse.ts';
import { sameValue, seenOnce } from '../../core/plan/settings.ts';
import type { Plan, RecordStep } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import type { SiteFolder } from '../files/site-folder.ts';
import type { Act, ActFacts, FileWriter } from '../files/file-writer.ts';
import type { Db } from '../db/database.ts';
import type { Items } from '../db/items.ts';
import type { LedgerRows } from '../db/ledger.ts';
import type { Settings } from '../db/settings.ts';
import { breathe } from '../workers/breathe.ts';
import { Lock } from '../workers/lock.ts';
import { compareFiles } from './moved-on.ts';
import type { BytesAt } from './plan-bytes.ts';
import {
  backActs,
  clearingActs,
  crowdedMoves,
  foldersNeeded,
  stagingActs,
  switchingActs,
  touchedFolders,
  unstagingActs,
  type Doing,
  type Marks,
} from './switching.ts';

export interface LedgerParts {
  db: Db;
  folder: SiteFolder;
  hands: FileWriter;
  items: Items;
  rows: LedgerRows;
  settings: Settings;
  now: () => string;
  /** What the last scan found of a file. */
  known: (path: SitePath) => { bytes: number; mtimeMs: number; sha256: string } | undefined;
  /** Whether the content store has these bytes. */
  isKept: (sha256: string) => boolean;
  /** Where new bytes of a plan are, by hash; undefined: they lie in the content store. */
  newBytes: (sha256: string) => BytesAt | undefined;
  /** SHA-256 of a file, off this thread. */
  hash: (file: string) => Promise<string>;
  /** Called before each act on the disk or the database, with its name; tests end the process or fail it here. */
  onStep?: (name: string) => void;
}

/** How an act is followed and stopped. */
export interface ApplyOptions {
  /** Called with how many of the steps are done. */
  progress?: ((done: number, total: number, what: string) => void) | undefined;
  /** Stops it, as long as nothing has been put in place: then all is as before. */
  signal?: AbortSignal | undefined;
  /** What the person wants to be remembered with it. */
  note?: string | undefined;
  /** Called with the size and time of each file that was written. */
  wrote?: ((path: SitePath, facts: { bytes: number; mtimeMs: number }) => void) | undefined;
  /** Called when all files are in place; the records come next. */
  switched?: (() => Promise<void>) | undefined;
}

/** A change that could be neither completed nor taken back. */
export interface Unsettled {
  entryId: number;
  title: string;
  why: string;
}

/** So many records or settings are changed between two breaths of the server's thread; a plan with more goes on in slices. */
const SLICE = 100;
/** So many acts on files are done between two looks at whether it was stopped. */
const ACTS = 150;

/**
 * Applies plans, all or nothing, safe against a crash at any point.
 *
 * 1. Every file is compared with the plan; the intent is written to the ledger ('staging').
 * 2. New bytes are written and synced beside their targets; what they replace is copied into the content store.
 * 3. The entry becomes 'switching': from here on it is completed, also after a crash.
 * 4. Each file is compared once more and renamed into place, never over another one. Then records are changed, in slices that
 *    count themselves when there are many, and the entry is 'done'. All changes of records come one after the other through
 *    here, so none comes between.
 *
 * What fails on the way is taken back at once. At start, an entry in 'staging' is taken back and one in 'switching' is
 * completed, else taken back. What can be neither is told as unsettled; until it is, no other plan is applied.
 */
export class Ledger {
  private readonly lock = new Lock();
  private readonly open = new Map<number, Unsettled>();

  constructor(private readonly parts: LedgerParts) {}

  /** Changes that could be neither completed nor taken back: until they are, nothing else is changed. */
  get unsettled(): Unsettled[] {
    return [...this.open.values()];
  }

  /** @throws Fault 'unsettled' */
  refuseWhileUnsettled(): void {
    const [first] = this.unsettled;
    if (first)
      throw new Fault(
        'unsettled',
        `Nothing can be changed now, as a change stopped half way: ${first.title}. ${first.why}`,
        'Remove the cause and choose “Try again”.',
        this.unsettled,
      );
  }

  /**
   * Applies a plan. New bytes that it writes are at hand or in the content store.
   * @returns the ledger entry's id
   * @throws Fault 'clash' | 'moved-on' | 'stale-record' | 'disk-full' | 'forbidden'; nothing has changed then. 'unsettled': it
   * stopped half way, or an earlier one has
   */
  apply(plan: Plan, personId: number, following: ApplyOptions = {}): Promise<number> {
    return this.lock.run(async () => {
      const { db, rows } = this.parts;
      this.refuseWhileUnsettled();
      if (plan.clashes.length > 0) {
        throw new Fault('clash', plan.clashes[0]!.why, 'Change the plan and try again.', plan.clashes);
      }
      const marks = await this.compare(plan, following);
      await this.refuseOtherSettings(plan);
      plan.makes = await this.parts.folder.missing(await foldersNeeded(plan));
      const now = this.parts.now();
      if (plan.files.length === 0 && changesOf(plan) <= SLICE) {
        // Few records only: one transaction is all it takes.
        const exchanged = await exchangedBy(plan);
        return db.write(() => {
          const id = rows.begin(plan, personId, now, following.note);
          this.change(plan, 0, changesOf(plan), { personId, now, exchanged });
          rows.finish(id, plan);
          return id;
        });
      }
      await this.refuseStaleRecords(plan.records);
      const id = await rows.beginLong(plan, personId, now, following.note);
      const made: string[] = [];
      try {
        await this.stage(id, plan, made, following);
        this.step('switching');
        rows.setState(id, 'switching');
      } catch (error) {
        await this.settle(id, plan, () => this.unstage(id, plan, made), error);
        throw toldFault(error);
      }
      try {
        await this.switchOver(id, plan, marks, following);
        await following.switched?.();
        await this.finish(id, plan, personId, now, following);
      } catch (error) {
        await this.settle(id, plan, () => this.takeBack(id, plan, personId, made), error);
        throw toldFault(error);
      }
      this.step('after');
      return id;
    });
  }

  /** Completes or takes back what a crash or a failure left unfinished. Answers a sentence for each. */
  recover(): Promise<string[]> {
    return this.lock.run(async () => {
      const told: string[] = [];
      for (const { id, state, plan, personId, back } of await this.parts.rows.unfinished()) {
        this.open.delete(id);
        if (state === 'staging') {
          await this.tryTo(id, plan, () => this.unstage(id, plan));
        } else {
          const complete = async () => {
            await this.switchOver(id, plan, new Map(), {});
            await this.finish(id, plan, personId, this.parts.now(), {});
          };
          const takeBack = () => this.takeBack(id, plan, personId);
          const ways = back ? [takeBack, complete] : [complete, takeBack];
          await this.tryTo(id, plan, ...ways);
        }
        const unsettled = this.open.get(id);
        const how = unsettled
          ? `Not settled: ${unsettled.why}`
          : this.parts.rows.stateOf(id) === 'done'
            ? 'Completed'
            : 'Taken back';
        told.push(`${how}: ${plan.title}`);
      }
      return told;
    });
  }

  /**
   * Leaves the site as it stands after a change that can be neither completed nor taken back: the entry ends, and the next
   * scan takes the files as they are.
   */
  leaveAsIs(entryId: number): Promise<void> {
    return this.lock.run(async () => {
      const one = (await this.parts.rows.unfinished()).find((entry) => entry.id === entryId);
      if (!one || !this.open.has(entryId))
        throw new Fault('not-found', 'This change is settled already.', 'Reload the page.');
      this.parts.rows.leave(entryId);
      this.open.delete(entryId);
    });
  }

  /** Tries one way after the other to end an entry; when none leads to an end, it is unsettled. */
  private async tryTo(id: number, plan: Plan, ...ways: (() => Promise<void>)[]): Promise<void> {
    let first: unknown;
    for (const way of ways) {
      try {
        return await way();
      } catch (error) {
        first ??= error;
      }
    }
    this.keepOpen(id, plan, first);
  }

  /** Ends what failed: taken back, or unsettled. @throws Fault 'unsettled' */
  private async settle(id: number, plan: Plan, back: () => Promise<void>, cause: unknown): Promise<void> {
    try {
      await back();
    } catch (error) {
      this.keepOpen(id, plan, error, cause);
      this.refuseWhileUnsettled();
    }
  }

  private keepOpen(id: number, plan: Plan, error: unknown, cause: unknown = error): void {
    const why = [...new Set([cause, error].map(sentenceOf))].join(' ');
    this.open.set(id, { entryId: id, title: plan.title, why });
    try {
      this.parts.rows.setUnsettled(id, why);
    } catch {
      // The database cannot be written to either: it is known here, and found again at the next start.
    }
  }

  /** Changes some records, and some settings: all are counted in this order. */
  private change(plan: Plan, from: number, to: number, { personId, now, exchanged }: Changing): void {
    const { items, settings } = this.parts;
    for (const step of plan.records.slice(from, to)) items.apply(step, personId, now, exchanged);
    const before = plan.records.length;
    for (const step of (plan.settings ?? []).slice(Math.max(0, from - before), Math.max(0, to - before)))
      settings.set(step, personId, now);
  }

  /** The same, back to how they were. */
  private changeBack(plan: Plan, from: number, to: number, { personId, now, exchanged }: Changing): void {
    const { items, settings } = this.parts;
    const before = plan.records.length;
    for (const step of inverseSettings(
      (plan.settings ?? []).slice(Math.max(0, from - before), Math.max(0, to - before)),
    ))
      settings.set(step, personId, now);
    for (const step of plan.records.slice(from, to).reverse()) {
      const { rowVersion } = items.need(step.itemId);
      items.apply({ ...step, rowVersion, before: step.after, after: step.before }, personId, now, exchanged);
    }
  }

  private async refuseOtherSettings({ settings = [] }: Plan): Promise<void> {
    // Within one plan a key may come twice: then the later step starts from what the earlier one leaves.
    const once = await seenOnce(settings, breathe);
    for (const step of settings) {
      await breathe();
      if (sameValue(this.parts.settings.get(step.room, step.key), step.before) || !once(step)) continue;
      throw new Fault(
        'moved-on',
        `Someone changed “${step.key}” after this plan was made.`,
        'Look at the plan again; it is computed anew.',
      );
    }
  }

  private async refuseStaleRecords(steps: readonly RecordStep[]): Promise<void> {
    for (let at = 0; at < steps.length; at += SLICE) {
      const stale = this.parts.items.newerThan(steps.slice(at, at + SLICE));
      if (stale !== undefined) throw this.parts.items.staleRecord(stale);
      await breathe();
    }
  }

  private step(name: string): void {
    this.parts.onStep?.(name);
  }

  /** Compares the files with the plan; what they are known by and their permissions are noted. */
  private async compare(plan: Plan, { progress, signal }: ApplyOptions): Promise<Marks> {
    const stand = await compareFiles(plan, {
      folder: this.parts.folder,
      known: this.parts.known,
      hash: this.parts.hash,
      facts: (doings) => this.act(doings, 'files compared', { progress, signal }),
      signal,
    });
    await each(plan.files, breathe, (step) => {
      if (step.do !== 'remove') return;
      const { mode, owner } = stand.get(step.path) ?? step;
      Object.assign(step, { mode, owner });
    });
    return mapOf(stand, breathe, ([path, { mark }]) => [path, mark]);
  }

  /**
   * Does acts, each under its name as a step; tests that end the process at a step need them one by one.
   * @param apart they do not hang together, and may be done in any order
   */
  private async act(
    doings: readonly Doing[],
    what = '',
    { progress, signal }: ApplyOptions = {},
    apart = false,
  ): Promise<ActFacts[]> {
    const found: ActFacts[] = [];
    const together = this.parts.onStep ? 1 : ACTS;
    let acts: Act[] = [];
    const flush = async () => {
      if (acts.length === 0) return;
      const { hands } = this.parts;
      for (const facts of await (apart && together > 1 ? hands.doApart(acts) : hands.do(acts)))
        found.push(facts);
      acts = [];
    };
    for (const [at, doing] of doings.entries()) {
      await breathe();
      signal?.throwIfAborted();
      if (doing.name !== '') this.step(doing.name);
      if ('act' in doing) acts.push(doing.act);
      else {
        // Everything before it is in place first.
        await flush();
        if ('make' in doing) await this.parts.folder.makeFolderFor(`${doing.make}/x`);
        else await this.parts.folder.removeEmptyFolder(doing.drop);
      }
      if (acts.length < together && at < doings.length - 1) continue;
      await flush();
      if (what !== '') progress?.(at + 1, doings.length, what);
    }
    return found;
  }

  private async stage(id: number, plan: Plan, made: string[], following: ApplyOptions): Promise<void> {
    for (const one of await foldersNeeded(plan)) {
      this.step(`folder ${one}`);
      await this.parts.folder.makeFolderFor(`${one}/x`);
    }
    const doings = await stagingActs(id, plan, this.parts.newBytes);
    // When it fails, the content store is as it was.
    await each(doings, breathe, (doing) => {
      if ('act' in doing && doing.act.do === 'keep' && !this.parts.isKept(doing.act.sha256))
        made.push(doing.act.sha256);
    });
    const found = await this.act(doings, 'files made ready', following, true);
    const kept = new Set<string>();
    await each(doings, breathe, (doing, at) => {
      const act = (doing as { act: Act }).act;
      if (act.do === 'keep') kept.add(act.sha256.slice(0, 2));
      if (act.do !== 'stage') return;
      const { bytes, mtimeMs } = found[at]!;
      following.wrote?.(act.path, { bytes, mtimeMs });
    });
    await this.act([...kept].map((start) => ({ name: '', act: { do: 'sync-kept', start } })));
  }

  private async switchOver(id: number, plan: Plan, marks: Marks, { progress }: ApplyOptions): Promise<void> {
    const { folder, rows } = this.parts;
    const crowded = await crowdedMoves(plan);
    if (crowded.size > 0 && !rows.isCleared(id)) {
      await this.act(await clearingActs(id, plan, crowded, marks));
      // That this is done is kept: from then on an old place may hold another file already.
      rows.setCleared(id);
    }
    await this.act(await switchingActs(id, plan, crowded, marks), 'files put in place', { progress });
    for (const one of plan.leaves ?? []) await folder.removeEmptyFolder(one);
    await this.sync(plan);
  }

  private async sync(plan: Plan): Promise<void> {
    const kept = await setOf(plan.files, breathe, (step) =>
      step.do === 'remove' ? step.sha256.slice(0, 2) : undefined,
    );
    await this.act([
      ...(await touchedFolders(plan)).map((folder): Doing => ({ name: '', act: { do: 'sync', folder } })),
      ...[...kept].map((start): Doing => ({ name: '', act: { do: 'sync-kept', start } })),
    ]);
  }

  /** The records and settings, in slices; how many are done is kept with each, so that a crash between them goes on from there. */
  private async finish(
    id: number,
    plan: Plan,
    personId: number,
    now: string,
    { progress }: ApplyOptions,
  ): Promise<void> {
    const { db, rows } = this.parts;
    const total = changesOf(plan);
    const changing = { personId, now, exchanged: await exchangedBy(plan) };
    // Slices are not synced one by one: a power cut loses the latest, and the entry goes on from the last that is there.
    const sliced = total - rows.recordsDone(id) > SLICE;
    if (sliced) db.pragma('synchronous = NORMAL');
    try {
      for (let at = rows.recordsDone(id); total - at > SLICE; at += SLICE) {
        this.step(`records ${at}`);
        db.write(() => {
          this.change(plan, at, at + SLICE, changing);
          rows.setRecordsDone(id, at + SLICE);
        });
        progress?.(at + SLICE, total, 'records changed');
        await new Promise(setImmediate);
      }
    } finally {
      if (sliced) db.pragma('synchronous = FULL');
    }
    this.step('commit');
    db.write(() => {
      this.change(plan, rows.recordsDone(id), total, changing);
      rows.finish(id, plan);
    });
  }

  /** Ends an entry of which nothing has been put in place. */
  private async unstage(id: number, plan: Plan, made: readonly string[] = []): Promise<void> {
    await this.act(await unstagingActs(id, plan));
    await this.act(await map(made, breathe, (sha256) => ({ name: '', act: { do: 'unkeep', sha256 } })));
    for (const one of [...(plan.makes ?? plan.folders)].reverse())
      await this.parts.folder.removeEmptyFolder(one);
    this.parts.rows.setState(id, 'taken-back');
  }

  /** Takes back whatever of an entry has been done: files first, then records. */
  private async takeBack(
    id: number,
    plan: Plan,
    personId: number,
    made: readonly string[] = [],
  ): Promise<void> {
    const { db, rows, folder, items } = this.parts;
    rows.setBack(id);
    for (const one of [...(plan.leaves ?? [])].reverse()) await folder.makeFolderFor(`${one}/x`);
    await this.act(await backActs(id, plan, await crowdedMoves(plan)));
    await this.sync(plan);
    const exchanged = await exchangedBy(plan);
    const changing = { personId, now: this.parts.now(), exchanged };
    for (let done = rows.recordsDone(id); done > 0; done = Math.max(0, done - SLICE)) {
      this.step(`records back ${done}`);
      db.write(() => {
        const left = Math.max(0, done - SLICE);
        this.changeBack(plan, left, done, changing);
        rows.setRecordsDone(id, left);
      });
      await breathe();
    }
    // Those that stood in the way of others, and whose own turn had not come.
    await each(plan.records, breathe, ({ itemId, before }) => {
      if (before.path !== undefined && exchanged.has(itemId)) items.returnTo(itemId, before.path);
    });
    await this.unstage(id, plan, made);
  }
}

/** Who changes records, when, and which of them change places. */
interface Changing {
  personId: number;
  now: string;
  exchanged: ReadonlySet<number>;
}

/** How many records and settings a plan changes. */
const changesOf = ({ records, settings = [] }: Plan): number => records.length + settings.length;

/** Items whose path becomes another one's in the same plan, or was one's: no two may have it at any moment. */
async function exchangedBy({ records }: Plan): Promise<Set<number>> {
  const moved = await filter(
    records,
    breathe,
    ({ before, after }) => before.path !== undefined && before.path !== after.path,
  );
  const from = await setOf(moved, breathe, (step) => step.before.path);
  const to = await setOf(moved, breathe, (step) => step.after.path);
  return setOf(moved, breathe, ({ itemId, before, after }) =>
    to.has(before.path!) || (after.path !== undefined && from.has(after.path)) ? itemId : undefined,
  );
}

/** What went wrong, as one sentence. */
function sentenceOf(error: unknown): string {
  if (error instanceof Fault) return error.message;
  const cause = systemCause(error);
  if (cause) return cause.message;
  const { code, message } = error as NodeJS.ErrnoException;
  return `The system said: ${code ?? message}.`;
}

/** A failure of the system as a sentence for the person, who may know now that all is as before. */
function toldFault(error: unknown): unknown {
  const cause = systemCause(error);
  return cause ? new Fault(cause.code, `${cause.message} Nothing was changed.`, cause.remedy) : error;
}

function systemCause(error: unknown): Pick<Fault, 'code' | 'message' | 'remedy'> | undefined {
  const code = (error as NodeJS.ErrnoException).code ?? '';
  if (['ENOSPC', 'EDQUOT', 'SQLITE_FULL'].includes(code))
    return {
      code: 'disk-full',
      message: 'The disk is full.',
      remedy: 'Free some space and apply the plan again.',
    };
  if (['EACCES', 'EPERM', 'EROFS'].includes(code))
    return {
      code: 'forbidden',
      message: 'A folder of the site cannot be written to.',
      remedy: 'Give the server’s user the right to write there.',
    };
  if (code.startsWith('SQLITE_READONLY') || code.startsWith('SQLITE_IOERR') || code === 'SQLITE_CANTOPEN')
    return {
      code: 'forbidden',
      message: 'The database in the data folder cannot be written to.',
      remedy: 'Give the server’s user the right to write there, and check the disk.',
    };
  return undefined;
}
