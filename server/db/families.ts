import { folderOf } from '../../core/address/path.ts';
import { familiesOf, sizesAmong, type VariantFacts } from '../../core/naming/variants.ts';
import { showsTheSame, type SmallLook } from '../../core/picture/same-size.ts';
import { each, filter, mapOf, setOf } from '../../core/paced.ts';
import { breathe } from '../workers/breathe.ts';
import type { Db } from './database.ts';

type Row = VariantFacts & { sizeOf: number | null; sha256: string; family: number | null };

/**
 * Which images are sizes of which: by their names and looks, where one place offers them together, or as people say. A family is one item:
 * the image stands for its sizes.
 */
export class Families {
  constructor(private readonly db: Db) {}

  /** Finds them anew, folder by folder, in slices. */
  async refresh(): Promise<void> {
    const look = `select id, path, kind, width, height, sha256, family, size_of as sizeOf from item
       where state = 'here' and path > ? and kind = 'image' order by path limit 1000`;
    const rows: Row[] = [];
    for (
      let some = this.db.all<Row>(look, '');
      some.length > 0;
      some = this.db.all<Row>(look, some.at(-1)!.path)
    ) {
      for (const row of some) rows.push(row);
      await breathe();
    }
    const byId = await mapOf(rows, breathe, (row) => [row.id, row]);
    const folders = new Map<string, { items: Map<number, Row>; sets: number[][] }>();
    const at = (folder: string) => {
      const there = folders.get(folder) ?? { items: new Map<number, Row>(), sets: [] };
      folders.set(folder, there);
      return there;
    };
    await each(rows, breathe, (row) => at(folderOf(row.path)).items.set(row.id, row));
    await each(await this.sets(), breathe, (set) => {
      const members = set.flatMap((id) => byId.get(id) ?? []);
      if (members.length < 2) return;
      const folder = at(folderOf(members[0]!.path));
      for (const member of members) folder.items.set(member.id, member);
      folder.sets.push(set);
    });
    const alike = (one: number, other: number) => this.alike(byId.get(one)!.sha256, byId.get(other)!.sha256);
    const found = new Map<number, number>();
    for (const { items, sets } of folders.values()) {
      for (const [id, of] of await sizesAmong([...items.values()], sets, alike, breathe))
        if (!found.has(id)) found.set(id, of);
    }
    const families = await familiesOf(found, await byHand(rows), breathe);
    const changed = await filter(rows, breathe, ({ id, sizeOf }) => (families.get(id) ?? null) !== sizeOf);
    const update = 'update item set size_of = ? where id = ?';
    for (let from = 0; from < changed.length; from += AT_ONCE) {
      this.db.write(() => {
        for (const { id } of changed.slice(from, from + AT_ONCE))
          this.db.run(update, families.get(id) ?? null, id);
      });
      await breathe();
    }
    // Off the site, a family is what it was, as long as it is together.
    const apart = `select id, size_of as of from item where state <> 'here' and size_of is not null and id > ?
         and not exists (select 1 from item as main where main.id = item.size_of and main.state = item.state)
       order by id limit ${AT_ONCE}`;
    const leave = 'update item set size_of = null where id = ?';
    for (
      let some = this.db.all<{ id: number }>(apart, 0);
      some.length > 0;
      some = this.db.all<{ id: number }>(apart, some.at(-1)!.id)
    ) {
      this.db.write(() => {
        for (const { id } of some) this.db.run(leave, id);
      });
      await breathe();
    }
  }

  /** Whether two contents show the same; undefined: at least one has not been looked at yet. */
  private alike(one: string, other: string): boolean | undefined {
    const look = 'select plane, chroma from content where sha256 = ? and plane is not null';
    const [a, b] = [one, other].map((sha256) => this.db.get<SmallLook>(look, sha256));
    return a && b && showsTheSame(looked(a), looked(b));
  }

  /** Ids of items that one element offers as sizes of one image. */
  private async sets(): Promise<number[][]> {
    const some = `select placement.id as row, placement.page, placement.sizes_of as at, item.id
       from (select id, page, path, sizes_of from placement
         where id > ? and sizes_of is not null and state = 'placed' order by id limit ${AT_ONCE}) as placement
       left join item on item.path = placement.path and item.state = 'here' order by placement.id`;
    type Offered = { row: number; page: string; at: number; id: number | null };
    const sets = new Map<string, number[]>();
    for (
      let rows = this.db.all<Offered>(some, 0);
      rows.length > 0;
      rows = this.db.all<Offered>(some, rows.at(-1)!.row)
    ) {
      for (const { page, at, id } of rows) {
        if (id === null) continue;
        const there = sets.get(`${at} ${page}`);
        if (there) there.push(id);
        else sets.set(`${at} ${page}`, [id]);
      }
      await breathe();
    }
    return [...sets.values()];
  }

  /** The sizes of one image that are where it is: on the site, set aside, or missing. */
  sizesOfOne(id: number): number[] {
    return this.db.values<number>('select id from item where size_of = ? order by path', id);
  }

  /** Those of any number of images, each with its own in the order of their paths. */
  async sizesOf(ids: readonly number[]): Promise<number[]> {
    const some = `select item.id from json_each(?) as wanted cross join item on item.size_of = wanted.value order by item.path`;
    const found: number[] = [];
    for (let at = 0; at < ids.length; at += AT_ONCE) {
      for (const id of this.db.values<number>(some, JSON.stringify(ids.slice(at, at + AT_ONCE))))
        found.push(id);
      await breathe();
    }
    return found;
  }

  /** Some items and the sizes of those, each once. */
  async whole(ids: readonly number[]): Promise<number[]> {
    const all = new Set(ids);
    await each(await this.sizesOf(ids), breathe, (id) => all.add(id));
    return [...all];
  }
}

/** Rows that are read or written between two breaths of the server's thread. */
const AT_ONCE = 250;

/** What people have said, as far as it still can be: an image that is gone has no sizes. */
async function byHand(rows: readonly Row[]): Promise<Map<number, number | null>> {
  const there = await setOf(rows, breathe, (row) => row.id);
  return mapOf(rows, breathe, ({ id, family }) => {
    if (family === 0) return [id, null];
    return family !== null && family !== id && there.has(family) ? [id, family] : undefined;
  });
}

/** As they are kept: one byte each. */
function looked({ plane, chroma }: SmallLook): SmallLook {
  return { plane, chroma: new Int8Array(chroma.buffer, chroma.byteOffset, chroma.byteLength) };
}
