import type { FileStep, Plan } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import type { SiteFolder } from '../files/site-folder.ts';
import type { LedgerRows } from '../db/ledger.ts';
import { Lock } from '../workers/lock.ts';
import type { ApplyOptions } from './apply-options.ts';
import type { FileChanges, OnStep } from './file-changes.ts';
import type { RecordChanges } from './record-changes.ts';
import { foldersNeeded } from './switching.ts';
import { sentenceOf, toldFault } from './system-faults.ts';

export interface LedgerParts {
  folder: SiteFolder;
  files: FileChanges;
  records: RecordChanges;
  rows: LedgerRows;
  /** Of files that were put in place and taken back, nothing is known for sure. */
  forget: (steps: readonly FileStep[]) => Promise<void>;
  now: () => string;
  onStep?: OnStep | undefined;
}

/** A change that could be neither completed nor taken back. */
export interface Unsettled {
  entryId: number;
  title: string;
  why: string;
}

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
        `Nothing can be changed now, because a change was interrupted: ${first.title}. ${first.why}`,
        'Fix the cause and choose “Try again”.',
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
      const { files, records, rows } = this.parts;
      this.refuseWhileUnsettled();
      if (plan.clashes.length > 0) {
        throw new Fault('clash', plan.clashes[0]!.why, 'Change the plan and try again.', plan.clashes);
      }
      const marks = await files.compare(plan, following);
      await records.refuseOtherSettings(plan);
      plan.makes = await this.parts.folder.missing(await foldersNeeded(plan));
      const now = this.parts.now();
      if (records.isShort(plan)) return records.applyShort(plan, personId, now, following);
      await records.refuseStaleRecords(plan);
      const id = await rows.beginLong(plan, personId, now, following);
      const made: string[] = [];
      try {
        await files.stage(id, plan, made, following);
        this.parts.onStep?.('switching');
        rows.setState(id, 'switching');
      } catch (error) {
        await this.settle(id, plan, () => this.unstage(id, plan, made), error);
        throw toldFault(error);
      }
      try {
        await files.switchOver(id, plan, marks, following);
        await following.switched?.();
        await records.finish(id, plan, personId, now, following);
      } catch (error) {
        await this.settle(id, plan, () => this.takeBack(id, plan, personId, made), error);
        throw toldFault(error);
      }
      this.parts.onStep?.('after');
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
            await this.parts.files.switchOver(id, plan, new Map(), {});
            await this.parts.records.finish(id, plan, personId, this.parts.now(), {});
          };
          const takeBack = () => this.takeBack(id, plan, personId);
          const ways = back ? [takeBack, complete] : [complete, takeBack];
          await this.tryTo(id, plan, ...ways);
        }
        const unsettled = this.open.get(id);
        const how = unsettled
          ? `Still not resolved: ${unsettled.why}`
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
        throw new Fault('not-found', 'This change is already resolved.', 'Reload the page.');
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

  /** Ends an entry of which nothing has been put in place. */
  private async unstage(id: number, plan: Plan, made: readonly string[] = []): Promise<void> {
    await this.parts.files.unstage(id, plan, made);
    this.parts.rows.setState(id, 'taken-back');
  }

  /** Takes back whatever of an entry has been done: files first, then records. */
  private async takeBack(
    id: number,
    plan: Plan,
    personId: number,
    made: readonly string[] = [],
  ): Promise<void> {
    this.parts.rows.setBack(id);
    await this.parts.files.takeBack(id, plan);
    await this.parts.forget(plan.files);
    await this.parts.records.takeBack(id, plan, personId);
    await this.unstage(id, plan, made);
  }
}
