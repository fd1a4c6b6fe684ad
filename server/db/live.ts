import type { LiveView } from '../../api/pages.ts';
import type { SitePath } from '../../core/address/path.ts';
import type { Db } from './database.ts';

/** One page of a live site as it was read, with the items of the library that it shows. */
export interface LivePage {
  url: string;
  title: string;
  status: number;
  placements: { path: SitePath; address: string; place: string; alt: string | null; hasAlt: boolean }[];
}

export interface LivePlacement {
  url: string;
  title: string;
  place: string;
  alt: string | null;
  readAt: string;
}

/** What live sites show of the library, as their last reading found it. */
export class Live {
  constructor(private readonly db: Db) {}

  /** Takes the reading of one origin in place of its last one. */
  replace(origin: string, pages: readonly LivePage[], now: string): void {
    this.db.write(() => {
      const like = `${origin.replace(/[\\%_]/g, '\\$&')}/%`;
      for (const table of ['live_page', 'live_placement'])
        this.db.run(`delete from ${table} where url like ? escape '\\'`, like);
      const page = 'insert or replace into live_page (url, title, status, read_at) values (?, ?, ?, ?)';
      const placement =
        'insert into live_placement (url, path, address, place, alt, has_alt) values (?, ?, ?, ?, ?, ?)';
      for (const { url, title, status, placements } of pages) {
        this.db.run(page, url, title, status, now);
        for (const one of placements)
          this.db.run(placement, url, one.path, one.address, one.place, one.alt, Number(one.hasAlt));
      }
    });
  }

  /** Forgets all that was read of live sites. */
  forget(): void {
    this.db.write(() => {
      this.db.run('delete from live_page');
      this.db.run('delete from live_placement');
    });
  }

  isSeen(path: SitePath): boolean {
    return this.db.get('select 1 from live_placement where path = ?', path) !== undefined;
  }

  placementsOf(path: SitePath): LivePlacement[] {
    return this.db.all<LivePlacement>(
      `select live_placement.url, title, place, alt, read_at as readAt from live_placement
         join live_page on live_page.url = live_placement.url where path = ? order by live_placement.url, live_placement.id limit 50`,
      path,
    );
  }

  view(): LiveView {
    const pages = this.db.all<LiveView['pages'][number]>(`select url, title, status, read_at as readAt,
           (select count(*) from live_placement where live_placement.url = live_page.url) as placements
         from live_page order by status >= 400 desc, url`);
    const items = this.db.get<{ seen: number; only: number }>(`select count(distinct item.id) as seen,
           count(distinct case when item.placements = 0 then item.id end) as only
         from live_placement join item on item.path = live_placement.path and item.state = 'here'`)!;
    return { pages, items };
  }
}
