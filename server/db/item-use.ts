import type { SitePath } from '../../core/address/path.ts';
import { familyUses, useOf, type Use } from '../../core/reference/survey.ts';
import type { Db } from './database.ts';
import { each, flatMap, mapOf } from '../../core/paced.ts';
import { breathe } from '../workers/breathe.ts';

/** So many items are looked at between two breaths of the server's thread. */
const SLICE = 1000;

/** Knows which items pages use. */
export class ItemUse {
  constructor(private readonly db: Db) {}

  /**
   * Counts placements and derives the use of every item anew, in slices: what is not there yet is as it was.
   */
  async refresh(): Promise<void> {
    // A place that offers an image in sizes is one place of it.
    const count = `
      update item set placements = counted.placements from
        (select item.id, count(placement.id) + (
             select count(distinct shown.page || ' ' || coalesce(shown.sizes_of, shown.start)) from item as sized
               cross join placement as shown on shown.path = sized.path and +shown.state = 'placed' and shown.page <> shown.path
             where sized.size_of = item.id and not exists (select 1 from placement as own
               where own.path = item.path and own.page = shown.page and own.sizes_of = shown.sizes_of)) as placements
         from item left join placement
           on placement.path = item.path and placement.state = 'placed' and placement.page <> item.path
         where item.id > @after and item.id <= @last and item.state = 'here' group by item.id) as counted
      where counted.id = item.id and counted.placements <> item.placements`;
    const look = `select id, path, placements, use, size_of as sizeOf, exists (select 1 from mention where mention.path = item.path) as mentioned,
         exists (select 1 from live_placement where live_placement.path = item.path) as live
       from item where id > @after and id <= @last and state = 'here'`;
    const uses = new Map<number, { before: Use; use: Use }>();
    const mains = new Map<number, number>();
    const last = this.db.value<number>('select coalesce(max(id), 0) from item')!;
    for (let after = 0; after < last; after += SLICE) {
      await breathe();
      const slice = { after, last: after + SLICE };
      this.db.run(count, slice);
      for (const row of this.db.all<{
        id: number;
        path: SitePath;
        placements: number;
        use: Use;
        mentioned: number;
        live: number;
        sizeOf: number | null;
      }>(look, slice)) {
        const use = useOf(row.path, row.placements > 0 || row.live === 1, row.mentioned === 1);
        uses.set(row.id, { before: row.use, use });
        if (row.sizeOf !== null) mains.set(row.id, row.sizeOf);
      }
    }
    const inFamilies = new Set<number>();
    await each(mains, breathe, ([id, main]) => inFamilies.add(id).add(main));
    const theirs = await mapOf(uses, breathe, ([id, { use }]) =>
      inFamilies.has(id) ? [id, use] : undefined,
    );
    const shared = await familyUses(theirs, (id) => mains.get(id) ?? id, breathe);
    const changed = await flatMap(uses, breathe, ([id, { before, use }]) => {
      const now = shared.get(id) ?? use;
      return now === before ? [] : [{ id, now }];
    });
    const update = 'update item set use = ? where id = ?';
    for (let at = 0; at < changed.length; at += SLICE) {
      await breathe();
      this.db.write(() => {
        for (const { id, now } of changed.slice(at, at + SLICE)) this.db.run(update, now, id);
      });
    }
  }
}
