import { stat } from 'node:fs/promises';
import { ThreadClient } from '../workers/thread.ts';
import { WordMerges } from './word-merges.ts';
import type { Db } from './database.ts';

/** Bytes of the write-ahead log from which on it is moved into the database. */
const LARGE = 4_000_000;
const EACH_MS = 500;

/**
 * What SQLite would do within a commit, keeping everyone waiting, is done apart: the indexes of words are merged a little at a time, and this
 * moves what has been written from the write-ahead log into the database on a thread of its own, instead of in the commit that finds the log long
 * (https://sqlite.org/wal.html, checkpointing).
 */
export class Checkpoints {
  private readonly thread: ThreadClient<null, null>;
  private readonly merges: WordMerges;
  private readonly timer: NodeJS.Timeout;
  private seen = 0;
  private running: Promise<void> | undefined;

  constructor(
    db: Db,
    private readonly file: string,
  ) {
    db.pragma('wal_autocheckpoint = 0');
    this.merges = new WordMerges(db);
    this.thread = new ThreadClient('checkpoint.js', { file });
    this.timer = setInterval(() => {
      this.running ??= this.look().finally(() => (this.running = undefined));
    }, EACH_MS);
    this.timer.unref();
  }

  /** The log keeps its length when it is begun anew: only what has been written since the last time counts. */
  private async look(): Promise<void> {
    const log = await stat(`${this.file}-wal`).catch(() => undefined);
    if (!log || log.size < LARGE || log.mtimeMs === this.seen) return;
    this.seen = log.mtimeMs;
    // What fails here is tried again; the commit of who wrote has told of a full disk already.
    await this.thread.ask(null).catch(() => (this.seen = 0));
  }

  async close(): Promise<void> {
    clearInterval(this.timer);
    this.merges.close();
    await this.running;
    await this.thread.close();
  }
}
