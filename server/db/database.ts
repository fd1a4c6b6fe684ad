import Database from 'better-sqlite3';
import { colourName } from '../../core/find/colour.ts';
import { Fault } from '../fault.ts';
import { MIGRATIONS } from './migrations/index.ts';

/** What is put in the place of a parameter. */
export type Value = string | number;

/** A database with the one way to write into it. */
export interface Db extends Database.Database {
  /** Does all of it or, when it throws, nothing: also within another one. @returns what `work` returns */
  write<Result>(work: () => Result): Result;
}

/**
 * Opens the database of a data folder and brings its schema up to date.
 * Ledger entries must survive a power cut, so every commit is synced (synchronous FULL).
 */
export function openDatabase(file: string): Db {
  const db = openedOrTold(file);
  db.function('colour_name', { deterministic: true }, (hex) => colourName(String(hex)));
  const version = db.pragma('user_version', { simple: true }) as number;
  if (version > MIGRATIONS.length) {
    db.close();
    throw new Fault(
      'data-folder',
      `The data folder was written by a newer Iconomos (schema ${version}, known ${MIGRATIONS.length}).`,
      'Start the newer one, or name another data folder with --data.',
    );
  }
  for (let next = version; next < MIGRATIONS.length; next++) {
    db.write(() => {
      db.exec(MIGRATIONS[next]!);
      db.pragma(`user_version = ${next + 1}`);
    });
  }
  return withKeptStatements(db);
}

function withWrite(db: Database.Database): Db {
  // eslint-disable-next-line no-restricted-syntax -- This is the one place.
  return Object.assign(db, { write: <Result>(work: () => Result) => db.transaction(work)() });
}

/** @throws Fault 'data-folder' that says why it cannot be used */
function openedOrTold(file: string): Db {
  try {
    const db = withWrite(new Database(file));
    db.pragma('journal_mode = WAL');
    db.pragma('synchronous = FULL');
    db.pragma('foreign_keys = ON');
    // Whether it can be written to is not said before the first try.
    db.exec(
      'begin immediate; create table if not exists writable (one integer); drop table writable; commit',
    );
    return db;
  } catch (error) {
    const { code = '', message } = error as { code?: string; message: string };
    if (code.startsWith('SQLITE_BUSY'))
      throw new Fault('busy', `Another program is using “${file}”.`, 'Close it, then start again.');
    const why =
      code.startsWith('SQLITE_READONLY') || code === 'SQLITE_CANTOPEN' || code.startsWith('SQLITE_PERM')
        ? 'cannot be written to'
        : code === 'SQLITE_NOTADB' || code.startsWith('SQLITE_CORRUPT')
          ? 'is damaged'
          : code === 'SQLITE_FULL'
            ? 'cannot be written to: the disk is full'
            : `cannot be used (${message})`;
    throw new Fault(
      'data-folder',
      `The database “${file}” ${why}.`,
      'Give the server’s user the right to write there and free some space, or bring the file back from a backup.',
    );
  }
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
