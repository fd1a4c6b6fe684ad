import type { Db } from './database.ts';

export interface Person {
  id: number;
  name: string;
  role: string;
}

/** A person as the steward sees one. */
export interface PersonRow extends Person {
  hasPassword: boolean;
  endedAt: string | null;
  /** When a window of theirs was last seen, in milliseconds since 1970; null: none is signed in. */
  seenAt: number | null;
}

/** The people of a site, in a table; every change carries one. */
export class People {
  constructor(private readonly db: Db) {}

  /** Those who work here; who has ended is not among them. */
  all(): Person[] {
    return this.db.all<Person>('select id, name, role from person where ended_at is null order by id');
  }

  /** Undefined: there is none, or they have ended. */
  get(id: number): Person | undefined {
    return this.db.get<Person>('select id, name, role from person where id = ? and ended_at is null', id);
  }

  /** By name, whatever its case; `password`: its hash. */
  byName(name: string): (Person & { password: string | null }) | undefined {
    return this.db
      .all<Person & { password: string | null }>(
        'select id, name, role, password from person where ended_at is null order by id',
      )
      .find((one) => sameName(one.name, name));
  }

  /** With those who have ended. */
  rows(): PersonRow[] {
    return this.db
      .all<Omit<PersonRow, 'hasPassword'> & { hasPassword: number }>(
        `select id, name, role, password is not null as hasPassword, ended_at as endedAt,
           (select max(seen_at) from session where person_id = person.id) as seenAt
         from person order by ended_at is not null, id`,
      )
      .map((row) => ({ ...row, hasPassword: row.hasPassword === 1 }));
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

  setName(id: number, name: string): void {
    this.db.run('update person set name = ? where id = ?', name, id);
  }
  setPassword(id: number, hash: string): void {
    this.db.run('update person set password = ? where id = ?', hash, id);
  }
  setRole(id: number, role: string): void {
    this.db.run('update person set role = ? where id = ?', role, id);
  }
  end(id: number, at: string | null): void {
    this.db.run('update person set ended_at = ? where id = ?', at, id);
  }
}

/** Two that people would take for the same. */
export const sameName = (one: string, other: string): boolean => plain(one) === plain(other);
const plain = (name: string) => name.normalize('NFC').trim().toLowerCase();
