import type { Kind } from '../../core/address/kinds.ts';
import type { SitePath } from '../../core/address/path.ts';
import type { VariantFacts } from '../../core/naming/variants.ts';
import type { NameFault } from '../../core/address/name.ts';
import { TEXT_FIELD_KEYS, TEXT_FIELDS, type TextField, type Words } from '../../core/describe/fields.ts';
import type { ItemState, SettingValue } from '../../core/plan/plan.ts';
import type { ShownUse } from '../../core/reference/survey.ts';
import type { CheckName, ItemCheck } from '../../core/upkeep/checks.ts';
import type { ItemFinding, CheckInput } from '../../core/upkeep/item-checks.ts';
import { setOf, sorted } from '../../core/paced.ts';
import { breathe } from '../workers/breathe.ts';
import type { Db } from './database.ts';
import type { Reader } from './reader.ts';
import { USE_KNOWN } from './site-state.ts';

/** So many images with one alt text are looked at to find one that shows something else. */
const SAME_ALT = 12;

/** An item as the checks see it, but for what only other images can tell. */
export interface StoredCheckInput extends Omit<
  CheckInput,
  'alike' | 'isSize' | 'sameAlt' | 'leftBehind' | 'uncredited' | 'selling' | 'shownOn'
> {
  id: number;
  sha256: string;
  /** Some that have the same alt text and do not show the same. */
  sharesAlt: (VariantFacts & { sizeOf: number | null })[];
  /** The image that it is a size of. */
  sizeOf: number | null;
}

interface CheckInputRow extends Record<TextField, string> {
  id: number;
  path: string;
  sha256: string;
  state: ItemState;
  kind: Kind;
  mime: string;
  bytes: number;
  width: number | null;
  height: number | null;
  duration: number | null;
  unreadable: string | null;
  use: ShownUse;
  nameFaults: string;
  decorative: number;
  outside: number;
  movedFrom: SitePath | null;
  sizeOf: number | null;
  sameBytes: string;
  tags: string;
  pages: number | null;
  shades: number | null;
  opaque: number | null;
  tellsPlace: number | null;
  contentMime: string | null;
  copies: number;
  disagreeing: number;
  shown: number;
  unsized: number;
  whole: number;
  unsaid: number;
  widest: number | null;
}

/** Placements that show the image, and those through which visitors get the whole file. */
const SHOWS = `placement.place in ('img src', 'img srcset', 'source srcset', 'img data-src', 'image href', 'css url()', 'video poster', 'object data', 'md image')`;
/** CSS pixels that an image is taken to have where its place does not say it. */
const UNSAID_WIDTH = 1920;

const CHECK_INPUTS = `
  select item.id, item.path, item.sha256, item.state, item.kind, item.mime, item.bytes, item.width, item.height, item.duration,
    coalesce(item.unreadable, content.damaged) as unreadable, case when item.use <> 'placed' and not ${USE_KNOWN} then 'unknown' else item.use end as use, item.name_faults as nameFaults, item.decorative, item.outside, item.moved_from as movedFrom, item.size_of as sizeOf,
    case when item.state = 'absent' and item.sha256 <> '' then (select json_group_array(path) from (select path from item as twin
      where twin.sha256 = item.sha256 and twin.state = 'here' order by path limit 4)) else '[]' end as sameBytes,
    ${TEXT_FIELD_KEYS.map((field) => `item.${TEXT_FIELDS[field].column} as ${field}`).join(', ')},
    (select json_group_array(tag.name) from item_tag join tag on tag.id = item_tag.tag_id where item_tag.item_id = item.id) as tags,
    content.pages, content.shades, content.opaque, content.tells_place as tellsPlace,
    json_extract(file.item, '$.contentMime') as contentMime,
    case when item.sha256 = '' then 0 else
      (select count(*) from item as other where other.sha256 = item.sha256 and other.state = 'here' and other.id <> item.id
        -- Sizes of a picture that lies there twice are told with it.
        and (other.size_of is null or item.size_of is null)) end as copies,
    (select count(*) from item as member cross join placement on placement.path = member.path and +placement.state = 'placed'
      where (member.id = item.id or member.size_of = item.id) and member.state = 'here' and item.alt <> '' and item.decorative = 0
        and placement.place = 'img src' and has_alt = 1 and trim(placement.alt) <> trim(item.alt)) as disagreeing,
    coalesce(use.shown, 0) as shown, coalesce(use.unsized, 0) as unsized,
    coalesce(use.whole, 0) as whole, coalesce(use.unsaid, 0) as unsaid, use.widest
  from json_each(@ids) as wanted
  join item on item.id = wanted.value
  left join content on content.sha256 = item.sha256
  left join file on file.path = item.path and item.state = 'here'
  left join (
    select placement.path,
      count(case when ${SHOWS} then 1 end) as shown,
      count(case when ${SHOWS} and sizes_of is null then 1 end) as unsized,
      count(case when not ${SHOWS} or sizes_of is not null then 1 end) as whole,
      count(case when ${SHOWS} and coalesce(shown_width.wide, placement.wide) is null then 1 end) as unsaid,
      max(coalesce(shown_width.wide, placement.wide)) as widest
    from json_each(@ids) as of cross join item as about on about.id = of.value
    -- By path: left to itself, SQLite walks all placements.
    cross join placement on placement.path = about.path and +placement.state = 'placed'
    -- As it was measured, where it was.
    left join shown_width on shown_width.page = placement.page and shown_width.path = placement.path and placement.place = 'img src'
    where about.state = 'here' group by placement.path
  ) as use on use.path = item.path and item.state = 'here'`;

export interface CheckCount {
  name: ItemCheck;
  items: number;
  bytes: number;
  saves: number;
  /** Found since a moment. */
  fresh: number;
}

export interface FindingRow {
  itemId: number;
  why: string;
  saves: number;
  since: string;
}

export interface DismissalRow {
  name: CheckName;
  subject: string;
  reason: string;
  person: string;
  at: string;
  /** What it was found from has changed: it is told again. */
  past: boolean;
}

/** A finding that no dismissal covers. */
export const OPEN = `not exists (select 1 from dismissal where dismissal.name = finding.name
  and dismissal.subject = cast(finding.item_id as text) and dismissal.looked = finding.looked)`;

const ADDED_BEFORE = "(@before = '' or item.added_at < @before)";

/** How many items each check finds, what they weigh, and how many were found since a moment. */
export const COUNTS = `select finding.name, count(*) as items, sum(item.bytes) as bytes, sum(finding.saves) as saves,
  count(case when finding.since > @since then 1 end) as fresh
  from finding join item on item.id = finding.item_id where ${OPEN} group by finding.name`;

/** Items that are noted at once. */
const UNCHECKED_AT_ONCE = 1000;
const HEAVIEST_FIRST = 'finding.saves desc, item.bytes desc, item.path';

/** What the checks say of the items, and what people have said to leave alone. */
export class Findings {
  /** @param reader asks beside the server's own thread what may be of many */
  constructor(
    private readonly db: Db,
    private readonly reader: Reader,
  ) {}

  /**
   * Takes out items that are to be checked anew, until `save` says how they are. Of what changes after this call, another check is due.
   * What was taken out before, and never saved, comes again.
   * @returns their ids
   */
  takeUnchecked(most: number): number[] {
    this.db.write(() => {
      this.db.run('insert or ignore into unchecked select item_id from being_checked');
      this.db.run('delete from being_checked');
      this.db.run('insert into being_checked select item_id from unchecked limit ?', most);
      this.db.run('delete from unchecked where item_id in (select item_id from being_checked)');
    });
    return this.db.values<number>('select item_id from being_checked');
  }

  uncheckedCount(): number {
    return this.db.value<number>(
      'select (select count(*) from unchecked) + (select count(*) from being_checked)',
    )!;
  }

  /** All must be checked anew, or those that a condition on item holds for. */
  async uncheck(where = "state = 'here'"): Promise<void> {
    const some = `insert or ignore into unchecked select id from item where id > @after and id <= @last and ${where}`;
    const last = this.db.value<number>('select coalesce(max(id), 0) from item')!;
    for (let after = 0; after < last; after += UNCHECKED_AT_ONCE) {
      this.db.run(some, { after, last: after + UNCHECKED_AT_ONCE });
      await breathe();
    }
  }

  checkInputs(ids: readonly number[]): StoredCheckInput[] {
    const rows = this.db.all<CheckInputRow>(CHECK_INPUTS, { ids: JSON.stringify(ids) });
    const sameAlt = `select id, path, kind, width, height, size_of as sizeOf from (select * from item
             where alt = @alt and alt <> '' and state = 'here' and kind = 'image' and id <> @id and sha256 <> @sha256
             limit ${SAME_ALT}) as other
         where not exists (select 1 from alike where (one = @sha256 and alike.other = other.sha256) or (alike.other = @sha256 and one = other.sha256))`;
    return rows.map((row) => ({
      ...row,
      words: {
        ...(Object.fromEntries(TEXT_FIELD_KEYS.map((field) => [field, row[field]])) as Record<
          TextField,
          string
        >),
        decorative: row.decorative === 1,
        own: {},
        tags: JSON.parse(row.tags) as string[],
      } satisfies Words,
      nameFaults: row.nameFaults === '' ? [] : (row.nameFaults.split(' ') as NameFault[]),
      opaque: row.opaque !== 0,
      tellsPlace: row.tellsPlace === 1,
      changedOutside: row.outside === 1,
      sameBytes: JSON.parse(row.sameBytes) as SitePath[],
      widest: row.whole > 0 ? null : row.unsaid > 0 ? Math.max(UNSAID_WIDTH, row.widest ?? 0) : row.widest,
      sharesAlt:
        row.state === 'here' && row.kind === 'image' && row.alt.trim() !== ''
          ? this.db.all<StoredCheckInput['sharesAlt'][number]>(sameAlt, {
              alt: row.alt,
              id: row.id,
              sha256: row.sha256,
            })
          : [],
    }));
  }

  /** What is said of some items now; what has been said before keeps the moment since when. */
  save(
    ids: readonly number[],
    found: ReadonlyMap<number, { one: ItemFinding; looked: string }[]>,
    now: string,
  ): void {
    const before = 'select name, since from finding where item_id = ?';
    const remove = 'delete from finding where item_id = ?';
    // It may have been removed meanwhile.
    const insert = `insert into finding (name, item_id, why, saves, since, looked)
      select ?, id, ?, ?, ?, ? from item where id = ?`;
    const checked = 'delete from being_checked where item_id = ?';
    this.db.write(() => {
      for (const id of ids) {
        const since = new Map(
          this.db.all<{ name: string; since: string }>(before, id).map((row) => [row.name, row.since]),
        );
        if (since.size > 0) this.db.run(remove, id);
        for (const { one, looked } of found.get(id) ?? [])
          this.db.run(insert, one.check, one.why, one.saves, since.get(one.check) ?? now, looked, id);
        this.db.run(checked, id);
      }
    });
  }

  /** How many items a check finds, and what they weigh. @param before only those that were added before then */
  async count(name: ItemCheck, before = ''): Promise<{ items: number; bytes: number; saves: number }> {
    const [sums] = await this.reader.rows<{ items: number; bytes: number; saves: number }>(
      `select count(*) as items, coalesce(sum(item.bytes), 0) as bytes, coalesce(sum(finding.saves), 0) as saves
       from finding join item on item.id = finding.item_id where finding.name = @name and ${ADDED_BEFORE} and ${OPEN}`,
      { name, before },
    );
    return sums!;
  }

  /** The findings of a check, the heaviest first. */
  list(name: ItemCheck, limit: number, offset: number, before = ''): Promise<FindingRow[]> {
    return this.reader.rows(
      `select item_id as itemId, why, saves, since from finding join item on item.id = finding.item_id
       where finding.name = @name and ${ADDED_BEFORE} and ${OPEN}
       order by ${HEAVIEST_FIRST} limit @limit offset @offset`,
      { name, limit, offset, before },
    );
  }

  /** Ids of all that a check finds, in the order of `list`. */
  async ids(name: ItemCheck, before = ''): Promise<number[]> {
    const ids = await this.reader.ids(
      `select item_id from finding join item on item.id = finding.item_id
       where finding.name = @name and ${ADDED_BEFORE} and ${OPEN} order by ${HEAVIEST_FIRST}`,
      { name, before },
    );
    return [...ids];
  }

  /** What the checks say of one item. */
  of(itemId: number): { name: ItemCheck; why: string }[] {
    return this.db.all<{
      name: ItemCheck;
      why: string;
    }>(`select name, why from finding where item_id = ? and ${OPEN}`, itemId);
  }

  /** What a finding was found from; '' for what is none. */
  lookedAt(name: CheckName, subject: string): string {
    return (this.db.value(
      'select looked from finding where name = ? and item_id = ?',
      name,
      Number(subject),
    ) ?? '') as string;
  }

  /** All that is left alone, the latest first; read in slices. */
  async dismissals(): Promise<DismissalRow[]> {
    const some = `select dismissal.name, subject, reason, person, at,
         finding.looked is not null and finding.looked <> dismissal.looked as past
       from dismissal left join finding on finding.name = dismissal.name and finding.item_id = cast(subject as integer)
       where (dismissal.name, subject) > (?, ?) order by dismissal.name, subject limit 250`;
    type Row = Omit<DismissalRow, 'past'> & { past: number };
    const found: DismissalRow[] = [];
    for (let rows = this.db.all<Row>(some, '', ''); rows.length > 0;) {
      for (const row of rows) found.push({ ...row, past: row.past === 1 });
      await breathe();
      const { name, subject } = rows.at(-1)!;
      rows = this.db.all<Row>(some, name, subject);
    }
    return sorted(found, breathe, (one, other) => (one.at > other.at ? -1 : one.at < other.at ? 1 : 0));
  }

  /** How many are left alone. */
  dismissed(): number {
    return this.db.value<number>('select count(*) from dismissal')!;
  }

  /** What is left alone of a check. */
  async dismissedBy(name: CheckName): Promise<Set<string>> {
    const rows = await this.reader.rows<{ subject: string }>(
      'select subject from dismissal where name = @name',
      { name },
    );
    return setOf(rows, breathe, (row) => row.subject);
  }

  /** A dismissal as a setting; its key is the check and the subject, parted by a blank. */
  value(key: string): SettingValue {
    const [name, subject] = parts(key);
    const row = this.db.get<{ [key: string]: string }>(
      'select reason, person, at, looked from dismissal where name = ? and subject = ?',
      name,
      subject,
    );
    return row ? { ...row } : null;
  }

  setValue(key: string, value: SettingValue): void {
    const [name, subject] = parts(key);
    this.db.run('delete from dismissal where name = ? and subject = ?', name, subject);
    if (value === null) return;
    const { reason, person, at, looked } = value as { [key: string]: string };
    this.db.run(
      'insert into dismissal (name, subject, reason, person, at, looked) values (?, ?, ?, ?, ?, ?)',
      name,
      subject,
      reason,
      person,
      at,
      looked,
    );
  }

  state(name: string): string {
    return (this.db.value('select value from upkeep_state where name = ?', name) ?? '') as string;
  }
  setState(name: string, value: string): void {
    this.db.run('insert or replace into upkeep_state (name, value) values (?, ?)', name, value);
  }
}

function parts(key: string): [string, string] {
  const at = key.indexOf(' ');
  return [key.slice(0, at), key.slice(at + 1)];
}
