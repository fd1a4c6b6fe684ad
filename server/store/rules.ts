import type { FolderRule } from '../../core/intake/rules.ts';
import type { Db } from './database.ts';

/** The rules of folders: what their pictures need, and what is more than useful. */
export class Rules {
  constructor(private readonly db: Db) {}

  all(): FolderRule[] {
    const rows = this.db
      .prepare(
        `select folder, purpose, least_width as leastWidth, least_height as leastHeight, largest_side as largestSide,
           shape, largest_bytes as largestBytes, keep_original as keepOriginal from folder_rule order by folder`,
      )
      .all() as (Omit<FolderRule, 'keepOriginal'> & { keepOriginal: number })[];
    return rows.map((row) => ({ ...row, keepOriginal: row.keepOriginal === 1 }));
  }

  set(rule: FolderRule): void {
    this.db
      .prepare(
        `insert or replace into folder_rule (folder, purpose, least_width, least_height, largest_side, shape, largest_bytes, keep_original)
         values (?, ?, ?, ?, ?, ?, ?, ?)`,
      )
      .run(
        rule.folder,
        rule.purpose,
        rule.leastWidth,
        rule.leastHeight,
        rule.largestSide,
        rule.shape,
        rule.largestBytes,
        Number(rule.keepOriginal),
      );
  }

  remove(folder: string): void {
    this.db.prepare('delete from folder_rule where folder = ?').run(folder);
  }
}
