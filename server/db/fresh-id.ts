import type { Db } from './database.ts';

/**
 * The next number for a row. Numbers are never given twice: what was asked for one that is gone by now must not meet another. To be used within
 * the transaction that adds the row.
 */
export function freshId(db: Db, table: 'arrival' | 'item'): number {
  const id = db.value<number>(
    `select 1 + max(coalesce((select max(id) from ${table}), 0),
         coalesce((select cast(value as integer) from site_state where name = @name), 0))`,
    { name: `last ${table}` },
  )!;
  db.run('insert or replace into site_state (name, value) values (?, ?)', `last ${table}`, String(id));
  return id;
}
