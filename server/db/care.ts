import type { Kind } from '../../core/address/kinds.ts';
import { checksOf, LINES, type Line } from '../../core/upkeep/checks.ts';
import { FAMILY_BYTES, MARKS } from './item-query.ts';
import type { Db } from './database.ts';
import type { CheckCount } from './findings.ts';
import { COUNTS, OPEN } from './findings.ts';
import type { Reader } from './reader.ts';
import { USE_KNOWN } from './site-state.ts';

export interface CareDay {
  day: string;
  items: number;
  bytes: number;
  described: number;
  named: number;
  filed: number;
  placed: number;
  /** Items of which a group of checks says at least one thing; null: it was not kept yet on that day. */
  troubled: Troubled | null;
}
type Marks = Omit<CareDay, 'troubled'>;

/** An image and its sizes are one item, and weigh what all of them weigh. */
const NOW = `select @day as day, count(*) as items, coalesce(sum(${FAMILY_BYTES}), 0) as bytes, count(case when ${MARKS['described']} then 1 end) as described,
  count(case when ${MARKS['named']} then 1 end) as named, count(case when ${MARKS['filed']} then 1 end) as filed,
  count(case when ${MARKS['placed']} then 1 end) as placed from item where state = 'here' and size_of is null`;
const BY_KIND =
  "select kind, count(case when size_of is null then 1 end) as items, sum(bytes) as bytes from item where state = 'here' group by kind order by bytes desc";
/** By the outermost folder. */
const BY_FOLDER = `select case when instr(folder, '/') > 0 then substr(folder, 1, instr(folder, '/') - 1) else folder end as top,
  count(case when size_of is null then 1 end) as items, sum(bytes) as bytes from item where state = 'here' group by top order by bytes desc`;
/** By the month in which they were added, 'YYYY-MM'. */
const BY_MONTH = `select substr(added_at, 1, 7) as month, count(case when size_of is null then 1 end) as items, sum(bytes) as bytes,
  coalesce(sum(case when use = 'unused' and ${USE_KNOWN} then bytes end), 0) as unused from item where state = 'here' group by month order by month`;
/** Bytes that could be freed: unused items, copies beyond one of each, pixels that no page shows. Each item counts once. */
const FREEABLE = `select coalesce(sum(case when use = 'unused' and ${USE_KNOWN} then bytes when copy > 1 then bytes else coalesce(
    (select saves from finding where finding.item_id = counted.id and finding.name = 'too-large'), 0) end), 0) as bytes
  from (select id, bytes, use, row_number() over (partition by case when sha256 = '' then cast(id as text) else sha256 end
      order by use = 'unused', placements desc, path) as copy
    from item where state = 'here') as counted`;
/** Of each line, the items that at least one of its checks finds. */
type Troubled = Record<Line, number>;
const TROUBLED = `select line, count(distinct finding.item_id) as items from (select finding.*, case ${LINES.map(
  (line) =>
    `when name in (${checksOf(line)
      .map((name) => `'${name}'`)
      .join(', ')}) then '${line}'`,
).join(' ')} end as line from finding) as finding
  join item on item.id = finding.item_id and item.state = 'here' where line is not null and ${OPEN} group by line`;
const ASIDE = `select count(case when size_of is null then 1 end) as items, coalesce(sum(bytes), 0) as bytes, count(case when aside_at < @until and size_of is null then 1 end) as over
  from item where state = 'aside'`;

/** The library as a whole. */
export interface LibraryStatistics {
  care: CareDay & { troubled: Troubled };
  byKind: { kind: Kind; items: number; bytes: number }[];
  byFolder: { folder: string; items: number; bytes: number }[];
  byMonth: { month: string; items: number; bytes: number; unused: number }[];
  freeable: number;
  aside: { items: number; bytes: number; over: number };
  checks: CheckCount[];
}

/** How the library stands as a whole, and how it stood. */
export class Care {
  constructor(
    private readonly db: Db,
    private readonly reader: Reader,
  ) {}

  /**
   * As it stands now; of large libraries that takes a second or two, on the readers' threads.
   * @param day today, for the history
   * @param since what was found after it is new
   * @param until what was set aside before it has been kept long enough
   */
  async now(day: string, since: string, until: string): Promise<LibraryStatistics> {
    const values = { day, since, until };
    const [[[care], byKind, byFolder, byMonth], [[freeable], [aside], checks, troubled]] = (await Promise.all(
      [
        this.reader.many([NOW, BY_KIND, BY_FOLDER, BY_MONTH], values),
        this.reader.many([FREEABLE, ASIDE, COUNTS, TROUBLED], values),
      ],
    )) as [
      [
        [Marks],
        LibraryStatistics['byKind'],
        { top: string; items: number; bytes: number }[],
        LibraryStatistics['byMonth'],
      ],
      [[{ bytes: number }], [LibraryStatistics['aside']], CheckCount[], { line: string; items: number }[]],
    ];
    return {
      care: {
        ...care,
        troubled: Object.fromEntries(
          LINES.map((line) => [line, troubled.find((one) => one.line === line)?.items ?? 0]),
        ) as Troubled,
      },
      byKind,
      byFolder: byFolder.map(({ top, ...rest }) => ({ folder: top, ...rest })),
      byMonth,
      freeable: freeable.bytes,
      aside,
      checks,
    };
  }

  /** Keeps how it stands as that of a day. */
  keep({ troubled, ...marks }: CareDay): void {
    this.db.run(`insert or replace into care_day (${DAY_COLUMNS}) values (${DAY_VALUES})`, {
      ...NOT_KEPT,
      ...marks,
      ...troubled,
    });
  }

  /** The latest days on which it was looked at, the first of them first. */
  history(most: number): CareDay[] {
    const rows = this.db.all<Marks & Record<Line, number | null>>(
      `select ${DAY_COLUMNS} from care_day order by day desc limit ?`,
      most,
    );
    return rows.reverse().map(({ doubles, weight, rights, files, ...marks }) => ({
      ...marks,
      troubled:
        doubles === null || weight === null || rights === null || files === null
          ? null
          : { doubles, weight, rights, files },
    }));
  }
}

const DAY_NAMES = ['day', 'items', 'bytes', 'described', 'named', 'filed', 'placed', ...LINES];
const DAY_COLUMNS = DAY_NAMES.join(', ');
const DAY_VALUES = DAY_NAMES.map((name) => `@${name}`).join(', ');
const NOT_KEPT = Object.fromEntries(LINES.map((line) => [line, null]));
