import type { Plan } from '../../core/plan/plan.ts';
import type { Db } from './database.ts';

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
}

const COLUMNS = `ledger.id, at, person.name as person, kind, title, state, items, pages, bytes, undoes, undone_by as undoneBy`;

/** Rows of applied changes. What an entry touched is kept beside it: 'file path' and 'record id'. */
export class LedgerRows {
  constructor(private readonly db: Db) {}

  begin(plan: Plan, personId: number, at: string): number {
    const done = this.db
      .prepare(
        `insert into ledger (at, person_id, kind, title, state, plan, items, pages, bytes, undoes)
         values (?, ?, ?, ?, 'staging', ?, ?, ?, ?, ?)`,
      )
      .run(
        at,
        personId,
        plan.kind,
        plan.title,
        JSON.stringify(plan),
        plan.totals.items,
        plan.totals.pages,
        plan.totals.bytesFreed,
        plan.undoes ?? null,
      );
    const id = Number(done.lastInsertRowid);
    const touch = this.db.prepare(
      'insert into ledger_touch (entry_id, what) values (?, ?) on conflict do nothing',
    );
    for (const step of plan.files) {
      for (const path of step.do === 'move' ? [step.from, step.to] : [step.path])
        touch.run(id, `file ${path}`);
    }
    for (const step of plan.records) touch.run(id, `record ${step.itemId}`);
    return id;
  }

  setState(id: number, state: LedgerEntry['state']): void {
    this.db.prepare('update ledger set state = ? where id = ?').run(state, id);
  }

  /** Marks an entry done and, for an undo, the entry that it undoes. An undone undo makes the first entry count again. */
  finish(id: number, plan: Plan): void {
    this.setState(id, 'done');
    if (plan.undoes === undefined) return;
    this.db.prepare('update ledger set undone_by = ? where id = ?').run(id, plan.undoes);
    this.db.prepare('update ledger set undone_by = null where undone_by = ?').run(plan.undoes);
  }

  unfinished(): { id: number; state: LedgerEntry['state']; personId: number; plan: Plan }[] {
    const rows = this.db
      .prepare(
        "select id, state, person_id as personId, plan from ledger where state in ('staging', 'switching') order by id",
      )
      .all() as { id: number; state: LedgerEntry['state']; personId: number; plan: string }[];
    return rows.map((row) => ({ ...row, plan: JSON.parse(row.plan) as Plan }));
  }

  get(id: number): (LedgerEntry & { plan: Plan }) | undefined {
    const row = this.db
      .prepare(
        `select ${COLUMNS}, plan from ledger join person on person.id = ledger.person_id where ledger.id = ?`,
      )
      .get(id) as (LedgerEntry & { plan: string }) | undefined;
    return row && { ...row, plan: JSON.parse(row.plan) as Plan };
  }

  list(limit: number, before?: number): LedgerEntry[] {
    return this.db
      .prepare(
        `select ${COLUMNS} from ledger join person on person.id = ledger.person_id
         where state = 'done' and ledger.id < ? order by ledger.id desc limit ?`,
      )
      .all(before ?? Number.MAX_SAFE_INTEGER, limit) as LedgerEntry[];
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
}
