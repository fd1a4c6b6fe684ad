import { REDIRECTS_FILE } from '../../core/address/redirects.ts';
import { contentsOf } from '../../core/plan/draft-content.ts';
import type { FileStep, Plan, RecordStep } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import { whereFrom } from './acting.ts';
import type { Db } from './database.ts';
import { breathe } from '../workers/breathe.ts';
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
  /** Who approved what the person had proposed. */
  approver: string | null;
  /** Where it came from: 'window', 'job', a token by its name; '': it wasn't noted yet. */
  via: string;
}

/** What is to be remembered with a change. */
export interface EntryAbout {
  note?: string | undefined;
  /** Who approved it, where another had proposed it. */
  approvedBy?: number | undefined;
}

/** Everything that a plan touches: files, records, settings. */
function* touchedBy(plan: Plan): Generator<string> {
  for (const step of plan.files)
    if (step.do === 'move') {
      yield `file ${step.from}`;
      yield `file ${step.to}`;
    } else yield `file ${step.path}`;
  for (const step of plan.records) yield `record ${step.itemId}`;
  for (const step of plan.settings ?? []) yield `${step.namespace} ${step.key}`;
}

/** Hashes of bytes that a plan writes over, and of those that it writes: undone and done again, they are needed. */
function* bytesOf(plan: Plan): Generator<string> {
  for (const step of plan.files) {
    if (step.do !== 'write') continue;
    if (step.before !== null) yield step.before;
    if (step.after !== null) yield step.after;
  }
  for (const step of plan.records) yield* contentsOf(step);
}

/** A longer list of a plan is kept in parts, each of so many at most, and hardly longer than so many characters. */
const PART = 250;
const PART_LENGTH = 100_000;

/** A plan without its long lists, as JSON, and those lists in parts. */
function textOf(plan: Plan): {
  head: string;
  parts: Generator<{ list: string; number: number; steps: string }>;
} {
  const long = Object.entries(plan).filter(
    (entry): entry is [string, unknown[]] => Array.isArray(entry[1]) && entry[1].length > PART,
  );
  const empty = Object.fromEntries(long.map(([list]) => [list, []]));
  function* parts() {
    for (const [list, steps] of long) {
      let [number, texts, length]: [number, string[], number] = [0, [], 0];
      for (const [at, step] of steps.entries()) {
        const text = JSON.stringify(step);
        texts.push(text);
        length += text.length;
        if (texts.length < PART && length < PART_LENGTH && at < steps.length - 1) continue;
        yield { list, number: number++, steps: `[${texts.join(',')}]` };
        [texts, length] = [[], 0];
      }
    }
  }
  return { head: JSON.stringify({ ...plan, ...empty }), parts: parts() };
}

type WriteStep = Extract<FileStep, { do: 'write' }>;
/** An entry with what it did to one item. */
export interface TouchingEntry extends LedgerEntry {
  record: RecordStep | undefined;
  writes: WriteStep[];
}

const COLUMNS = `ledger.id, at, person.name as person, kind, title, state, items, pages, bytes, undoes, undone_by as undoneBy, note,
  (select other.name from person as other where other.id = approved_by) as approver, via`;

/** Texts that stand beside an entry and are written in one transaction. */
const NOTED_AT_ONCE = 100;
/** Milliseconds, after which the transaction ends. */
const NOTED_WITHIN = 8;
/** A list of the plan of an entry, whole or in parts; what is damaged is passed over. */
const stepsOf = (list: string) => `
  select coalesce(ledger_plan.plan ->> '$.${list}', '[]') as steps
  union all
  select case when json_valid(steps) then steps else '[]' end from ledger_part
    where entry_id = ledger.id and list = '${list}'`;
const planOf = (id: number) => `change ${id} of the ledger`;
const damaged = (id: number) =>
  new Fault(
    'bad-request',
    `Change ${id} can’t be read: it is damaged in the database.`,
    'Restore the data folder from a backup.',
  );

/**
 * Rows of applied changes. Beside each stands what it touched ('file path', 'record id' and such), which bytes it could bring back, and
 * the long lists of its plan, in parts.
 */
export class LedgerRows {
  constructor(private readonly db: Db) {}

  /** Begins an entry, all at once: for a plan that is short. */
  begin(plan: Plan, personId: number, at: string, about: EntryAbout = {}): number {
    const { head, parts } = textOf(plan);
    const id = this.insert(plan, head, personId, at, about, 'staging');
    for (const act of this.notes(id, plan, parts)) act();
    return id;
  }

  /** Begins an entry of any length. Until all of it is written, it counts as taken back: nothing has been done of it. */
  async beginLong(plan: Plan, personId: number, at: string, about: EntryAbout = {}): Promise<number> {
    const { head, parts } = textOf(plan);
    const id = this.insert(plan, head, personId, at, about, 'taken-back');
    const notes = this.notes(id, plan, parts);
    const some = (): boolean => {
      const start = performance.now();
      for (let acts = 0; acts < NOTED_AT_ONCE && performance.now() - start < NOTED_WITHIN; acts++) {
        const { done, value: act } = notes.next();
        if (done) return false;
        act();
      }
      return true;
    };
    while (this.db.write(some)) await breathe();
    this.setState(id, 'staging');
    return id;
  }

  /** What stands beside an entry, each as the act that writes it. */
  private *notes(id: number, plan: Plan, parts: ReturnType<typeof textOf>['parts']): Generator<() => void> {
    const part = 'insert into ledger_part (entry_id, list, number, steps) values (?, ?, ?, ?)';
    for (const { list, number, steps } of parts) yield () => this.db.run(part, id, list, number, steps);
    const touch = 'insert into ledger_touch (entry_id, what) values (?, ?) on conflict do nothing';
    for (const what of touchedBy(plan)) yield () => this.db.run(touch, id, what);
    const bytes = 'insert into ledger_bytes (entry_id, sha256) values (?, ?) on conflict do nothing';
    for (const sha256 of bytesOf(plan)) yield () => this.db.run(bytes, id, sha256);
  }

  private insert(
    plan: Plan,
    head: string,
    personId: number,
    at: string,
    { note = '', approvedBy }: EntryAbout,
    state: LedgerEntry['state'],
  ): number {
    const done = this.db.run(
      `insert into ledger (at, person_id, kind, title, state, items, pages, bytes, undoes, note, approved_by, via)
         values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
      at,
      personId,
      plan.kind,
      plan.title,
      state,
      plan.totals.items,
      plan.totals.pages,
      plan.totals.bytesFreed,
      plan.undoes ?? null,
      note,
      approvedBy ?? null,
      whereFrom(),
    );
    const id = Number(done.lastInsertRowid);
    this.db.run('insert into ledger_plan (entry_id, plan) values (?, ?)', id, head);
    return id;
  }

  /** A change could bring these bytes back. */
  needs(sha256: string): boolean {
    return this.db.get('select 1 from ledger_bytes where sha256 = ? limit 1', sha256) !== undefined;
  }

  setNote(id: number, note: string): void {
    this.db.run('update ledger set note = ? where id = ?', note, id);
  }

  /** How many of its records, and then of its settings, an entry has changed so far. */
  recordsDone(id: number): number {
    return this.db.value<number>('select records_done from ledger where id = ?', id)!;
  }

  /** Whether all files that stood in each other's way have gone aside. */
  isCleared(id: number): boolean {
    return this.db.value('select cleared from ledger where id = ?', id) === 1;
  }

  setCleared(id: number): void {
    this.db.run('update ledger set cleared = 1 where id = ?', id);
  }

  setRecordsDone(id: number, done: number): void {
    this.db.run('update ledger set records_done = ? where id = ?', done, id);
  }

  /**
   * Entries that touched a record or one of some files, the newest first, each with what it did to them alone: a plan of
   * thousands is not read whole for one of them. Asked on the reader's thread.
   */
  async touching(reader: Reader, itemId: number, paths: readonly string[]): Promise<TouchingEntry[]> {
    const what = [`record ${itemId}`, ...paths.map((path) => `file ${path}`)];
    const rows = await reader.rows<LedgerEntry & { record: string | null; writes: string }>(
      `select ${COLUMNS},
         (select step.value from (${stepsOf('records')}) as part, json_each(part.steps) as step
           where step.value ->> 'itemId' = @itemId limit 1) as record,
         (select json_group_array(json(step.value)) from (${stepsOf('files')}) as part, json_each(part.steps) as step
           where step.value ->> 'do' = 'write'
             and step.value ->> 'path' in (select value from json_each(@paths))) as writes
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
    this.db.run('update ledger set state = ?, unsettled = null where id = ?', state, id);
  }

  stateOf(id: number): LedgerEntry['state'] {
    return this.db.value<LedgerEntry['state']>('select state from ledger where id = ?', id)!;
  }

  /** From here on it is taken back, not completed. */
  setBack(id: number): void {
    this.db.run('update ledger set back = 1 where id = ?', id);
  }

  /** Notes why an entry could be neither completed nor taken back. */
  setUnsettled(id: number, why: string): void {
    this.db.run('update ledger set unsettled = ? where id = ?', why, id);
  }

  /** Ends an entry with the files as they are; why stays in its note. */
  leave(id: number): void {
    this.db.run(
      `update ledger set state = 'taken-back', note = trim(note || ' Left half done: ' || coalesce(unsettled, '')), unsettled = null
         where id = ?`,
      id,
    );
  }

  /** Marks an entry done and, for an undo, the entry that it undoes. An undone undo makes the first entry count again. */
  finish(id: number, plan: Plan): void {
    this.setState(id, 'done');
    if (plan.undoes === undefined) return;
    for (const undone of [plan.undoes, ...(plan.undoesToo ?? [])]) {
      this.db.run('update ledger set undone_by = ? where id = ?', id, undone);
      this.db.run('update ledger set undone_by = null where undone_by = ?', undone);
    }
  }

  /** Entries that have begun and not ended. */
  async unfinished(): Promise<
    { id: number; state: LedgerEntry['state']; personId: number; plan: Plan; back: boolean }[]
  > {
    const rows = this.db.all<{
      id: number;
      state: LedgerEntry['state'];
      personId: number;
      back: number;
    }>(`select id, state, person_id as personId, back from ledger
         where state in ('staging', 'switching') order by id`);
    const found: Awaited<ReturnType<LedgerRows['unfinished']>> = [];
    for (const row of rows) {
      const { plan } = (await this.read(row.id))!;
      found.push({ ...row, back: row.back === 1, plan });
    }
    return found;
  }

  /** An entry with its whole plan. @throws Fault when it is damaged */
  async read(id: number): Promise<(LedgerEntry & { plan: Plan }) | undefined> {
    const row = this.db.get<LedgerEntry & { plan: string }>(
      `select ${COLUMNS}, plan from ledger join person on person.id = ledger.person_id
         join ledger_plan on entry_id = ledger.id where ledger.id = ?`,
      id,
    );
    if (!row) return undefined;
    const read = <Value>(text: string): Value => {
      const value = storedJson<Value | null>(text, null, planOf(id));
      if (value === null) throw damaged(id);
      return value;
    };
    const plan = read<Plan>(row.plan);
    const next = `select list, number, steps from ledger_part where entry_id = ? and (list, number) > (?, ?)
       order by list, number limit 1`;
    type Part = { list: string; number: number; steps: string };
    for (let part = this.db.get<Part>(next, id, '', -1); part;) {
      const list = (plan as unknown as Record<string, unknown[]>)[part.list]!;
      for (const step of read<unknown[]>(part.steps)) list.push(step);
      await breathe();
      part = this.db.get<Part>(next, id, part.list, part.number);
    }
    return { ...row, plan };
  }

  list(limit: number, before?: number): LedgerEntry[] {
    return this.db.all<LedgerEntry>(
      `select ${COLUMNS} from ledger join person on person.id = ledger.person_id
         where state = 'done' and ledger.id < ? order by ledger.id desc limit ?`,
      before ?? Number.MAX_SAFE_INTEGER,
      limit,
    );
  }

  /** Numbers of the entries that changed one of some items, or said something about it. */
  about(itemIds: readonly number[]): number[] {
    return this.db
      .all<{ id: number }>(
        `select distinct entry_id as id from json_each(?) as item join ledger_touch
           on what = 'record ' || item.value or (what >= 'comment ' || item.value || ' ' and what < 'comment ' || item.value || '!')`,
        JSON.stringify(itemIds),
      )
      .map(({ id }) => id);
  }

  /** Changes since a moment. */
  countSince(at: string): number {
    return this.db.value<number>("select count(*) from ledger where state = 'done' and at > ?", at)!;
  }

  count(): number {
    return this.db.value<number>("select count(*) from ledger where state = 'done'")!;
  }

  /** Later entries, still in force, that touched the same files or records. */
  laterThan(id: number): LedgerEntry[] {
    return this.db.all<LedgerEntry>(
      `select distinct ${COLUMNS} from ledger_touch as mine
         join ledger_touch as theirs on theirs.what = mine.what and theirs.entry_id > mine.entry_id
         join ledger on ledger.id = theirs.entry_id join person on person.id = ledger.person_id
         where mine.entry_id = ? and ledger.state = 'done' and ledger.undone_by is null
           and (ledger.undoes is null or ledger.undoes < ?)
         order by ledger.id`,
      id,
      id,
    );
  }

  /** Later entries that touch what an entry touched, and those that touch what they did: with all of them, it can be taken back. */
  restingOn(id: number): LedgerEntry[] {
    return this.db.all<LedgerEntry>(
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
      { id, redirects: REDIRECTS_FILE },
    );
  }
}
