import type { Kind } from '../../core/address/kinds.ts';
import type { SitePath } from '../../core/address/path.ts';
import type { Mention } from '../../core/reference/mention.ts';
import type { Placement } from '../../core/reference/survey.ts';
import { breathe } from '../workers/breathe.ts';
import type { Db } from './database.ts';
import type { Reader } from './reader.ts';

export interface PlacementRow {
  page: SitePath;
  pageTitle: string;
  start: number;
  end: number;
  line: number;
  url: string;
  place: string;
  alt: string | null;
  hasAlt: boolean;
}

/** Where one item is placed. */
export interface PlacedRow extends PlacementRow {
  path: SitePath;
  /** CSS pixels by its own element. */
  wide: number | null;
  /** As one of several sizes; `sizesOf`: where the element begins that offers them. */
  sized: boolean;
  sizesOf: number | null;
}

export interface BrokenRow {
  page: SitePath;
  pageTitle: string;
  start: number;
  line: number;
  url: string;
  path: SitePath;
  /** A generator may read it otherwise. */
  unsure: boolean;
}

export interface PageRow {
  path: SitePath;
  title: string;
  unread: string | null;
  placements: number;
  items: number;
  missingAlt: number;
  broken: number;
  bytes: number;
}

/** How pages refer to items: placements and mentions. */
export class References {
  constructor(private readonly db: Db) {}

  replacePlacements(page: SitePath, placements: readonly Placement[]): void {
    this.db.run('delete from placement where page = ?', page);
    const insert = `insert into placement (page, start, "end", line, url, place, alt, has_alt, path, state, near, sizes_of, wide, unsure)
       values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`;
    for (const one of placements) {
      this.db.run(
        insert,
        page,
        one.start,
        one.end,
        one.line,
        one.url,
        one.place,
        one.alt ?? null,
        Number(one.alt !== null && one.alt !== undefined),
        one.path,
        one.state,
        one.near ?? null,
        one.sizesOf ?? null,
        one.wide ?? null,
        Number(one.unsure ?? false),
      );
    }
  }

  replaceMentions(page: SitePath, mentions: readonly Mention[]): void {
    this.db.run('delete from mention where page = ?', page);
    const insert = 'insert into mention (page, path, line) values (?, ?, ?) on conflict do nothing';
    for (const one of mentions) this.db.run(insert, page, one.path, one.line);
  }

  /** For each of some files, all that refers to it or names it, as a short text: another text, when anything has changed. */
  usesOf(paths: readonly SitePath[]): Map<SitePath, string> {
    const rows = this.db.all<{ path: SitePath; uses: string }>(
      `select wanted.value as path,
           (select coalesce(group_concat(one, char(10)), '') from (select page || ' ' || start || ' ' || url as one from placement
             where placement.path = wanted.value and state = 'placed' order by page, start)) || char(0) ||
           (select coalesce(group_concat(one, char(10)), '') from (select page || ' ' || line as one from mention
             where mention.path = wanted.value order by page, line)) || char(0) ||
           (select count(*) from live_placement where live_placement.path = wanted.value) as uses
         from json_each(?) as wanted`,
      JSON.stringify(paths),
    );
    return new Map(rows.map(({ path, uses }) => [path, uses]));
  }

  /** Drops what is kept of pages and texts that are no files any more. */
  async dropOfOthers(files: ReadonlyMap<SitePath, unknown>): Promise<void> {
    for (const table of ['placement', 'mention']) {
      // One after the other along the index.
      const next = `select min(page) from ${table} where page > ?`;
      const drop = `delete from ${table} where page = ?`;
      for (
        let page = this.db.value<SitePath | null>(next, '')!;
        page !== null;
        page = this.db.value<SitePath | null>(next, page)!
      ) {
        if (!files.has(page)) this.db.run(drop, page);
        await breathe();
      }
    }
  }

  /** Where an item is placed; `wide`: CSS pixels by its own element; `sized`: as one of several sizes. */
  placementsOf(path: SitePath): PlacedRow[] {
    const rows = this.db.all<Omit<PlacedRow, 'hasAlt' | 'sized' | 'path'> & { hasAlt: number }>(
      `select placement.page, coalesce(page.title, '') as pageTitle, start, "end", line, url, place, alt, has_alt as hasAlt, wide,
           sizes_of as sizesOf
         from placement left join page on page.path = placement.page
         where placement.path = ? and state = 'placed' and placement.page <> placement.path
         order by placement.page, start`,
      path,
    );
    return rows.map((row) => ({ ...row, path, hasAlt: row.hasAlt === 1, sized: row.sizesOf !== null }));
  }

  /** Where an image or one of its sizes is placed: a place that offers several of them comes once. */
  placementsOfFamily(picture: SitePath, sizes: readonly SitePath[]): PlacedRow[] {
    const own = this.placementsOf(picture);
    const key = ({ page, sizesOf, start }: PlacedRow) => `${sizesOf ?? start} ${page}`;
    const seen = new Set(own.filter((one) => one.sized).map(key));
    const rows = sizes.flatMap((path) => this.placementsOf(path));
    // What browsers show that know no sizes says most of a place.
    rows.sort((a, b) => Number(b.place === 'img src') - Number(a.place === 'img src'));
    for (const row of rows) {
      if (seen.has(key(row))) continue;
      seen.add(key(row));
      own.push(row);
    }
    return own.sort((a, b) => (a.page === b.page ? a.start - b.start : a.page < b.page ? -1 : 1));
  }

  /** The placements of items on a page, in order of place. */
  placedOn(page: SitePath): (PlacementRow & { path: SitePath })[] {
    const rows = this.db.all<Omit<PlacementRow, 'hasAlt'> & { hasAlt: number; path: SitePath }>(
      `select placement.path, placement.page, coalesce(page.title, '') as pageTitle, start, "end", line, url,
           placement.place, placement.alt, has_alt as hasAlt
         from placement join item on item.path = placement.path and item.state = 'here'
         left join page on page.path = placement.page
         where placement.page = ? and placement.state = 'placed' order by start`,
      page,
    );
    return rows.map((row) => ({ ...row, hasAlt: row.hasAlt === 1 }));
  }

  mentionsOf(path: SitePath): { page: SitePath; path: SitePath; line: number }[] {
    return this.db.all<{
      page: SitePath;
      path: SitePath;
      line: number;
    }>('select page, path, line from mention where path = ? order by page, line', path);
  }

  /** Every page. */
  pagePaths(): SitePath[] {
    return this.db.values<SitePath>('select path from page order by path');
  }

  /** The pages with a placement on one of some paths. */
  pagesShowing(paths: readonly SitePath[]): SitePath[] {
    // By path: left to itself, SQLite walks all placements for the sake of 'distinct'.
    return this.db.values<SitePath>(
      `select distinct page from json_each(?) as wanted
         cross join placement on placement.path = wanted.value and +placement.state = 'placed'`,
      JSON.stringify(paths),
    );
  }

  /** Ids of items that one element offers as sizes of one image, for each element that offers one of some items. */
  sizeSets(ids: readonly number[]): number[][] {
    const rows = this.db.all<{ page: SitePath; at: number; id: number }>(
      `select distinct other.page, other.sizes_of as at, shown.id from json_each(?) as wanted
         cross join item on item.id = wanted.value
         cross join placement on placement.path = item.path and placement.sizes_of is not null
         cross join placement as other on other.page = placement.page and other.sizes_of = placement.sizes_of
         cross join item as shown on shown.path = other.path and shown.state = 'here'`,
      JSON.stringify(ids),
    );
    const sets = new Map<string, number[]>();
    for (const { page, at, id } of rows) {
      const key = `${at} ${page}`;
      sets.set(key, [...(sets.get(key) ?? []), id]);
    }
    return [...sets.values()];
  }

  /** Items that one file, such as a drawing or a page, refers to and no other does. */
  onlyShownBy(page: SitePath): SitePath[] {
    return this.db.values<SitePath>(
      `select distinct placement.path from placement join item on item.path = placement.path and item.state = 'here'
         where placement.page = @page and placement.state = 'placed' and placement.path <> @page
           and not exists (select 1 from placement as other
             where other.path = placement.path and other.state = 'placed' and other.page not in (@page, other.path))
         order by placement.path`,
      { page },
    );
  }

  /** Whether one of some pages offers an image in sizes. */
  offersSizes(pages: readonly SitePath[]): boolean {
    return (
      this.db.value(
        `select exists (select 1 from json_each(?) as wanted
             cross join placement on placement.page = wanted.value and placement.sizes_of is not null)`,
        JSON.stringify(pages),
      ) === 1
    );
  }

  /**
   * Titles of the pages that show each of some items, at most three.
   * @param written only titles that people wrote: style sheets and data files are called after their own file
   */
  pageTitles(ids: readonly number[], written = false): Map<number, string[]> {
    const rows = this.db.all<{ id: number; title: string }>(
      `select distinct item.id, placement.page, page.title from json_each(?) as wanted
         cross join item on item.id = wanted.value
         cross join placement on placement.path = item.path and placement.state = 'placed'
         cross join page on page.path = placement.page
         where page.title <> '' and (not ? or '/' || page.path not like '%/' || page.title)
         order by item.id, placement.page`,
      JSON.stringify(ids),
      Number(written),
    );
    const titles = new Map<number, string[]>();
    for (const { id, title } of rows) {
      const there = titles.get(id) ?? [];
      if (there.length < 3 && !there.includes(title)) titles.set(id, [...there, title]);
    }
    return titles;
  }

  /** Where the names of some files stand as text. */
  mentionsOfAll(paths: readonly SitePath[]): { page: SitePath; path: SitePath; line: number }[] {
    return this.db.all<{ page: SitePath; path: SitePath; line: number }>(
      `select page, mention.path, line from json_each(?) as wanted
         cross join mention on mention.path = wanted.value order by page, line`,
      JSON.stringify(paths),
    );
  }

  /** As JSON of PageView[]. */
  pages(reader: Reader): Promise<Uint8Array> {
    return reader.json(
      `select page.path, page.title, page.unread,
           count(item.id) as placements,
           count(distinct item.id) as items,
           count(case when item.id is not null and placement.place = 'img src' and placement.has_alt = 0 then 1 end) as missingAlt,
           count(case when placement.state = 'broken' then 1 end) as broken,
           coalesce((select sum(bytes) from item as shown where shown.state = 'here' and shown.path in
             (select path from placement as inner_placement where inner_placement.page = page.path and inner_placement.state = 'placed')), 0) as bytes
         from page
         left join placement on placement.page = page.path
         left join item on item.path = placement.path and item.state = 'here' and placement.state = 'placed'
         group by page.path order by page.path`,
      {},
    );
  }

  brokenCount(): number {
    return this.db.value<number>("select count(*) from placement where state = 'broken'")!;
  }

  /** What leads nowhere on a page, in order of place. `path`: where it would lead. */
  brokenOf(page: SitePath): BrokenRow[] {
    const rows = this.db.all<Omit<BrokenRow, 'unsure'> & { unsure: number }>(
      `select placement.page, coalesce(page.title, '') as pageTitle, start, line, url, placement.path, unsure
         from placement left join page on page.path = placement.page
         where placement.page = ? and state = 'broken' order by start`,
      page,
    );
    return rows.map((row) => ({ ...row, unsure: row.unsure === 1 }));
  }

  /** The same on all pages, in the order of their paths; read page by page, while others go on. */
  async allBroken(): Promise<BrokenRow[]> {
    const next = "select min(page) from placement where state = 'broken' and page > ?";
    const found: BrokenRow[] = [];
    for (
      let page = this.db.value<SitePath | null>(next, '')!;
      page !== null;
      page = this.db.value<SitePath | null>(next, page)!
    ) {
      for (const row of this.brokenOf(page)) found.push(row);
      await breathe();
    }
    return found;
  }

  /** What a page shows, in order of place. */
  shownOn(page: SitePath) {
    return this.db.all<{
      itemId: number;
      path: SitePath;
      kind: Kind;
      sha256: string;
      bytes: number;
      width: number | null;
      height: number | null;
      focal: string;
      start: number;
      line: number;
      place: string;
      url: string;
      alt: string | null;
      hasAlt: number;
    }>(
      `select item.id as itemId, item.path, item.kind, item.sha256, item.bytes, item.width, item.height, item.focal,
           placement.start, placement.line, placement.place, placement.url, placement.alt, placement.has_alt as hasAlt
         from placement join item on item.path = placement.path and item.state = 'here'
         where placement.page = ? and placement.state = 'placed' order by placement.start`,
      page,
    );
  }

  /** What a page calls itself, else its path. */
  titleOf(page: SitePath): string {
    const title = this.db.value('select title from page where path = ?', page);
    return (title as string | undefined) || page;
  }
}
