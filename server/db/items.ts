import { isItemPath } from '../../core/address/kinds.ts';
import type { SitePath } from '../../core/address/path.ts';
import { Fault } from '../fault.ts';
import type { Db } from './database.ts';
import { BY_IDS, COLUMNS, itemsOf, JOINS, type Item } from './item-rows.ts';
import { breathe } from '../workers/breathe.ts';

/** Where an item is, and its bytes. */
export interface ItemPlace {
  id: number;
  path: SitePath;
  sha256: string;
}

/** So many items are looked at between two breaths of the server's thread. */
const SLICE = 1000;
/** Whole items that are read or removed at once. */
const READ_AT_ONCE = 100;

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

  /** The item whose words a file bears: of a size, its image. */
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

  /** The draft that is to lie there. */
  draftAt(path: SitePath): Item | undefined {
    return this.where("item.path = @path and item.state = 'draft'", { path })[0];
  }

  /** Where drafts are to lie. */
  draftPaths(): SitePath[] {
    return this.db.values<SitePath>("select path from item where state = 'draft'");
  }

  /**
   * Items that somebody has something to do with: their drafts, what is theirs to look through or bring up to date, what is due; what is
   * due first.
   * @param reviews also what anybody wants to have looked through
   */
  concerning(personId: number, reviews: boolean): Item[] {
    return this.where(
      `item.state in ('here', 'draft') and item.size_of is null and (
         (item.owner_id = @personId and (item.state = 'draft' or item.review <> '' or item.due <> ''))
         or (item.added_by = @personId and item.state = 'draft')
         or (@reviews = 1 and item.review = 'in-review'))
       order by item.due = '', item.due, item.state = 'here', item.path limit 300`,
      { personId, reviews: Number(reviews) },
    );
  }

  /** Items that somebody looks after, and their drafts. */
  heldBy(personId: number): number[] {
    return this.db.values<number>(
      `select id from item where state in ('here', 'draft', 'aside')
         and (owner_id = @personId or (owner_id is null and added_by = @personId and state = 'draft')) order by path`,
      { personId },
    );
  }

  /** Whether nothing but drafts has these bytes. */
  onlyDrafts(sha256: string): Item[] {
    const items = this.where('item.sha256 = @sha256', { sha256 });
    return items.every((item) => item.state === 'draft' || item.state === 'absent')
      ? items.filter((item) => item.state === 'draft')
      : [];
  }

  /** An item that is set aside, or whose file is missing, lay there: what comes to that path would be taken for it. */
  isHeld(path: SitePath): boolean {
    const held = "path = @path and (state = 'aside' or (state = 'absent' and outside = 1))";
    return this.places(held, { path }).length > 0;
  }

  /** Paths of items of a kind that does not make a file an item by itself. */
  brought(): Set<SitePath> {
    const paths = this.db.values<SitePath>("select path from item where kind = 'other'");
    return new Set(paths.filter((path) => !isItemPath(path)));
  }

  /** Items on the site that come from these sources, by source. */
  withSources(sources: readonly string[]): Map<string, { id: number; path: SitePath }[]> {
    const found = new Map<string, { id: number; path: SitePath }[]>();
    const rows = this.db.all<{ id: number; path: SitePath; source: string }>(
      `select id, path, source from item where state = 'here' and source in (select value from json_each(?)) order by path`,
      JSON.stringify(sources),
    );
    for (const { source, ...one } of rows) found.set(source, [...(found.get(source) ?? []), one]);
    return found;
  }

  /** PDFs on the site that were made from an item, or from the page of a path. */
  pdfsOf(from: number | SitePath): Item[] {
    return this.where(
      `json_extract(item.edit, '$.pdf.from') = @from and item.edit like '{"pdf":%' and item.state = 'here' order by item.path`,
      { from },
    );
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

  /** Names of the items that lie in a folder itself. */
  namesIn(folder: SitePath): string[] {
    return this.db.values<string>("select name from item where state = 'here' and folder = ?", folder);
  }

  /** What tells the images in some folders apart by size: those that lie in them, not below. */
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
}
