import type { SitePath } from '../../core/address/path.ts';
import { isHtmlPage } from '../../core/reference/page-edit.ts';
import type { Db } from './database.ts';

/** A page on which images are shown whose widths were not measured since it, or a style sheet, has changed. */
export interface PageToMeasure {
  path: SitePath;
  title: string;
}

/** How wide a browser draws the images of the pages, in CSS pixels: more than a page's own words tell. */
export class ShownWidths {
  constructor(private readonly db: Db) {}

  /** Pages that are not measured yet, in the order of their addresses. Sizes to choose from are what pages offer, and need no measuring. */
  toMeasure(): PageToMeasure[] {
    return this.db
      .all<PageToMeasure>(`select placement.page as path, coalesce(page.title, '') as title from placement
         join item on item.path = placement.path and item.state = 'here' and item.kind = 'image' and item.width > 0
         left join page on page.path = placement.page
         where placement.place = 'img src' and placement.state = 'placed' and placement.sizes_of is null
           and (placement.page like '%.html' or placement.page like '%.htm' or placement.page like '%.xhtml')
           and not exists (select 1 from measured_page where measured_page.page = placement.page)
         group by placement.page order by placement.page`);
  }

  measuredCount(): number {
    return this.db.value<number>('select count(*) from measured_page')!;
  }

  /**
   * Keeps what a page was measured to show. What is not shown by it as an image is passed over.
   * @param shown byte offsets of addresses, and how wide their images are drawn at most
   */
  save(page: SitePath, shown: readonly { start: number; wide: number }[], at: string): void {
    const pathOf =
      "select path from placement where page = ? and start = ? and place = 'img src' and state = 'placed'";
    const insert = `insert into shown_width (page, path, wide) values (?, ?, ?)
       on conflict do update set wide = max(wide, excluded.wide)`;
    this.db.write(() => {
      this.forget(page);
      for (const { start, wide } of shown) {
        const path = this.db.value<SitePath>(pathOf, page, start);
        if (path !== undefined) this.db.run(insert, page, path, wide);
      }
      this.db.run('insert into measured_page (page, at) values (?, ?)', page, at);
    });
  }

  /** A page has changed; or a style sheet or part of pages, and so every page may have. */
  forget(page: SitePath): void {
    const all = !isHtmlPage(page);
    for (const table of ['shown_width', 'measured_page'])
      if (all) this.db.run(`delete from ${table}`);
      else this.db.run(`delete from ${table} where page = ?`, page);
  }
}
