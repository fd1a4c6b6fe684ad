import Database from 'better-sqlite3';
import { colourName } from '../../core/find/colour.ts';
import { Fault } from '../fault.ts';
import { Db } from './database.ts';
import { MIGRATIONS } from './migrations/index.ts';

/**
 * Opens the database of a data folder and brings its schema up to date.
 * Ledger entries must survive a power cut, so every commit is synced (synchronous FULL).
 */
export function openDatabase(file: string): Db {
  const opened = openedOrTold(file);
  opened.function('colour_name', { deterministic: true }, (hex) => colourName(String(hex)));
  const db = new Db(opened);
  const version = db.pragma('user_version') as number;
  if (version > MIGRATIONS.length) {
    db.close();
    throw new Fault(
      'data-folder',
      `The data folder was written by a newer Iconomos (schema ${version}, known ${MIGRATIONS.length}).`,
      'Start the newer one, or name another data folder with --data.',
    );
  }
  // Checks of tables are changed in the schema itself.
  opened.unsafeMode(true);
  for (let next = version; next < MIGRATIONS.length; next++) {
    db.write(() => {
      db.exec(MIGRATIONS[next]!);
      db.pragma(`user_version = ${next + 1}`);
    });
  }
  opened.unsafeMode(false);
  return db;
}

/** @throws Fault 'data-folder' that says why it cannot be used */
function openedOrTold(file: string): Database.Database {
  try {
    const db = new Database(file);
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
