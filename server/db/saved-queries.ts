import type { SettingValue } from '../../core/plan/plan.ts';
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
      .all<SavedQueryRow>(`select saved_query.id, saved_query.name, query, person.name as person from saved_query
         join person on person.id = saved_query.person_id order by saved_query.name collate nocase`);
  }

  /** A kept query as a setting: what it asks, and who keeps it. */
  value(name: string): SettingValue {
    const row = this.all().find((one) => one.name.toLowerCase() === name.toLowerCase());
    return row ? { name: row.name, query: row.query, person: row.person } : null;
  }

  setValue(name: string, value: SettingValue, personId: number, at: string): void {
    this.db.run('delete from saved_query where name = ?', name);
    if (value === null) return;
    const kept = value as { name: string; query: string; person: string };
    this.db.run(
      `insert into saved_query (name, query, person_id, at)
         values (@name, @query, coalesce((select id from person where name = @person), @personId), @at)`,
      { ...kept, personId, at },
    );
  }
}
