import { folderOf } from '../../core/address/path.ts';
import { familiesOf, sizesAmong, type VariantFacts } from '../../core/naming/variants.ts';
import { showsTheSame, type SmallLook } from '../../core/picture/same-size.ts';
import { each, filter, mapOf, setOf } from '../../core/paced.ts';
import { breathe } from '../workers/breathe.ts';
import type { Db } from './database.ts';

type Row = VariantFacts & { sizeOf: number | null; sha256: string; family: number | null };

/**
 * Which pictures are sizes of which: by their names and looks, where one place offers them together, or as people say. A family is one item:
 * the picture stands for its sizes.
 */
export class Families {
  constructor(private readonly db: Db) {}

  /** Finds them anew, folder by folder, in slices. */
  async refresh(): Promise<void> {
    const look = this.db.prepare(
      `select id, path, kind, width, height, sha256, family, size_of as sizeOf from item
       where state = 'here' and path > ? and kind = 'image' order by path limit 1000`,
    );
    const rows: Row[] = [];
    for (let some = look.all('') as Row[]; some.length > 0; some = look.all(some.at(-1)!.path) as Row[]) {
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
    const update = this.db.prepare('update item set size_of = ? where id = ?');
    for (let from = 0; from < changed.length; from += AT_ONCE) {
      this.db.write(() => {
        for (const { id } of changed.slice(from, from + AT_ONCE)) update.run(families.get(id) ?? null, id);
      });
      await breathe();
    }
    // Off the site, a family is what it was, as long as it is together.
    const apart = this.db.prepare(
      `select id, size_of as of from item where state <> 'here' and size_of is not null and id > ?
         and not exists (select 1 from item as main where main.id = item.size_of and main.state = item.state)
       order by id limit ${AT_ONCE}`,
    );
    const leave = this.db.prepare('update item set size_of = null where id = ?');
    for (
      let some = apart.all(0) as { id: number }[];
      some.length > 0;
      some = apart.all(some.at(-1)!.id) as { id: number }[]
    ) {
      this.db.write(() => {
        for (const { id } of some) leave.run(id);
      });
      await breathe();
    }
  }

  /** Whether two contents show the same; undefined: at least one has not been looked at yet. */
  private alike(one: string, other: string): boolean | undefined {
    const look = this.db.prepare('select plane, chroma from content where sha256 = ? and plane is not null');
    const [a, b] = [one, other].map((sha256) => look.get(sha256) as SmallLook | undefined);
    return a && b && showsTheSame(looked(a), looked(b));
  }

  /** Ids of items that one element offers as sizes of one picture. */
  private async sets(): Promise<number[][]> {
    const some = this.db.prepare(
      `select placement.id as row, placement.page, placement.sizes_of as at, item.id
       from (select id, page, path, sizes_of from placement
         where id > ? and sizes_of is not null and state = 'placed' order by id limit ${AT_ONCE}) as placement
       left join item on item.path = placement.path and item.state = 'here' order by placement.id`,
    );
    type Offered = { row: number; page: string; at: number; id: number | null };
    const sets = new Map<string, number[]>();
    for (
      let rows = some.all(0) as Offered[];
      rows.length > 0;
      rows = some.all(rows.at(-1)!.row) as Offered[]
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

  /** The sizes of one picture that are where it is: on the site, set aside, or missing. */
  sizesOfOne(id: number): number[] {
    return this.db.prepare('select id from item where size_of = ? order by path').pluck().all(id) as number[];
  }

  /** Those of any number of pictures, each with its own in the order of their paths. */
  async sizesOf(ids: readonly number[]): Promise<number[]> {
    const some = this.db
      .prepare(
        `select item.id from json_each(?) as wanted cross join item on item.size_of = wanted.value order by item.path`,
      )
      .pluck();
    const found: number[] = [];
    for (let at = 0; at < ids.length; at += AT_ONCE) {
      for (const id of some.all(JSON.stringify(ids.slice(at, at + AT_ONCE))) as number[]) found.push(id);
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

/** What people have said, as far as it still can be: a picture that is gone has no sizes. */
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
