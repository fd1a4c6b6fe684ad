import { folderOf } from '../../core/address/path.ts';
import { familiesOf, sizesAmong, type VariantFacts } from '../../core/naming/variants.ts';
import { showsTheSame, type SmallLook } from '../../core/picture/same-size.ts';
import type { Db } from './database.ts';

type Row = VariantFacts & { sizeOf: number | null; sha256: string; family: number | null };

/**
 * Which pictures are sizes of which: by their names and looks, where one place offers them together, or as people say. A family is one item:
 * the picture stands for its sizes.
 */
export class Families {
  constructor(private readonly db: Db) {}

  /** Finds them anew, folder by folder. @param breathe lets other work go on between two folders */
  async refresh(breathe: () => Promise<void> | undefined): Promise<void> {
    const look = this.db.prepare(
      `select id, path, kind, width, height, sha256, family, size_of as sizeOf from item
       where state = 'here' and path > ? and kind = 'image' order by path limit 1000`,
    );
    const rows: Row[] = [];
    for (let some = look.all('') as Row[]; some.length > 0; some = look.all(some.at(-1)!.path) as Row[]) {
      rows.push(...some);
      await breathe();
    }
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
    const alike = (one: number, other: number) => this.alike(byId.get(one)!.sha256, byId.get(other)!.sha256);
    const found = new Map<number, number>();
    for (const { items, sets } of folders.values()) {
      for (const [id, of] of sizesAmong([...items.values()], sets, alike))
        if (!found.has(id)) found.set(id, of);
      await breathe();
    }
    const families = familiesOf(found, byHand(rows));
    const update = this.db.prepare('update item set size_of = ? where id = ?');
    this.db.transaction(() => {
      for (const { id, sizeOf: before } of rows) {
        const now = families.get(id) ?? null;
        if (now !== before) update.run(now, id);
      }
      // Off the site, a family is what it was, as long as it is together.
      this.db.exec(`update item set size_of = null where state <> 'here' and size_of is not null
        and not exists (select 1 from item as main where main.id = item.size_of and main.state = item.state)`);
    })();
  }

  /** Whether two contents show the same; undefined: at least one has not been looked at yet. */
  private alike(one: string, other: string): boolean | undefined {
    const look = this.db.prepare('select plane, chroma from content where sha256 = ? and plane is not null');
    const [a, b] = [one, other].map((sha256) => look.get(sha256) as SmallLook | undefined);
    return a && b && showsTheSame(looked(a), looked(b));
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

  /** The sizes of some pictures that are where their picture is: on the site, set aside, or missing. */
  sizesOf(ids: readonly number[]): number[] {
    return this.db
      .prepare(
        `select item.id from json_each(?) as wanted cross join item on item.size_of = wanted.value order by item.path`,
      )
      .pluck()
      .all(JSON.stringify(ids)) as number[];
  }

  /** Some items and the sizes of those, each once. */
  whole(ids: readonly number[]): number[] {
    return [...new Set([...ids, ...this.sizesOf(ids)])];
  }
}

/** What people have said, as far as it still can be: a picture that is gone has no sizes. */
function byHand(rows: readonly Row[]): Map<number, number | null> {
  const there = new Set(rows.map((row) => row.id));
  const said = new Map<number, number | null>();
  for (const { id, family } of rows) {
    if (family === 0) said.set(id, null);
    else if (family !== null && family !== id && there.has(family)) said.set(id, family);
  }
  return said;
}

/** As they are kept: one byte each. */
function looked({ plane, chroma }: SmallLook): SmallLook {
  return { plane, chroma: new Int8Array(chroma.buffer, chroma.byteOffset, chroma.byteLength) };
}
