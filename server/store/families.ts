import { folderOf } from '../../core/address/path.ts';
import { sizesAmong, type VariantFacts } from '../../core/naming/variants.ts';
import type { Db } from './database.ts';

type Row = VariantFacts & { sizeOf: number | null };

/**
 * Which pictures are sizes of which: by their names, and where one place offers them together. A size has its picture's words
 * and is used when any of its family is.
 */
export class Families {
  constructor(private readonly db: Db) {}

  /** Finds them anew, folder by folder. @param breathe lets other work go on between two folders */
  async refresh(breathe: () => Promise<void> | undefined): Promise<void> {
    const rows = this.db
      .prepare(
        `select id, path, kind, width, height, size_of as sizeOf from item where state = 'here' and kind = 'image' order by path`,
      )
      .all() as Row[];
    const byId = new Map(rows.map((row) => [row.id, row]));
    const folders = new Map<string, { items: Map<number, Row>; sets: number[][] }>();
    const at = (folder: string) => {
      const there = folders.get(folder) ?? { items: new Map<number, Row>(), sets: [] };
      folders.set(folder, there);
      return there;
    };
    for (const row of rows) at(folderOf(row.path)).items.set(row.id, row);
    for (const set of this.sets()) {
      const members = set.flatMap((id) => byId.get(id) ?? []);
      if (members.length < 2) continue;
      const folder = at(folderOf(members[0]!.path));
      for (const member of members) folder.items.set(member.id, member);
      folder.sets.push(set);
    }
    const sizeOf = new Map<number, number>();
    for (const { items, sets } of folders.values()) {
      for (const [id, of] of sizesAmong([...items.values()], sets)) if (!sizeOf.has(id)) sizeOf.set(id, of);
      await breathe();
    }
    // A size of a size is one of the picture that both belong to.
    for (const [id, of] of sizeOf) {
      const main = sizeOf.get(of);
      if (main !== undefined && main !== id) sizeOf.set(id, main);
    }
    const update = this.db.prepare('update item set size_of = ? where id = ?');
    this.db.transaction(() => {
      for (const { id, sizeOf: before } of rows) {
        const now = sizeOf.get(id) ?? null;
        if (now !== before) update.run(now, id);
      }
      this.db.exec("update item set size_of = null where state <> 'here' and size_of is not null");
    })();
  }

  /** Ids of items that one element offers as sizes of one picture. */
  private sets(): number[][] {
    const rows = this.db
      .prepare(
        `select placement.page, placement.sizes_of as at, item.id from placement
         join item on item.path = placement.path and item.state = 'here'
         where placement.sizes_of is not null and placement.state = 'placed'`,
      )
      .all() as { page: string; at: number; id: number }[];
    const sets = new Map<string, number[]>();
    for (const { page, at, id } of rows) {
      const key = `${at} ${page}`;
      sets.set(key, [...(sets.get(key) ?? []), id]);
    }
    return [...sets.values()];
  }

  /** The sizes of some pictures that are on the site. */
  sizesOf(ids: readonly number[]): number[] {
    return this.db
      .prepare(
        `select item.id from json_each(?) as wanted cross join item on item.size_of = wanted.value
         where item.state = 'here' order by item.path`,
      )
      .pluck()
      .all(JSON.stringify(ids)) as number[];
  }
}
