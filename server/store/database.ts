import Database from 'better-sqlite3';
import { colourName } from '../../core/find/colour.ts';
import { MIGRATIONS } from './migrations.ts';

export type Db = Database.Database;

/**
 * Opens the database of a data folder and brings its schema up to date.
 * Ledger entries must survive a power cut, so every commit is synced (synchronous FULL).
 */
export function openDatabase(file: string): Db {
  const db = new Database(file);
  db.pragma('journal_mode = WAL');
  db.pragma('synchronous = FULL');
  db.pragma('foreign_keys = ON');
  db.function('colour_name', { deterministic: true }, (hex) => colourName(String(hex)));
  const version = db.pragma('user_version', { simple: true }) as number;
  if (version > MIGRATIONS.length) {
    throw new Error(
      `The data folder was written by a newer Iconomos (schema ${version}, known ${MIGRATIONS.length}).`,
    );
  }
  for (let next = version; next < MIGRATIONS.length; next++) {
    db.transaction(() => {
      db.exec(MIGRATIONS[next]!);
      db.pragma(`user_version = ${next + 1}`);
    })();
  }
  return withKeptStatements(db);
}

/** So many prepared statements are kept; queries built from conditions could make any number. */
const KEPT_STATEMENTS = 400;

/**
 * Preparing costs more than most queries: each text is prepared once. One text is thus always used in one mode (with
 * pluck or without), and never within a walk over its own rows.
 */
function withKeptStatements(db: Db): Db {
  const kept = new Map<string, Database.Statement>();
  const prepare = db.prepare.bind(db);
  db.prepare = ((source: string) => {
    let statement = kept.get(source);
    if (!statement) {
      if (kept.size >= KEPT_STATEMENTS) kept.delete(kept.keys().next().value!);
      statement = prepare(source);
      kept.set(source, statement);
    }
    return statement;
  }) as Db['prepare'];
  return db;
}
