import Database from 'better-sqlite3';

/** What changes with every change of the library: another one in the end means that files may be of another moment. */
export function stateOf(file: string): string {
  const db = new Database(file, { readonly: true, fileMustExist: true });
  try {
    return stateIn(db);
  } finally {
    db.close();
  }
}
const stateIn = (db: Database.Database): string =>
  JSON.stringify(
    db
      .prepare(
        `select (select max(id) from ledger) as last, (select count(*) from ledger where state in ('staging', 'switching')) as going,
           (select group_concat(id || sha256) from arrival) as waiting`,
      )
      .get(),
  );

/** Copies a database that others may write in (SQLite's online backup). Answers its state. */
export async function snapshotOf(file: string, to: string): Promise<string> {
  const db = new Database(file, { readonly: true, fileMustExist: true });
  try {
    // In one step: what is written meanwhile would begin it anew.
    await db.backup(to, { progress: () => 0x7fffffff });
  } finally {
    db.close();
  }
  const copy = new Database(to);
  try {
    // One file, which can be read where nothing can be written.
    copy.pragma('journal_mode = DELETE');
    return stateIn(copy);
  } finally {
    copy.close();
  }
}
