import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Words } from '../../core/describe/fields.ts';
import { planWords } from '../../core/plan/words.ts';
import type { Db } from '../db/database.ts';
import { ItemFinder } from '../db/item-finder.ts';
import { ItemRecords } from '../db/item-records.ts';
import { Items } from '../db/items.ts';
import { openDatabase } from '../db/open.ts';
import { People } from '../db/people.ts';

/** A database of its own with two people, without a site. */
export class TestDatabase {
  readonly items: Items;
  readonly records: ItemRecords;
  readonly finder: ItemFinder;

  private constructor(
    readonly folder: string,
    readonly db: Db,
  ) {
    this.items = new Items(db);
    this.records = new ItemRecords(db, this.items);
    this.finder = new ItemFinder(db, this.items);
    const people = [
      { name: 'Ottilie', role: 'steward' },
      { name: 'Ben', role: 'editor' },
    ];
    new People(db).seed(people, '2026-01-01');
  }

  static async open(): Promise<TestDatabase> {
    const folder = await mkdtemp(join(tmpdir(), 'iconomos-database-'));
    return new TestDatabase(folder, openDatabase(join(folder, 'x.db')));
  }

  add(path: string, words: Partial<Words> = {}, bytes = 10): number {
    const id = this.records.add({
      path,
      state: 'here',
      facts: { bytes, sha256: path.padEnd(64, '0') },
      addedAt: '2026-01-01',
      addedBy: 1,
      originalName: null,
    });
    for (const step of planWords(this.items.need(id), words).records)
      this.records.apply(step, 1, '2026-01-02');
    return id;
  }

  async close(): Promise<void> {
    this.db.close();
    await rm(this.folder, { recursive: true });
  }
}
