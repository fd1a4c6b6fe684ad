import { baseName, folderOf, isWithin, type SitePath } from '../../core/address/path.ts';
import { isItemPath, kindOf, mimeOf } from '../../core/address/kinds.ts';
import { TEXT_FIELD_KEYS, TEXT_FIELDS, type TextField, type Words } from '../../core/describe/fields.ts';
import { fold } from '../../core/find/marks.ts';
import type { ItemState, RecordStep } from '../../core/plan/plan.ts';
import { familyUses, useOf, type Use } from '../../core/reference/survey.ts';
import { Fault } from '../fault.ts';
import type { FileFacts } from '../scan/scan.ts';
import { nameCheck } from '../../core/naming/check.ts';
import type { Db } from './database.ts';
import { freshId } from './fresh-id.ts';
import {
  conditions,
  FAMILY_BYTES,
  NEEDS_ALT,
  orderOf,
  type ItemQuery,
  type LikeLookup,
} from './item-query.ts';
import { BY_IDS, COLUMNS, itemsOf, JOINS, listSql, type Item } from './item-rows.ts';
import { USE_KNOWN } from './site-state.ts';
import { patternAt } from './rules.ts';
import { each, filter, flatMap, mapOf } from '../../core/paced.ts';
import { breathe } from '../workers/breathe.ts';
import type { Reader } from './reader.ts';

const WORD_COLUMNS = `${TEXT_FIELD_KEYS.map((field) => TEXT_FIELDS[field].column).join(', ')}, decorative, own`;

/** Where an item is, and its bytes. */
export interface ItemPlace {
  id: number;
  path: SitePath;
  sha256: string;
}

interface Counts {
  items: number;
  bytes: number;
  aside: number;
  asideBytes: number;
  missing: number;
  unused: number;
  mentioned: number;
  undescribed: number;
}
const COUNTS = `
  select count(case when state = 'here' and size_of is null then 1 end) as items,
    coalesce(sum(case when state = 'here' then bytes end), 0) as bytes,
    count(case when state = 'aside' and size_of is null then 1 end) as aside,
    coalesce(sum(case when state = 'aside' then bytes end), 0) as asideBytes,
    count(case when state = 'absent' and outside = 1 and size_of is null then 1 end) as missing,
    count(case when state = 'here' and size_of is null and use = 'unused' and ${USE_KNOWN} then 1 end) as unused,
    count(case when state = 'here' and size_of is null and use = 'mentioned' and ${USE_KNOWN} then 1 end) as mentioned,
    count(case when state = 'here' and item.kind = 'image' and ${NEEDS_ALT} and alt = '' and decorative = 0 then 1 end) as undescribed
  from item`;

/** So many items are looked at between two breaths of the server's thread. */
const SLICE = 1000;
/** Whole items that are read or removed at once. */
const READ_AT_ONCE = 100;

/** How many of some items are on the site, what they weigh with their sizes, and how many are set aside. */
export async function sumOf(
  reader: Reader,
  ids: readonly number[],
): Promise<{ items: number; bytes: number; aside: number }> {
  const [sum] = await reader.rows<{ items: number; bytes: number; aside: number }>(
    `select count(case when state = 'here' then 1 end) as items,
       coalesce(sum(case when state = 'here' then ${FAMILY_BYTES} end), 0) as bytes,
       count(case when state = 'aside' then 1 end) as aside
     from json_each(@ids) as wanted join item on item.id = wanted.value`,
    { ids: JSON.stringify(ids) },
  );
  return sum!;
}

/** Items with their records. */
export class Items {
  constructor(private readonly db: Db) {}

  private where(sql: string, values: object = {}): Item[] {
    return itemsOf(this.db, `select ${COLUMNS} from item ${JOINS} where ${sql}`, values);
  }

  get(id: number): Item | undefined {
    return this.where('item.id = @id', { id })[0];
  }

  /** @throws Fault 'not-found' */
  need(id: number): Item {
    const item = this.get(id);
    if (!item)
      throw new Fault('not-found', `There is no item ${id}.`, 'Go back to the Library and choose it there.');
    return item;
  }

  atPath(path: SitePath): Item | undefined {
    return this.where("item.path = @path and item.state = 'here'", { path })[0];
  }

  /** The item whose words a file bears: of a size, its picture. */
  bearerAt(path: SitePath): Item | undefined {
    const item = this.atPath(path);
    return item && item.sizeOf !== null ? (this.get(item.sizeOf) ?? item) : item;
  }

  private places(where: string, values: object = {}): ItemPlace[] {
    return this.db.all<ItemPlace>(`select id, path, sha256 from item where ${where} order by id`, values);
  }

  /** Every item on the site, read in slices. */
  async here(): Promise<ItemPlace[]> {
    const found: ItemPlace[] = [];
    const some = `select id, path, sha256 from item where id > ? and state = 'here' order by id limit ${SLICE}`;
    for (let rows: ItemPlace[], after = 0; ; after = rows.at(-1)!.id) {
      rows = this.db.all<ItemPlace>(some, after);
      found.push(...rows);
      await breathe();
      if (rows.length < SLICE) return found;
    }
  }

  /** Those of some paths. */
  hereAt(paths: readonly SitePath[]): ItemPlace[] {
    return this.places("state = 'here' and path in (select value from json_each(@paths))", {
      paths: JSON.stringify(paths),
    });
  }

  /** Records whose file others have taken away. */
  missing(): ItemPlace[] {
    return this.places("state = 'absent' and outside = 1");
  }

  /** Where items lay that others have moved, and where they are. */
  movedByOthers(): { from: SitePath; to: SitePath }[] {
    return this.db.all<{ from: SitePath; to: SitePath }>(
      'select moved_from as "from", path as "to" from item where moved_from is not null and state = \'here\'',
    );
  }

  /** The latest record of a path with these bytes that is not on the site. */
  elsewhereAt(path: SitePath, sha256: string): ItemPlace | undefined {
    return this.places("state <> 'here' and path = @path and sha256 = @sha256 and @sha256 <> ''", {
      path,
      sha256,
    }).at(-1);
  }

  /** An item that is set aside, or whose file is missing, lay there: what comes to that path would be taken for it. */
  isHeld(path: SitePath): boolean {
    const held = "path = @path and (state = 'aside' or (state = 'absent' and outside = 1))";
    return this.places(held, { path }).length > 0;
  }

  /** Records that were made for a change which never came to be. */
  async removeUnborn(): Promise<void> {
    const ids = this.db
      .values<number>(`select id from item where state = 'absent' and outside = 0 and changed_at is null
           and not exists (select 1 from ledger_touch where what = 'record ' || item.id)`);
    await this.removeAbsent(ids);
  }

  /** Paths of items of a kind that does not make a file an item by itself. */
  brought(): Set<SitePath> {
    const paths = this.db.values<SitePath>("select path from item where kind = 'other'");
    return new Set(paths.filter((path) => !isItemPath(path)));
  }

  /** Items on the site with these bytes. */
  withHash(sha256: string): Item[] {
    if (sha256 === '') return [];
    return this.where("item.sha256 = @sha256 and item.state = 'here' order by item.path", { sha256 });
  }

  /** An item in any state whose bytes these are or were sent as. */
  anyWithHash(sha256: string): { path: SitePath; duration: number | null } | undefined {
    return this.db.get<{ path: SitePath; duration: number | null }>(
      'select path, duration from item where sha256 = @sha256 or original_sha256 = @sha256 limit 1',
      { sha256 },
    );
  }

  /** Hash of what was sent, when a smaller copy of it stands on the site. */
  originalOf(id: number): string | null {
    return (this.db.value('select original_sha256 from item where id = ?', id) ?? null) as string | null;
  }

  /** Fills empty texts of records that no person has changed yet with what the file says of itself. */
  fillUntouched(sha256: string, words: Partial<Words>): void {
    const ids = this.db.values<number>(
      "select id from item where sha256 = ? and state = 'here' and changed_at is null",
      sha256,
    );
    this.db.write(() => {
      for (const id of ids) {
        const has = this.need(id).words;
        for (const [field, value] of Object.entries(words) as [keyof Words, string | string[]][]) {
          if (field === 'tags') {
            if (has.tags.length === 0) this.setTags(id, value as string[]);
          } else if (field in TEXT_FIELDS && has[field] === '') {
            const { column } = TEXT_FIELDS[field as TextField];
            this.db.run(`update item set ${column} = ? where id = ?`, value, id);
          }
        }
      }
    });
  }

  /** A window of a query, with the number and weight of all that it finds. */
  list(query: ItemQuery, like?: LikeLookup): { total: number; bytes: number; items: Item[] } {
    const { totals, rows, values } = listSql(query, like);
    return {
      ...this.db.get<{ total: number; bytes: number }>(totals, values)!,
      items: itemsOf(this.db, rows, values),
    };
  }

  /** The same, asked on the reader's thread: an ItemList as JSON. */
  listJson(reader: Reader, query: ItemQuery, like?: LikeLookup): Promise<Uint8Array> {
    const { values, ...sql } = listSql(query, like);
    return reader.list(sql, values);
  }

  /** How many items a query finds. */
  count(query: ItemQuery, like?: LikeLookup): number {
    const { where, values } = conditions(query, like);
    return this.db.value<number>(`select count(*) from item where ${where}`, values)!;
  }

  /** The same, counted on a thread of its own. */
  async countApart(reader: Reader, query: ItemQuery): Promise<number> {
    const { where, values } = conditions(query);
    const [row] = await reader.rows<{ items: number }>(
      `select count(*) as items from item where ${where}`,
      values,
    );
    return row!.items;
  }

  /** Ids of all that a query finds, in its order. */
  ids(query: ItemQuery, like?: LikeLookup): number[] {
    const { where, values } = conditions(query, like);
    const { order, before, join, values: ranked } = orderOf(query);
    return this.db.values<number>(
      `${before} select item.id from item ${join} where ${where} order by ${order}`,
      { ...values, ...ranked },
    );
  }

  /** The same, asked on a thread of its own: of what has been committed. */
  async idsApart(reader: Reader, query: ItemQuery): Promise<number[]> {
    const { where, values } = conditions(query);
    const { order, before, join, values: ranked } = orderOf(query);
    const sql = `${before} select item.id from item ${join} where ${where} order by ${order}`;
    return [...(await reader.ids(sql, { ...values, ...ranked }))];
  }

  /** Names of other pictures, with other bytes, that have an alt text; at most ten. */
  withAlt(alt: string, id: number): string[] {
    return this.db.values<string>(
      `select name from item where state = 'here' and kind = 'image' and alt = @alt and alt <> '' and id <> @id
           and sha256 <> (select sha256 from item where id = @id) order by path limit 10`,
      { alt, id },
    );
  }

  /** Names of the items that lie in a folder itself. */
  namesIn(folder: SitePath): string[] {
    return this.db.values<string>("select name from item where state = 'here' and folder = ?", folder);
  }

  /** What tells the pictures in some folders apart by size: those that lie in them, not below. */
  async inFolders(
    folders: readonly SitePath[],
  ): Promise<Pick<Item, 'id' | 'path' | 'kind' | 'width' | 'height'>[]> {
    const some = `select id, path, name, kind, width, height from item
       where state = 'here' and folder = @folder and name > @after order by name limit ${SLICE}`;
    type Row = Pick<Item, 'id' | 'path' | 'name' | 'kind' | 'width' | 'height'>;
    const found: Row[] = [];
    for (const folder of [...folders].sort())
      for (let after = ''; ;) {
        const rows = this.db.all<Row>(some, { folder, after });
        found.push(...rows);
        await breathe();
        if (rows.length < SLICE) break;
        after = rows.at(-1)!.name;
      }
    return found;
  }

  /** Paths of some items, by id; those that are no more are left out. */
  pathsOf(ids: readonly number[]): Map<number, SitePath> {
    return new Map(
      this.db.tuples<[number, SitePath]>(
        'select id, path from item where id in (select value from json_each(?))',
        JSON.stringify(ids),
      ),
    );
  }

  /** Items by their ids, in that order; those that are no more are left out. */
  some(ids: readonly number[]): Item[] {
    return itemsOf(this.db, BY_IDS, { ids: JSON.stringify(ids) });
  }

  /** The same for any number of them: in slices, so that others go on. */
  async many(ids: readonly number[]): Promise<Item[]> {
    const items: Item[] = [];
    for (let at = 0; at < ids.length; at += READ_AT_ONCE) {
      items.push(...this.some(ids.slice(at, at + READ_AT_ONCE)));
      await breathe();
    }
    return items;
  }

  /** Every folder that holds items on the site, with how many lie in it (not below). */
  folders(reader: Reader): Promise<{ folder: SitePath; items: number }[]> {
    return reader.rows(
      `select folder, count(case when size_of is null then 1 end) as items from item
       where state = 'here' group by folder order by folder`,
      {},
    );
  }

  /** Folders in whose own name all of some parts stand (lower case, without accents), with all that lies in them and below. */
  async foldersNamed(
    reader: Reader,
    parts: readonly string[],
    most: number,
  ): Promise<{ folder: SitePath; items: number }[]> {
    const own = await this.folders(reader);
    const all = new Set<SitePath>();
    await each(own, breathe, ({ folder }) => {
      for (let at = folder; at !== '' && !all.has(at); at = folderOf(at)) all.add(at);
    });
    const named = await filter(all, breathe, (folder) => {
      const name = fold(baseName(folder));
      return parts.every((part) => name.includes(part));
    });
    const found = named.slice(0, most).map((folder) => ({ folder, items: 0 }));
    await each(own, breathe, ({ folder, items }) => {
      for (const one of found) if (isWithin(one.folder, folder)) one.items += items;
    });
    return found;
  }

  /** Groups of items on the site whose bytes are the same; the most placed first in each. */
  async copies(reader: Reader): Promise<Item[][]> {
    const ids = await reader.ids(
      `select id from item where state = 'here' and sha256 in
         (select sha256 from item where state = 'here' and sha256 <> '' group by sha256 having count(*) > 1)
       order by bytes desc, sha256, placements desc, path`,
      {},
    );
    const groups = new Map<string, Item[]>();
    await each(await this.many([...ids]), breathe, (item) => {
      const group = groups.get(item.sha256);
      if (group) group.push(item);
      else groups.set(item.sha256, [item]);
    });
    return [...groups.values()];
  }

  /** How many there are: a picture and its sizes are one, and weigh what all of them weigh. */
  counts(): Counts {
    return this.db.get<Counts>(COUNTS)!;
  }

  /** The same, with how many groups of copies there are; counted on a thread of its own. */
  async countsApart(reader: Reader): Promise<Counts & { copies: number }> {
    const copies = `select count(*) as copies from (select 1 from item where state = 'here' and sha256 <> ''
      group by sha256 having count(*) > 1)`;
    const [[counts], [groups]] = (await reader.many([COUNTS, copies], {})) as [
      [Counts],
      [{ copies: number }],
    ];
    return { ...counts, ...groups };
  }

  /** Adds a record for a file. */
  add(item: {
    path: SitePath;
    state: ItemState;
    facts: Pick<FileFacts, 'bytes' | 'sha256' | 'item'>;
    addedAt: string;
    addedBy: number | null;
    originalName: string | null;
    originalSha256?: string | null;
  }): number {
    const { facts } = item;
    const done = this.db.run(
      `insert into item (id, path, folder, name, state, kind, mime, bytes, sha256, width, height, duration, unreadable,
           added_at, added_by, original_name, original_sha256, name_faults, use)
         values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
      freshId(this.db, 'item'),
      item.path,
      folderOf(item.path),
      baseName(item.path),
      item.state,
      kindOf(item.path),
      mimeOf(item.path),
      facts.bytes,
      facts.sha256,
      facts.item?.width ?? null,
      facts.item?.height ?? null,
      facts.item?.duration ?? null,
      facts.item?.unreadable ?? null,
      item.addedAt,
      item.addedBy,
      item.originalName,
      item.originalSha256 ?? null,
      this.faultsOf(item.path),
      useOf(item.path, false, false),
    );
    return Number(done.lastInsertRowid);
  }

  /** A record for a copy that is still to be made: the words, tags and owner are those of the other item. */
  addCopy(of: number, path: SitePath, personId: number, now: string): number {
    const done = this.db.run(
      `insert into item (id, path, folder, name, state, kind, mime, bytes, sha256, width, height, duration, unreadable,
           added_at, added_by, original_name, original_sha256, name_faults, use, ${WORD_COLUMNS}, owner_id)
         select @id, @path, @folder, @name, 'absent', kind, mime, bytes, sha256, width, height, duration, unreadable,
           @now, @personId, name, original_sha256, @faults, @use, ${WORD_COLUMNS}, owner_id from item where id = @of`,
      {
        path,
        folder: folderOf(path),
        name: baseName(path),
        now,
        personId,
        faults: this.faultsOf(path),
        use: useOf(path, false, false),
        of,
        id: freshId(this.db, 'item'),
      },
    );
    const id = Number(done.lastInsertRowid);
    this.db.run(
      'insert into item_tag (item_id, tag_id) select @id, tag_id from item_tag where item_id = @of',
      { id, of },
    );
    return id;
  }

  /** Takes records away whose files never came. */
  async removeAbsent(ids: readonly number[]): Promise<void> {
    for (let at = 0; at < ids.length; at += READ_AT_ONCE) {
      this.db.write(() => {
        for (const id of ids.slice(at, at + READ_AT_ONCE)) {
          if (this.get(id)?.state !== 'absent') continue;
          this.setTags(id, []);
          this.db.run('delete from item where id = ?', id);
        }
      });
      await breathe();
    }
  }

  /** Brings an item's facts in line with its file. */
  setFacts(id: number, facts: FileFacts, byOthers = false): void {
    this.db.run(
      'update item set bytes = ?, sha256 = ?, width = ?, height = ?, duration = ?, unreadable = ?, outside = ? where id = ?',
      facts.bytes,
      facts.sha256,
      facts.item?.width ?? null,
      facts.item?.height ?? null,
      facts.item?.duration ?? null,
      facts.item?.unreadable ?? null,
      Number(byOthers),
      id,
    );
  }

  /** Frees a path for another item, if one of some has it that get another one themselves before long. */
  private freePath(path: SitePath, id: number, exchanged: ReadonlySet<number>): void {
    const other = this.db.value<number>(
      "select id from item where path = ? and state = 'here' and id <> ?",
      path,
      id,
    );
    if (other !== undefined && exchanged.has(other))
      this.db.run("update item set path = '//' || id where id = ?", other);
  }

  /** An item whose path was freed for another one gets it back. */
  returnTo(id: number, path: SitePath): void {
    this.db.run("update item set path = ? where id = ? and path = '//' || id", path, id);
  }

  /** Follows a file that others moved or took away: only where it is changes, not its words. */
  setPlace(id: number, path: SitePath, state: ItemState, byOthers = false): void {
    this.db.run(
      'update item set path = ?, folder = ?, name = ?, name_faults = ?, state = ?, outside = ? where id = ?',
      path,
      folderOf(path),
      baseName(path),
      this.faultsOf(path),
      state,
      Number(byOthers),
      id,
    );
  }

  /** Follows a file that others have moved; where it lay is remembered until somebody has seen it. */
  followMove(id: number, from: SitePath, to: SitePath): void {
    this.setPlace(id, to, 'here');
    this.db.run('update item set moved_from = ? where id = ?', from, id);
  }

  /** What is wrong with a name, also against its folder's pattern, as it is kept. */
  private faultsOf(path: SitePath): string {
    return nameCheck(path, patternAt(this.db, folderOf(path))).join(' ');
  }

  /** Notes that the names in a folder and below are to be checked anew, as its pattern has changed; `checkNames` does it. */
  uncheckNames(folder: SitePath): void {
    const before = this.db.value<SitePath>("select value from site_state where name = 'names-of'");
    let both = before ?? folder;
    while (!isWithin(both, folder)) both = folderOf(both);
    this.db.run("insert or replace into site_state (name, value) values ('names-of', ?)", both);
  }

  /** Checks the names that are to be checked anew, in slices. */
  async checkNames(): Promise<void> {
    const state = "select value from site_state where name = 'names-of'";
    const folder = this.db.value<SitePath>(state);
    if (folder === undefined) return;
    for (let after = 0; after !== Infinity; await breathe()) after = this.checkSomeNames(folder, after);
    // Another one may have been noted meanwhile.
    if (this.db.value(state) === folder) this.db.run("delete from site_state where name = 'names-of'");
  }

  /** Those that come after an id. @returns the last of them; Infinity when there are no more */
  private checkSomeNames(folder: SitePath, after: number): number {
    const rows = this.db.all<{ id: number; path: SitePath; faults: string }>(
      "select id, path, name_faults as faults from item where id > ? and state <> 'absent' order by id limit 500",
      after,
    );
    const update = 'update item set name_faults = ? where id = ?';
    for (const { id, path, faults } of rows) {
      if (!isWithin(folder, folderOf(path))) continue;
      const now = this.faultsOf(path);
      if (now !== faults) this.db.run(update, now, id);
    }
    return rows.at(-1)?.id ?? Infinity;
  }

  /**
   * Counts placements and derives the use of every item anew, in slices: what is not there yet is as it was.
   */
  async refreshUse(): Promise<void> {
    // A place that offers a picture in sizes is one place of it.
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

  /**
   * Applies one record step.
   * @param exchanged items of the same plan that change places with others: one that has a path which this one gets leaves it
   * @throws Fault 'stale-record' when the record has changed since the plan
   */
  apply(step: RecordStep, personId: number, now: string, exchanged: ReadonlySet<number> = new Set()): void {
    const after = step.after;
    if (after.path !== undefined && exchanged.has(step.itemId))
      this.freePath(after.path, step.itemId, exchanged);
    const sets: string[] = ['row_version = row_version + 1', 'changed_at = @now', 'changed_by = @personId'];
    const values: Record<string, string | number | null> = {
      now,
      personId,
      id: step.itemId,
      rowVersion: step.rowVersion,
    };
    const set = (column: string, value: string | number | null) => {
      sets.push(`${column} = @${column}`);
      values[column] = value;
    };
    if (after.path !== undefined) {
      set('path', after.path);
      set('folder', folderOf(after.path));
      set('name', baseName(after.path));
      set('name_faults', this.faultsOf(after.path));
      // Another ending: it has become a file of another format. What people have brought in stays what it was.
      if (isItemPath(after.path)) {
        set('kind', kindOf(after.path));
        set('mime', mimeOf(after.path));
      }
    }
    if (after.state !== undefined) {
      set('state', after.state);
      set('aside_at', after.state === 'aside' ? now : null);
    }
    for (const field of TEXT_FIELD_KEYS)
      if (after[field] !== undefined) set(TEXT_FIELDS[field].column, after[field]);
    if (after.focal !== undefined) set('focal', after.focal);
    if (after.own !== undefined) set('own', JSON.stringify(after.own));
    if (after.owner !== undefined) {
      sets.push('owner_id = (select id from person where name = @owner)');
      values['owner'] = after.owner;
    }
    if (after.outside !== undefined) set('outside', Number(after.outside));
    if (after.movedFrom !== undefined) set('moved_from', after.movedFrom);
    if (after.family !== undefined) set('family', after.family);
    if (after.decorative !== undefined) set('decorative', Number(after.decorative));
    const done = this.db.run(
      `update item set ${sets.join(', ')} where id = @id and row_version = @rowVersion`,
      values,
    );
    if (done.changes !== 1) throw this.staleRecord(step.itemId);
    // The row's version is the one that was planned from, so its tags are those of then.
    if (after.tags !== undefined) this.setTags(step.itemId, after.tags, step.before.tags);
  }

  /** The first of some records that is not of the version it is expected in. */
  newerThan(steps: readonly { itemId: number; rowVersion: number }[]): number | undefined {
    const version = 'select row_version from item where id = ?';
    return steps.find(({ itemId, rowVersion }) => this.db.value(version, itemId) !== rowVersion)?.itemId;
  }

  /** What to tell a person whose change came after someone else's. Nothing of theirs has been saved. */
  staleRecord(id: number): Fault {
    const current = this.get(id);
    const who = current?.changedBy ? `${current.changedBy} changed` : 'Someone changed';
    return new Fault(
      'stale-record',
      `${who} this record after you opened it, so your change was not saved.`,
      'Compare both versions and choose which to keep.',
      current,
    );
  }

  /** Only the difference is written; a tag that nothing bears any more is gone. */
  /** @param had the tags that it has, when they are known */
  private setTags(id: number, tags: readonly string[], had = this.tagsOf(id)): void {
    const { db } = this;
    const idOf = 'select id from tag where name = ?';
    const tagId = (name: string) => db.get<{ id: number }>(idOf, name)?.id;
    const key = (name: string) => name.toLowerCase();
    const wanted = new Set(tags.map(key));
    for (const name of had) {
      if (wanted.has(key(name))) continue;
      const tag = tagId(name);
      db.run('delete from item_tag where item_id = ? and tag_id = ?', id, tag);
      db.run('delete from tag where id = @tag and not exists (select 1 from item_tag where tag_id = @tag)', {
        tag,
      });
    }
    const spelt = new Map(had.map((name) => [key(name), name]));
    for (const name of tags) {
      const before = spelt.get(key(name));
      if (before === name) continue;
      if (before !== undefined) {
        db.run('update tag set name = @name where name = @name', { name });
        continue;
      }
      const tag = tagId(name) ?? db.run('insert into tag (name) values (?)', name).lastInsertRowid;
      db.run('insert into item_tag (item_id, tag_id) values (?, ?) on conflict do nothing', id, tag);
    }
  }

  private tagsOf(id: number): string[] {
    return this.db.values<string>(
      'select tag.name from item_tag join tag on tag.id = item_tag.tag_id where item_id = ?',
      id,
    );
  }
}
