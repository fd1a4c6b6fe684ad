import type { Kind } from '../../core/address/kinds.ts';
import { MARKS } from './item-query.ts';
import type { Db } from './database.ts';

export interface CareDay {
  day: string;
  items: number;
  bytes: number;
  described: number;
  named: number;
  filed: number;
  placed: number;
}

const SHARES = `count(*) as items, coalesce(sum(bytes), 0) as bytes, count(case when ${MARKS['described']} then 1 end) as described,
  count(case when ${MARKS['named']} then 1 end) as named, count(case when ${MARKS['filed']} then 1 end) as filed,
  count(case when ${MARKS['placed']} then 1 end) as placed`;

/** How the library stands as a whole, and how it stood. */
export class Care {
  constructor(private readonly db: Db) {}

  /** As it stands now; `day` as given. */
  now(day: string): CareDay {
    return this.db.prepare(`select ? as day, ${SHARES} from item where state = 'here'`).get(day) as CareDay;
  }

  /** Keeps how it stands as that of a day. */
  keep(day: CareDay): void {
    this.db
      .prepare(
        `insert or replace into care_day (day, items, bytes, described, named, filed, placed)
         values (@day, @items, @bytes, @described, @named, @filed, @placed)`,
      )
      .run(day);
  }

  /** The latest days on which it was looked at, the first of them first. */
  history(most: number): CareDay[] {
    return (
      this.db
        .prepare(
          'select day, items, bytes, described, named, filed, placed from care_day order by day desc limit ?',
        )
        .all(most) as CareDay[]
    ).reverse();
  }

  byKind(): { kind: Kind; items: number; bytes: number }[] {
    return this.db
      .prepare(
        "select kind, count(*) as items, sum(bytes) as bytes from item where state = 'here' group by kind order by bytes desc",
      )
      .all() as { kind: Kind; items: number; bytes: number }[];
  }

  /** By the outermost folder. */
  byFolder(): { folder: string; items: number; bytes: number }[] {
    return this.db
      .prepare(
        `select case when instr(folder, '/') > 0 then substr(folder, 1, instr(folder, '/') - 1) else folder end as top,
           count(*) as items, sum(bytes) as bytes from item where state = 'here' group by top order by bytes desc`,
      )
      .all()
      .map((row) => {
        const { top, ...rest } = row as { top: string; items: number; bytes: number };
        return { folder: top, ...rest };
      });
  }

  /** By the month in which they were added, 'YYYY-MM'. */
  byMonth(): { month: string; items: number; bytes: number; unused: number }[] {
    return this.db
      .prepare(
        `select substr(added_at, 1, 7) as month, count(*) as items, sum(bytes) as bytes,
           coalesce(sum(case when use = 'unused' then bytes end), 0) as unused
         from item where state = 'here' group by month order by month`,
      )
      .all() as { month: string; items: number; bytes: number; unused: number }[];
  }
}
