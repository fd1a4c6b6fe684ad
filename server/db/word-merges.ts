import type { Db } from './database.ts';

/** Pages that are merged at one go: a few milliseconds. */
const PAGES = 16;
/** Milliseconds to the next merge, while there is something to be merged; and to the next look otherwise. */
const SOON = 25;
const LATER = 250;
const INDEXES = ['item_words', 'content_words'] as const;

/**
 * Merges the parts of the full-text indexes a little at a time, after what has been written. SQLite would do it within the commit that finds
 * too many parts of one size, all of them at once (https://sqlite.org/fts5.html, the 'crisismerge' and 'merge' commands).
 */
export class WordMerges {
  private timer: NodeJS.Timeout;
  private seen: number;

  constructor(private readonly db: Db) {
    this.seen = this.changes();
    this.timer = setTimeout(this.look, LATER);
    this.timer.unref();
  }

  private changes(): number {
    return this.db.value<number>('select total_changes()')!;
  }

  private readonly look = () => {
    let next = LATER;
    try {
      if (this.changes() !== this.seen && this.merge()) next = SOON;
    } catch (error) {
      // The disk is full, or cannot be written to: who writes is told. It is tried again.
      if (!(error as { code?: string }).code?.startsWith('SQLITE_')) throw error;
    }
    this.timer = setTimeout(this.look, next);
    this.timer.unref();
  };

  /** @returns whether there is more to be merged */
  private merge(): boolean {
    const { db } = this;
    const before = db.pragma('synchronous') as number;
    // Nothing is lost with it: it is synced with the next commit that is.
    db.pragma('synchronous = NORMAL');
    try {
      let more = false;
      for (const index of INDEXES) {
        const start = this.changes();
        db.run(`insert into ${index} (${index}, rank) values ('merge', ?)`, PAGES);
        // Fewer changes than two: there was nothing to be done.
        more ||= this.changes() - start >= 2;
      }
      this.seen = this.changes();
      if (more) this.seen--;
      return more;
    } finally {
      db.pragma(`synchronous = ${before}`);
    }
  }

  close(): void {
    clearTimeout(this.timer);
  }
}
