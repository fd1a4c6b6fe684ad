import { folderOf, isWithin, type SitePath } from '../../core/address/path.ts';
import { patternAt } from './rules.ts';
import { nameCheck } from '../../core/naming/check.ts';
import type { Db } from './database.ts';
import { breathe } from '../workers/breathe.ts';

/** What is wrong with a name, also against its folder's pattern, as it is kept. */
export function nameFaults(db: Db, path: SitePath): string {
  return nameCheck(path, patternAt(db, folderOf(path))).join(' ');
}

/** Checks the names of items against the patterns of their folders. */
export class ItemNames {
  /** How often something was noted, so that `check` sees what was noted while it ran. */
  private noted = 0;

  constructor(private readonly db: Db) {}

  /** Notes that the names in a folder and below are to be checked anew, as its pattern has changed; `check` does it. */
  uncheck(folder: SitePath): void {
    this.noted++;
    const before = this.db.value<SitePath>("select value from site_state where name = 'names-of'");
    let both = before ?? folder;
    while (!isWithin(both, folder)) both = folderOf(both);
    this.db.run("insert or replace into site_state (name, value) values ('names-of', ?)", both);
  }

  /** Checks the names that are to be checked anew, in slices. */
  async check(): Promise<void> {
    const state = "select value from site_state where name = 'names-of'";
    const folder = this.db.value<SitePath>(state);
    if (folder === undefined) return;
    const { noted } = this;
    for (let after = 0; after !== Infinity; await breathe()) after = this.checkSome(folder, after);
    // Another one may have been noted meanwhile, or the same once more.
    if (this.noted === noted) this.db.run("delete from site_state where name = 'names-of'");
  }

  /** Those that come after an id. @returns the last of them; Infinity when there are no more */
  private checkSome(folder: SitePath, after: number): number {
    const rows = this.db.all<{ id: number; path: SitePath; faults: string }>(
      "select id, path, name_faults as faults from item where id > ? and state <> 'absent' order by id limit 500",
      after,
    );
    const update = 'update item set name_faults = ? where id = ?';
    for (const { id, path, faults } of rows) {
      if (!isWithin(folder, folderOf(path))) continue;
      const now = nameFaults(this.db, path);
      if (now !== faults) this.db.run(update, now, id);
    }
    return rows.at(-1)?.id ?? Infinity;
  }
}
