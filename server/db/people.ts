import type { Db } from './database.ts';

export interface Person {
  id: number;
  name: string;
  role: string;
}

/** The people of a site, in a table; every change carries one. */
export class People {
  constructor(private readonly db: Db) {}

  all(): Person[] {
    return this.db.all<Person>('select id, name, role from person order by id');
  }

  get(id: number): Person | undefined {
    return this.db.get<Person>('select id, name, role from person where id = ?', id);
  }

  /** Adds the first people of a new data folder. */
  seed(people: readonly { name: string; role: string }[], now: string): void {
    const insert = 'insert into person (name, role, added_at) values (?, ?, ?) on conflict (name) do nothing';
    for (const one of people) this.db.run(insert, one.name, one.role, now);
  }
}
