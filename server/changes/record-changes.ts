import { each, filter, setOf } from '../../core/paced.ts';
import { inverseSettings } from '../../core/plan/inverse.ts';
import { sameValue, seenOnce } from '../../core/plan/settings.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import type { Db } from '../db/database.ts';
import type { ItemRecords } from '../db/item-records.ts';
import type { EntryAbout, LedgerRows } from '../db/ledger.ts';
import type { Settings } from '../db/settings.ts';
import { breathe } from '../workers/breathe.ts';
import type { ApplyOptions } from './apply-options.ts';
import type { OnStep } from './file-changes.ts';

export interface RecordChangeParts {
  db: Db;
  rows: LedgerRows;
  records: ItemRecords;
  settings: Settings;
  now: () => string;
  onStep?: OnStep | undefined;
}

/** So many records or settings are changed between two breaths of the server's thread; a plan with more goes on in slices. */
const SLICE = 100;

/** The records and settings of a ledger entry: changed, and changed back. */
export class RecordChanges {
  constructor(private readonly parts: RecordChangeParts) {}

  /** Whether one transaction is all that a plan takes. */
  isShort(plan: Plan): boolean {
    return plan.files.length === 0 && changesOf(plan) <= SLICE;
  }

  /** Applies a short plan, as an entry that is done. @returns its id. @throws Fault 'stale-record' */
  async applyShort(plan: Plan, personId: number, now: string, about: EntryAbout): Promise<number> {
    const { db, rows } = this.parts;
    const exchanged = await exchangedBy(plan);
    return db.write(() => {
      const id = rows.begin(plan, personId, now, about);
      this.change(plan, 0, changesOf(plan), { personId, now, exchanged });
      rows.finish(id, plan);
      return id;
    });
  }

  /** @throws Fault 'moved-on' */
  async refuseOtherSettings({ settings = [] }: Plan): Promise<void> {
    // Within one plan a key may come twice: then the later step starts from what the earlier one leaves.
    const once = await seenOnce(settings, breathe);
    for (const step of settings) {
      await breathe();
      if (sameValue(this.parts.settings.get(step.namespace, step.key), step.before) || !once(step)) continue;
      throw new Fault(
        'moved-on',
        `Someone changed “${step.key}” in the meantime.`,
        'Review the changes again.',
      );
    }
  }

  /** @throws Fault 'stale-record' */
  async refuseStaleRecords({ records: steps }: Plan): Promise<void> {
    for (let at = 0; at < steps.length; at += SLICE) {
      const stale = this.parts.records.newerThan(steps.slice(at, at + SLICE));
      if (stale !== undefined) throw this.parts.records.staleRecord(stale);
      await breathe();
    }
  }

  /** The records and settings, in slices; how many are done is kept with each, so that a crash between them goes on from there. */
  async finish(
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
        this.parts.onStep?.(`records ${at}`);
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
    this.parts.onStep?.('commit');
    db.write(() => {
      this.change(plan, rows.recordsDone(id), total, changing);
      rows.finish(id, plan);
    });
  }

  /** Changes back those that have been changed. */
  async takeBack(id: number, plan: Plan, personId: number): Promise<void> {
    const { db, rows, records } = this.parts;
    const exchanged = await exchangedBy(plan);
    const changing = { personId, now: this.parts.now(), exchanged };
    for (let done = rows.recordsDone(id); done > 0; done = Math.max(0, done - SLICE)) {
      this.parts.onStep?.(`records back ${done}`);
      db.write(() => {
        const left = Math.max(0, done - SLICE);
        this.changeBack(plan, left, done, changing);
        rows.setRecordsDone(id, left);
      });
      await breathe();
    }
    // Those that stood in the way of others, and whose own turn had not come.
    await each(plan.records, breathe, ({ itemId, before }) => {
      if (before.path !== undefined && exchanged.has(itemId)) records.returnTo(itemId, before.path);
    });
  }

  /** Changes some records, and some settings: all are counted in this order. */
  private change(plan: Plan, from: number, to: number, { personId, now, exchanged }: Changing): void {
    const { records, settings } = this.parts;
    for (const step of plan.records.slice(from, to)) records.apply(step, personId, now, exchanged);
    const before = plan.records.length;
    for (const step of (plan.settings ?? []).slice(Math.max(0, from - before), Math.max(0, to - before)))
      settings.set(step, personId, now);
  }

  /** The same, back to how they were. */
  private changeBack(plan: Plan, from: number, to: number, { personId, now, exchanged }: Changing): void {
    const { records, settings } = this.parts;
    const before = plan.records.length;
    for (const step of inverseSettings(
      (plan.settings ?? []).slice(Math.max(0, from - before), Math.max(0, to - before)),
    ))
      settings.set(step, personId, now);
    for (const step of plan.records.slice(from, to).reverse()) {
      const rowVersion = records.versionOf(step.itemId);
      records.apply(
        { ...step, rowVersion, before: step.after, after: step.before },
        personId,
        now,
        exchanged,
      );
    }
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
