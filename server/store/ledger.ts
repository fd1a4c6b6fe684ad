import { REDIRECTS_FILE } from '../../core/address/redirects.ts';
import type { FileStep, Plan, RecordStep } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import type { Db } from './database.ts';
import { readLargeJson } from '../work/json.ts';
import { storedJson } from './stored-json.ts';
import type { Reader } from './reader.ts';

export interface LedgerEntry {
  id: number;
  at: string;
  person: string;
  kind: Plan['kind'];
  title: string;
  state: 'staging' | 'switching' | 'done' | 'taken-back';
  items: number;
  pages: number;
  bytes: number;
  undoes: number | null;
  undoneBy: number | null;
  /** What the person wanted to be remembered with it. */
  note: string;
}

/** Everything that a plan touches: files, records, settings. */
export function touchedBy(plan: Plan): string[] {
  return [
    ...plan.files
      .flatMap((step) => (step.do === 'move' ? [step.from, step.to] : [step.path]))
      .map((path) => `file ${path}`),
    ...plan.records.map((step) => `record ${step.itemId}`),
    ...(plan.settings ?? []).map((step) => `${step.room} ${step.key}`),
  ];
}

type WriteStep = Extract<FileStep, { do: 'write' }>;
/** An entry with what it did to one item. */
export interface TouchingEntry extends LedgerEntry {
  record: RecordStep | undefined;
  writes: WriteStep[];
}

const COLUMNS = `ledger.id, at, person.name as person, kind, title, state, items, pages, bytes, undoes, undone_by as undoneBy, note`;

/** Characters of a plan that are read at once. */
const LONG = 200_000;
const planOf = (id: number) => `change ${id} of the ledger`;
const damaged = (id: number) =>
  new Fault(
    'bad-request',
    `What change ${id} did cannot be read: it is damaged in the database.`,
    'Restore the data folder from a backup.',
  );

/** Rows of applied changes. What an entry touched is kept beside it: 'file path' and 'record id'. */
export class LedgerRows {
  constructor(private readonly db: Db) {}

  /** Begins an entry; what it touches is noted with `touch`. @param text the plan as JSON */
  begin(plan: Plan, personId: number, at: string, note = '', text = JSON.stringify(plan)): number {
    const done = this.db
      .prepare(
        `insert into ledger (at, person_id, kind, title, state, items, pages, bytes, undoes, note)
         values (?, ?, ?, ?, 'staging', ?, ?, ?, ?, ?)`,
      )
      .run(
        at,
        personId,
        plan.kind,
        plan.title,
        plan.totals.items,
        plan.totals.pages,
        plan.totals.bytesFreed,
        plan.undoes ?? null,
        note,
      );
    const id = Number(done.lastInsertRowid);
    this.db.prepare('insert into ledger_plan (entry_id, plan) values (?, ?)').run(id, text);
    return id;
  }

  /** Notes what an entry touches. */
  touch(id: number, touched: readonly string[]): void {
    const touch = this.db.prepare(
      'insert into ledger_touch (entry_id, what) values (?, ?) on conflict do nothing',
    );
    for (const one of touched) touch.run(id, one);
  }

  setNote(id: number, note: string): void {
    this.db.prepare('update ledger set note = ? where id = ?').run(note, id);
  }

  /** How many of its records an entry has changed so far. */
  recordsDone(id: number): number {
    return this.db.prepare('select records_done from ledger where id = ?').pluck().get(id) as number;
  }

  /** Whether all files that stood in each other's way have gone aside. */
  isCleared(id: number): boolean {
    return this.db.prepare('select cleared from ledger where id = ?').pluck().get(id) === 1;
  }

  setCleared(id: number): void {
    this.db.prepare('update ledger set cleared = 1 where id = ?').run(id);
  }

  setRecordsDone(id: number, done: number): void {
    this.db.prepare('update ledger set records_done = ? where id = ?').run(done, id);
  }

  /**
   * Entries that touched a record or one of some files, the newest first, each with what it did to them alone: a plan of
   * thousands is not read whole for one of them. Asked on the reader's thread.
   */
  async touching(reader: Reader, itemId: number, paths: readonly string[]): Promise<TouchingEntry[]> {
    const what = [`record ${itemId}`, ...paths.map((path) => `file ${path}`)];
    const rows = await reader.rows<LedgerEntry & { record: string | null; writes: string }>(
      `select ${COLUMNS},
         (select value from json_each(ledger_plan.plan, '$.records')
           where json_extract(value, '$.itemId') = @itemId limit 1) as record,
         (select json_group_array(json(value)) from json_each(ledger_plan.plan, '$.files')
           where json_extract(value, '$.do') = 'write'
             and json_extract(value, '$.path') in (select value from json_each(@paths))) as writes
       from ledger join person on person.id = ledger.person_id join ledger_plan on entry_id = ledger.id
       where state = 'done' and json_valid(ledger_plan.plan) and ledger.id in (select entry_id from ledger_touch
         where what in (select value from json_each(@what))) order by ledger.id desc limit 200`,
      { itemId, paths: JSON.stringify(paths), what: JSON.stringify(what) },
    );
    return rows.map(({ record, writes, ...row }) => ({
      ...row,
      record: record === null ? undefined : (JSON.parse(record) as RecordStep),
      writes: JSON.parse(writes) as WriteStep[],
    }));
  }

  setState(id: number, state: LedgerEntry['state']): void {
    this.db.prepare('update ledger set state = ?, unsettled = null where id = ?').run(state, id);
  }

  stateOf(id: number): LedgerEntry['state'] {
    return this.db.prepare('select state from ledger where id = ?').pluck().get(id) as LedgerEntry['state'];
  }

  /** From here on it is taken back, not completed. */
  setBack(id: number): void {
    this.db.prepare('update ledger set back = 1 where id = ?').run(id);
  }

  /** Notes why an entry could be neither completed nor taken back. */
  setUnsettled(id: number, why: string): void {
    this.db.prepare('update ledger set unsettled = ? where id = ?').run(why, id);
  }

  /** Ends an entry with the files as they are; why stays in its note. */
  leave(id: number): void {
    this.db
      .prepare(
        `update ledger set state = 'taken-back', note = trim(note || ' Left half done: ' || coalesce(unsettled, '')), unsettled = null
         where id = ?`,
      )
      .run(id);
  }

  /** Marks an entry done and, for an undo, the entry that it undoes. An undone undo makes the first entry count again. */
  finish(id: number, plan: Plan): void {
    this.setState(id, 'done');
    if (plan.undoes === undefined) return;
    for (const undone of [plan.undoes, ...(plan.undoesToo ?? [])]) {
      this.db.prepare('update ledger set undone_by = ? where id = ?').run(id, undone);
      this.db.prepare('update ledger set undone_by = null where undone_by = ?').run(undone);
    }
  }

  unfinished(): { id: number; state: LedgerEntry['state']; personId: number; plan: Plan; back: boolean }[] {
    const rows = this.db
      .prepare(
        `select id, state, person_id as personId, back, plan from ledger join ledger_plan on entry_id = id
         where state in ('staging', 'switching') order by id`,
      )
      .all() as { id: number; state: LedgerEntry['state']; personId: number; back: number; plan: string }[];
    return rows.map((row) => ({ ...row, back: row.back === 1, plan: JSON.parse(row.plan) as Plan }));
  }

  private row(id: number): (LedgerEntry & { plan: string }) | undefined {
    return this.db
      .prepare(
        `select ${COLUMNS}, plan from ledger join person on person.id = ledger.person_id
         join ledger_plan on entry_id = ledger.id where ledger.id = ?`,
      )
      .get(id) as (LedgerEntry & { plan: string }) | undefined;
  }

  get(id: number): (LedgerEntry & { plan: Plan }) | undefined {
    const row = this.row(id);
    const plan = row && storedJson<Plan | null>(row.plan, null, planOf(id));
    if (plan === null) throw damaged(id);
    return row && plan && { ...row, plan };
  }

  /** The same of a change of any size, while others go on. */
  async read(id: number): Promise<(LedgerEntry & { plan: Plan }) | undefined> {
    const row = this.row(id);
    if (!row || row.plan.length < LONG) return this.get(id);
    const read = await readLargeJson([new TextEncoder().encode(row.plan)]);
    if (!('value' in read)) return this.get(id);
    return { ...row, plan: read.value as Plan };
  }

  list(limit: number, before?: number): LedgerEntry[] {
    return this.db
      .prepare(
        `select ${COLUMNS} from ledger join person on person.id = ledger.person_id
         where state = 'done' and ledger.id < ? order by ledger.id desc limit ?`,
      )
      .all(before ?? Number.MAX_SAFE_INTEGER, limit) as LedgerEntry[];
  }

  /** Changes since a moment. */
  countSince(at: string): number {
    return this.db
      .prepare("select count(*) from ledger where state = 'done' and at > ?")
      .pluck()
      .get(at) as number;
  }

  count(): number {
    return this.db.prepare("select count(*) from ledger where state = 'done'").pluck().get() as number;
  }

  /** Later entries, still in force, that touched the same files or records. */
  laterThan(id: number): LedgerEntry[] {
    return this.db
      .prepare(
        `select distinct ${COLUMNS} from ledger_touch as mine
         join ledger_touch as theirs on theirs.what = mine.what and theirs.entry_id > mine.entry_id
         join ledger on ledger.id = theirs.entry_id join person on person.id = ledger.person_id
         where mine.entry_id = ? and ledger.state = 'done' and ledger.undone_by is null
           and (ledger.undoes is null or ledger.undoes < ?)
         order by ledger.id`,
      )
      .all(id, id) as LedgerEntry[];
  }

  /** Later entries that touch what an entry touched, and those that touch what they did: with all of them, it can be taken back. */
  restingOn(id: number): LedgerEntry[] {
    return this.db
      .prepare(
        `with recursive resting (id) as (
           select @id
           union
           select theirs.entry_id from resting
             join ledger_touch as mine on mine.entry_id = resting.id
             join ledger_touch as theirs on theirs.what = mine.what and theirs.entry_id > mine.entry_id
             join ledger on ledger.id = theirs.entry_id and ledger.state = 'done'
           where theirs.what <> 'file ' || @redirects)
         select ${COLUMNS} from resting join ledger on ledger.id = resting.id join person on person.id = ledger.person_id
         where ledger.id <> @id order by ledger.id`,
      )
      .all({ id, redirects: REDIRECTS_FILE }) as LedgerEntry[];
  }
}
