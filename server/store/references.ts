import type { SitePath } from '../../core/address/path.ts';
import type { Mention } from '../../core/reference/mention.ts';
import type { Placement } from '../../core/reference/survey.ts';
import type { Db } from './database.ts';

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
    this.db.prepare('delete from placement where page = ?').run(page);
    const insert = this.db.prepare(
      `insert into placement (page, start, "end", line, url, place, alt, has_alt, path, state, near)
       values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
    );
    for (const one of placements) {
      insert.run(
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
      );
    }
  }

  replaceMentions(page: SitePath, mentions: readonly Mention[]): void {
    this.db.prepare('delete from mention where page = ?').run(page);
    const insert = this.db.prepare(
      'insert into mention (page, path, line) values (?, ?, ?) on conflict do nothing',
    );
    for (const one of mentions) insert.run(page, one.path, one.line);
  }

  placementsOf(path: SitePath): PlacementRow[] {
    const rows = this.db
      .prepare(
        `select placement.page, coalesce(page.title, '') as pageTitle, start, "end", line, url, place, alt, has_alt as hasAlt
         from placement left join page on page.path = placement.page
         where placement.path = ? and state = 'placed' and placement.page <> placement.path
         order by placement.page, start`,
      )
      .all(path) as (Omit<PlacementRow, 'hasAlt'> & { hasAlt: number })[];
    return rows.map((row) => ({ ...row, hasAlt: row.hasAlt === 1 }));
  }

  mentionsOf(path: SitePath): { page: SitePath; path: SitePath; line: number }[] {
    return this.db
      .prepare('select page, path, line from mention where path = ? order by page, line')
      .all(path) as {
      page: SitePath;
      path: SitePath;
      line: number;
    }[];
  }

  /** The pages with a placement on a path. */
  pagesShowing(path: SitePath): SitePath[] {
    return this.db
      .prepare("select distinct page from placement where path = ? and state = 'placed'")
      .pluck()
      .all(path) as SitePath[];
  }

  pages(): PageRow[] {
    return this.db
      .prepare(
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
      )
      .all() as PageRow[];
  }

  brokenCount(): number {
    return this.db.prepare("select count(*) from placement where state = 'broken'").pluck().get() as number;
  }

  brokenOf(page: SitePath): { line: number; url: string; near: SitePath | null }[] {
    return this.db
      .prepare("select line, url, near from placement where page = ? and state = 'broken' order by start")
      .all(page) as {
      line: number;
      url: string;
      near: SitePath | null;
    }[];
  }

  /** What a page shows, in order of place. */
  shownOn(page: SitePath) {
    return this.db
      .prepare(
        `select item.id as itemId, item.path, placement.line, placement.place, placement.alt, placement.has_alt as hasAlt
         from placement join item on item.path = placement.path and item.state = 'here'
         where placement.page = ? and placement.state = 'placed' order by placement.start`,
      )
      .all(page) as {
      itemId: number;
      path: SitePath;
      line: number;
      place: string;
      alt: string | null;
      hasAlt: number;
    }[];
  }
}
