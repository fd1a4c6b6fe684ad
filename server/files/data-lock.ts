import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { hostname } from 'node:os';
import Database from 'better-sqlite3';
import { Fault } from '../fault.ts';
import type { DataPaths } from './data-paths.ts';

/**
 * Only one server works on a data folder. What is held is a lock of the system on a file, so it ends with the process that
 * holds it, however that ends: none is ever left behind. Who holds it stands in a text beside it, for the person.
 * @returns lets go of it
 * @throws Fault 'busy' when another server has it
 */
export function lockDataFolder({ root: dataFolder, lock, owner }: DataPaths): () => void {
  let held: Database.Database;
  try {
    held = new Database(lock, { timeout: 0 });
  } catch (error) {
    throw notWritable(dataFolder, error);
  }
  try {
    held.pragma('locking_mode = EXCLUSIVE');
    held.exec('begin exclusive');
  } catch (error) {
    held.close();
    if ((error as { code?: string }).code !== 'SQLITE_BUSY') throw notWritable(dataFolder, error);
    throw new Fault(
      'busy',
      `Another Iconomos works on the data folder “${dataFolder}”${ownerIn(owner)}.`,
      'Stop that one first, or name another data folder with --data.',
    );
  }
  try {
    writeFileSync(
      owner,
      JSON.stringify({ process: process.pid, host: hostname(), since: new Date().toISOString() }),
      { mode: 0o600 },
    );
  } catch (error) {
    // The lock holds without the text; with a full disk the server starts all the same.
    if (!['ENOSPC', 'EDQUOT'].includes((error as NodeJS.ErrnoException).code ?? '')) {
      held.close();
      throw notWritable(dataFolder, error);
    }
  }
  return () => {
    rmSync(owner, { force: true });
    held.close();
  };
}

/** What to tell of an error of the system or of SQLite; one that says something else is left as it is. */
function notWritable(dataFolder: string, error: unknown): unknown {
  const { code = '' } = error as { code?: string };
  if (!/^(?:EROFS|EACCES|EPERM|SQLITE_CANTOPEN|SQLITE_READONLY|SQLITE_IOERR)/.test(code)) return error;
  return new Fault(
    'data-folder',
    `The data folder “${dataFolder}” cannot be written to (${code}).`,
    'Give the server’s user the right to write there, or name another one with --data.',
  );
}

function ownerIn(file: string): string {
  try {
    const { process, host, since } = JSON.parse(readFileSync(file, 'utf8')) as Record<string, unknown>;
    return ` (process ${String(process)} on ${String(host)}, since ${String(since)})`;
  } catch {
    // It is only being written: that there is one is known all the same.
    return '';
  }
}
