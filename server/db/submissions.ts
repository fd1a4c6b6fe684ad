import { storedJson } from './stored-json.ts';
import type { SettingStep, SettingValue } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import type { Db } from './database.ts';

export const SUBMISSION_STATES = ['waiting', 'returned', 'applied', 'withdrawn'] as const;
export type SubmissionState = (typeof SUBMISSION_STATES)[number];

/** A plan that somebody proposes to others. */
export interface SubmissionRow {
  id: number;
  at: string;
  personId: number;
  person: string;
  /** Of the plan that is asked for. */
  kind: string;
  title: string;
  items: number;
  pages: number;
  note: string;
  state: SubmissionState;
  /** Why it was sent back. */
  answer: string;
  answeredAt: string | null;
  answeredBy: string | null;
  /** The change that came of it. */
  entryId: number | null;
}

/** What plans change about a proposal. */
export interface SubmissionValue {
  state: SubmissionState;
  /** Why it was sent back. */
  answer: string;
}

/** What a plan was computed from: versions of records by id, hashes of files by path. */
export interface SubmittedRests {
  records: [id: number, rowVersion: number][];
  files: [path: string, sha256: string | null][];
}

const COLUMNS = `submission.id, at, person_id as personId, person.name as person, kind, title, items, pages, note, state, answer,
  answered_at as answeredAt, (select name from person as other where other.id = answered_by) as answeredBy, entry_id as entryId`;
const FROM = 'from submission join person on person.id = submission.person_id';

/** Plans that wait for somebody else's approval, and those that have been answered. */
export class Submissions {
  constructor(private readonly db: Db) {}

  /** Withdrawn as yet: a plan lets it wait. */
  add(
    one: Pick<SubmissionRow, 'at' | 'personId' | 'kind' | 'title' | 'items' | 'pages' | 'note'> & {
      request: object;
      rests: SubmittedRests;
    },
  ): number {
    const done = this.db.run(
      `insert into submission (at, person_id, kind, request, title, items, pages, note, rests, state)
         values (?, ?, ?, ?, ?, ?, ?, ?, ?, 'withdrawn')`,
      one.at,
      one.personId,
      one.kind,
      JSON.stringify(one.request),
      one.title,
      one.items,
      one.pages,
      one.note,
      JSON.stringify(one.rests),
    );
    return Number(done.lastInsertRowid);
  }

  /** What is to be proposed again, of what was sent back. @returns whether it was still sent back */
  again(
    id: number,
    one: Pick<SubmissionRow, 'at' | 'title' | 'items' | 'pages' | 'note'> & { rests: SubmittedRests },
  ): boolean {
    const done = this.db.run(
      `update submission set at = @at, title = @title, items = @items, pages = @pages, note = @note,
         rests = @rests where id = @id and state = 'returned'`,
      { ...one, rests: JSON.stringify(one.rests), id },
    );
    return done.changes === 1;
  }

  get(id: number): SubmissionRow | undefined {
    return this.db.get<SubmissionRow>(`select ${COLUMNS} ${FROM} where submission.id = ?`, id);
  }

  value(key: string): SettingValue {
    return (
      (this.db.get<SubmissionValue>('select state, answer from submission where id = ?', Number(key)) as
        (SubmissionValue & { [key: string]: unknown }) | undefined) ?? null
    );
  }

  /** @throws Fault 'clash' when somebody has answered it meanwhile */
  setValue({ key, before, after }: SettingStep, personId: number, now: string): void {
    const [was, becomes] = [before, after] as unknown as [SubmissionValue, SubmissionValue];
    const to = { state: becomes.state, at: now, by: personId, answer: becomes.answer };
    if (!this.answer(Number(key), [was.state], to))
      throw new Fault('clash', 'This proposal has been answered already.', 'Reload the list.');
  }

  /** Whose it is: their number. */
  proposer(key: string): SettingValue {
    const id = this.db.value<number>('select person_id from submission where id = ?', Number(key));
    return id === undefined ? null : String(id);
  }

  setProposer(key: string, personId: SettingValue): void {
    this.db.run('update submission set person_id = ? where id = ?', Number(personId), Number(key));
  }

  /** Whether one of its items is a draft. */
  isAboutDrafts(id: number): boolean {
    return (
      this.db.value(
        `select 1 from submission, json_each(submission.rests, '$.records') as one join item on item.id = one.value ->> 0
           where submission.id = ? and item.state = 'draft' limit 1`,
        id,
      ) !== undefined
    );
  }

  /** What is to be planned, as it was asked for. */
  request(id: number): unknown {
    const text = this.db.value<string>('select request from submission where id = ?', id)!;
    return storedJson<unknown>(text, null, `proposal ${id}`);
  }

  rests(id: number): SubmittedRests {
    const text = this.db.value<string>('select rests from submission where id = ?', id)!;
    return storedJson<SubmittedRests>(text, { records: [], files: [] }, `what proposal ${id} rests on`);
  }

  /** Those of somebody that are not done with. */
  openOf(personId: number): number[] {
    return this.db.values<number>(
      "select id from submission where person_id = ? and state in ('waiting', 'returned') order by id",
      personId,
    );
  }

  /** Those that wait, the oldest first. */
  waiting(): SubmissionRow[] {
    return this.db.all<SubmissionRow>(
      `select ${COLUMNS} ${FROM} where state = 'waiting' order by submission.id limit 500`,
    );
  }

  /** Those that wait and change this item's record, the oldest first. */
  about(itemId: number): SubmissionRow[] {
    return this.db.all<SubmissionRow>(
      `select ${COLUMNS} ${FROM} where state = 'waiting' and exists
         (select 1 from json_each(submission.rests, '$.records') as one where one.value ->> 0 = ?)
         order by submission.id limit 20`,
      itemId,
    );
  }

  /** Those of a person, the newest first; what has been withdrawn is not among them. */
  of(personId: number): SubmissionRow[] {
    return this.db.all<SubmissionRow>(
      `select ${COLUMNS} ${FROM} where person_id = ? and state <> 'withdrawn' order by submission.id desc limit 100`,
      personId,
    );
  }

  /** @returns whether it was still waiting, or had been sent back */
  answer(
    id: number,
    from: readonly SubmissionState[],
    to: { state: SubmissionState; at: string; by: number; answer?: string; entryId?: number },
  ): boolean {
    const done = this.db.run(
      `update submission set state = @state, answered_at = @at, answered_by = @by, answer = @answer, entry_id = @entryId
         where id = @id and state in (select value from json_each(@from))`,
      {
        id,
        from: JSON.stringify(from),
        state: to.state,
        at: to.at,
        by: to.by,
        answer: to.answer ?? '',
        entryId: to.entryId ?? null,
      },
    );
    return done.changes === 1;
  }
}
