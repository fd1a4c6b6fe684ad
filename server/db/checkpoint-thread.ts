import { workerData } from 'node:worker_threads';
import Database from 'better-sqlite3';
import { answerQuestions } from '../workers/thread.ts';

/** Moves the write-ahead log into the database, as far as no one reads what it would overwrite. */
const db = new Database((workerData as { file: string }).file);
answerQuestions<null, null>(() => {
  db.pragma('wal_checkpoint(PASSIVE)');
  return null;
});
