import { may } from '../../core/people/rights.ts';
import type { Db } from './database.ts';
import { storedJson } from './stored-json.ts';

export interface Person {
  id: number;
  name: string;
  role: string;
  /** Where they may do what their role says; none: on the whole site. */
  folders: string[];
}

/** A person as the steward sees one. */
export interface PersonRow extends Person {
  hasPassword: boolean;
  endedAt: string | null;
  /** When a window of theirs was last seen, in milliseconds since 1970; null: none is signed in. */
  seenAt: number | null;
}

type Stored = Omit<Person, 'folders'> & { folders: string };
const PERSON = 'select id, name, role, folders from person';
const personOf = <Row extends Stored>(row: Row): Omit<Row, 'folders'> & { folders: string[] } => ({
  ...row,
  folders: storedJson<string[]>(row.folders, [], `the folders of person ${row.id}`),
});

/** The people of a site, in a table; every change carries one. */
export class People {
  constructor(private readonly db: Db) {}

  /** Those who work here; who has ended is not among them. */
  all(): Person[] {
    return this.db.all<Stored>(`${PERSON} where ended_at is null order by id`).map(personOf);
  }

  /** Undefined: there is none, or they have ended. */
  get(id: number): Person | undefined {
    const row = this.db.get<Stored>(`${PERSON} where id = ? and ended_at is null`, id);
    return row && personOf(row);
  }

  /** By name, whatever its case; `password`: its hash. */
  byName(name: string): (Person & { password: string | null }) | undefined {
    const found = this.all().find((one) => sameName(one.name, name));
    return found && { ...found, password: this.password(found.id) };
  }

  /** With those who have ended. */
  rows(): PersonRow[] {
    return this.db
      .all<Omit<PersonRow, 'hasPassword' | 'folders'> & { hasPassword: number; folders: string }>(
        `select id, name, role, folders, password is not null as hasPassword, ended_at as endedAt,
           (select max(seen_at) from session where person_id = person.id) as seenAt
         from person order by ended_at is not null, id`,
      )
      .map((row) => ({ ...personOf(row), hasPassword: row.hasPassword === 1 }));
  }

  /** The hash of a person's password. */
  password(id: number): string | null {
    return this.db.value<string | null>('select password from person where id = ?', id) ?? null;
  }

  /** Adds the first people of a new data folder. */
  seed(people: readonly { name: string; role: string }[], now: string): void {
    const insert = 'insert into person (name, role, added_at) values (?, ?, ?) on conflict (name) do nothing';
    for (const one of people) this.db.run(insert, one.name, one.role, now);
  }

  /** Whether nobody has been told of yet. */
  get empty(): boolean {
    return this.db.value('select 1 from person limit 1') === undefined;
  }

  add(name: string, role: string, now: string): number {
    return Number(
      this.db.run('insert into person (name, role, added_at) values (?, ?, ?)', name, role, now)
        .lastInsertRowid,
    );
  }

  /** With this number, and no role yet. */
  addAs(id: number, name: string, now: string): void {
    this.db.run(`insert into person (id, name, role, added_at) values (?, ?, '', ?)`, id, name, now);
  }

  /** Whether somebody with a password answers for all. */
  get isAnswered(): boolean {
    return this.rows().some((one) => one.endedAt === null && one.hasPassword && may(one.role, 'people'));
  }
  /** The same, with or without a password. */
  get hasSteward(): boolean {
    return this.all().some((one) => may(one.role, 'people'));
  }

  setName(id: number, name: string): void {
    this.db.run('update person set name = ? where id = ?', name, id);
  }
  setPassword(id: number, hash: string): void {
    this.db.run('update person set password = ? where id = ?', hash, id);
  }
  setRole(id: number, role: string, folders: readonly string[] = []): void {
    this.db.run('update person set role = ?, folders = ? where id = ?', role, JSON.stringify(folders), id);
  }
  end(id: number, at: string | null): void {
    this.db.run('update person set ended_at = ? where id = ?', at, id);
  }
}

/** Two that people would take for the same. */
export const sameName = (one: string, other: string): boolean => plain(one) === plain(other);
const plain = (name: string) => name.normalize('NFC').trim().toLowerCase();
