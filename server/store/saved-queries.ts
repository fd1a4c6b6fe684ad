import type { Db } from './database.ts';

export interface SavedQueryRow {
  id: number;
  name: string;
  query: string;
  person: string;
}

/** Queries that people keep under a name, for all. */
export class SavedQueries {
  constructor(private readonly db: Db) {}

  all(): SavedQueryRow[] {
    return this.db
      .prepare(
        `select saved_query.id, saved_query.name, query, person.name as person from saved_query
         join person on person.id = saved_query.person_id order by saved_query.name collate nocase`,
      )
      .all() as SavedQueryRow[];
  }

  /** Keeps a query; one of the same name is replaced. */
  keep(name: string, query: string, personId: number, at: string): void {
    this.db
      .prepare(
        `insert into saved_query (name, query, person_id, at) values (?, ?, ?, ?)
         on conflict (name) do update set query = excluded.query, person_id = excluded.person_id, at = excluded.at`,
      )
      .run(name, query, personId, at);
  }

  remove(id: number): void {
    this.db.prepare('delete from saved_query where id = ?').run(id);
  }
}
