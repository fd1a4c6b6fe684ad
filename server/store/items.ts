import { nameFaults } from '../../core/address/name.ts';
import { baseName, folderOf, type SitePath } from '../../core/address/path.ts';
import { isItemPath, kindOf, mimeOf, type Kind } from '../../core/address/kinds.ts';
import type { Words } from '../../core/describe/record.ts';
import type { ItemState, RecordStep } from '../../core/plan/plan.ts';
import { useOf, type Use } from '../../core/reference/survey.ts';
import { Fault } from '../fault.ts';
import type { FileFacts } from '../site/survey.ts';
import type { Db } from './database.ts';
import { conditions, NEEDS_ALT, orderOf, type ItemQuery, type LikeLookup } from './item-query.ts';
import type { Reader } from './reader.ts';

export interface Item {
  id: number;
  path: SitePath;
  folder: SitePath;
  name: string;
  state: ItemState;
  kind: Kind;
  mime: string;
  bytes: number;
  sha256: string;
  placeholder: string | null;
  width: number | null;
  height: number | null;
  duration: number | null;
  unreadable: string | null;
  addedAt: string;
  addedBy: string | null;
  originalName: string | null;
  asideAt: string | null;
  placements: number;
  use: Use;
  rowVersion: number;
  changedAt: string | null;
  changedBy: string | null;
  /** Who looks after it. */
  owner: string | null;
  words: Words;
}

interface ItemRow extends Omit<Item, 'words'>, Omit<Words, 'tags' | 'decorative'> {
  decorative: number;
  tags: string | null;
}

const COLUMNS = `item.id, item.path, item.folder, item.name, item.state, item.kind, item.mime, item.bytes, item.sha256,
  (select content.placeholder from content where content.sha256 = item.sha256) as placeholder,
  item.width, item.height, item.duration, item.unreadable, item.added_at as addedAt, adder.name as addedBy,
  item.original_name as originalName, item.aside_at as asideAt, item.placements, item.use,
  item.row_version as rowVersion, item.changed_at as changedAt, changer.name as changedBy,
  keeper.name as owner,
  item.alt, item.decorative, item.title, item.caption, item.description, item.creator, item.credit, item.copyright, item.source,
  item.licence, item.licence_end as licenceEnd,
  (select json_group_array(name) from (select tag.name from item_tag join tag on tag.id = item_tag.tag_id
     where item_tag.item_id = item.id order by tag.name collate nocase)) as tags`;
const JOINS = `left join person as adder on adder.id = item.added_by
  left join person as changer on changer.id = item.changed_by left join person as keeper on keeper.id = item.owner_id`;

function itemOf(row: ItemRow): Item {
  const {
    alt,
    decorative,
    title,
    caption,
    description,
    creator,
    credit,
    copyright,
    source,
    licence,
    licenceEnd,
    tags,
    ...item
  } = row;
  return {
    ...item,
    words: {
      alt,
      decorative: decorative === 1,
      title,
      caption,
      description,
      creator,
      credit,
      copyright,
      source,
      licence,
      licenceEnd,
      tags: JSON.parse(tags ?? '[]') as string[],
    },
  };
}

/** A window of a query as SQL: the window first, by its index; then all about the few items in it. */
function listSql(query: ItemQuery, like?: LikeLookup) {
  const { where, values } = conditions(query, like);
  const { order, before, join, values: ranked } = orderOf(query);
  return {
    totals: `select count(*) as total, coalesce(sum(bytes), 0) as bytes from item where ${where}`,
    rows: `${before} select ${COLUMNS} from (select item.id as at_id, row_number() over () as place from
       (select item.id from item ${join} where ${where} order by ${order} limit @limit offset @offset) as item) as slice
     join item on item.id = slice.at_id ${JOINS} order by slice.place`,
    values: { ...values, ...ranked, limit: query.limit, offset: query.offset },
  };
}

/** Items with their records. */
export class Items {
  constructor(private readonly db: Db) {}

  get(id: number): Item | undefined {
    const row = this.db.prepare(`select ${COLUMNS} from item ${JOINS} where item.id = ?`).get(id) as
      ItemRow | undefined;
    return row && itemOf(row);
  }

  /** @throws Fault 'not-found' */
  need(id: number): Item {
    const item = this.get(id);
    if (!item)
      throw new Fault('not-found', `There is no item ${id}.`, 'Go back to the Library and choose it there.');
    return item;
  }

  atPath(path: SitePath): Item | undefined {
    const row = this.db
      .prepare(`select ${COLUMNS} from item ${JOINS} where item.path = ? and item.state = 'here'`)
      .get(path) as ItemRow | undefined;
    return row && itemOf(row);
  }

  /** Paths of items of a kind that does not make a file an item by itself. */
  brought(): Set<SitePath> {
    const paths = this.db.prepare("select path from item where kind = 'other'").pluck().all() as SitePath[];
    return new Set(paths.filter((path) => !isItemPath(path)));
  }

  /** Items on the site with these bytes. */
  withHash(sha256: string): Item[] {
    const rows = this.db
      .prepare(
        `select ${COLUMNS} from item ${JOINS} where item.sha256 = ? and item.state = 'here' order by item.path`,
      )
      .all(sha256);
    return (rows as ItemRow[]).map(itemOf);
  }

  /** An item in any state whose bytes these are or were sent as. */
  anyWithHash(sha256: string): { path: SitePath; duration: number | null } | undefined {
    return this.db
      .prepare('select path, duration from item where sha256 = @sha256 or original_sha256 = @sha256 limit 1')
      .get({ sha256 }) as { path: SitePath; duration: number | null } | undefined;
  }

  /** Hash of what was sent, when a smaller copy of it stands on the site. */
  originalOf(id: number): string | null {
    return (this.db.prepare('select original_sha256 from item where id = ?').pluck().get(id) ?? null) as
      string | null;
  }

  /** Fills empty texts of records that no person has changed yet with what the file says of itself. */
  fillUntouched(sha256: string, words: Partial<Words>): void {
    const ids = this.db
      .prepare("select id from item where sha256 = ? and state = 'here' and changed_at is null")
      .pluck()
      .all(sha256) as number[];
    this.db.transaction(() => {
      for (const id of ids) {
        const has = this.need(id).words;
        for (const [field, value] of Object.entries(words) as [keyof Words, string | string[]][]) {
          if (field === 'tags') {
            if (has.tags.length === 0) this.setTags(id, value as string[]);
          } else if (field !== 'decorative' && field !== 'licenceEnd' && has[field] === '')
            this.db.prepare(`update item set ${field} = ? where id = ?`).run(value, id);
        }
      }
    })();
  }

  /** A window of a query, with the number and weight of all that it finds. */
  list(query: ItemQuery, like?: LikeLookup): { total: number; bytes: number; items: Item[] } {
    const { totals, rows, values } = listSql(query, like);
    return {
      ...(this.db.prepare(totals).get(values) as { total: number; bytes: number }),
      items: (this.db.prepare(rows).all(values) as ItemRow[]).map(itemOf),
    };
  }

  /** The same, asked on the reader's thread. */
  async listBy(
    reader: Reader,
    query: ItemQuery,
    like?: LikeLookup,
  ): Promise<{ total: number; bytes: number; items: Item[] }> {
    const { totals, rows, values } = listSql(query, like);
    const [[sum], items] = await Promise.all([
      reader.rows<{ total: number; bytes: number }>(totals, values),
      reader.rows<ItemRow>(rows, values),
    ]);
    return { ...sum!, items: items.map(itemOf) };
  }

  /** How many items a query finds. */
  count(query: ItemQuery, like?: LikeLookup): number {
    const { where, values } = conditions(query, like);
    return this.db.prepare(`select count(*) from item where ${where}`).pluck().get(values) as number;
  }

  /** Ids of all that a query finds, in its order. */
  ids(query: ItemQuery, like?: LikeLookup): number[] {
    const { where, values } = conditions(query, like);
    const { order, before, join, values: ranked } = orderOf(query);
    return this.db
      .prepare(`${before} select item.id from item ${join} where ${where} order by ${order}`)
      .pluck()
      .all({ ...values, ...ranked }) as number[];
  }

  /** Items by their ids, in that order; those that are no more are left out. */
  some(ids: readonly number[]): Item[] {
    const rows = this.db
      .prepare(
        `select ${COLUMNS} from json_each(@ids) as wanted join item on item.id = wanted.value ${JOINS} order by wanted.key`,
      )
      .all({ ids: JSON.stringify(ids) }) as ItemRow[];
    return rows.map(itemOf);
  }

  /** Every folder that holds items on the site, with how many lie in it (not below). */
  folders(): { folder: SitePath; items: number }[] {
    return this.db
      .prepare(
        "select folder, count(*) as items from item where state = 'here' group by folder order by folder",
      )
      .all() as {
      folder: SitePath;
      items: number;
    }[];
  }

  /** Groups of items on the site whose bytes are the same; the most placed first in each. */
  copies(): Item[][] {
    const rows = this.db
      .prepare(
        `select ${COLUMNS} from item ${JOINS} where item.state = 'here' and item.sha256 in
           (select sha256 from item where state = 'here' and sha256 <> '' group by sha256 having count(*) > 1)
         order by item.bytes desc, item.sha256, item.placements desc, item.path`,
      )
      .all() as ItemRow[];
    const groups = new Map<string, Item[]>();
    for (const item of rows.map(itemOf)) groups.set(item.sha256, [...(groups.get(item.sha256) ?? []), item]);
    return [...groups.values()];
  }

  /** How many groups of copies there are. */
  copyGroups(): number {
    return this.db
      .prepare(
        "select count(*) from (select 1 from item where state = 'here' and sha256 <> '' group by sha256 having count(*) > 1)",
      )
      .pluck()
      .get() as number;
  }

  /** Tags of the items on the site, or of some items, with how many bear each. */
  tags(ids?: readonly number[]): { name: string; items: number }[] {
    const only = ids ? 'and item_tag.item_id in (select value from json_each(@ids))' : '';
    return this.db
      .prepare(
        `select tag.name, count(*) as items from tag join item_tag on item_tag.tag_id = tag.id
         join item on item.id = item_tag.item_id and item.state = 'here' ${only}
         group by tag.id order by tag.name collate nocase`,
      )
      .all(ids ? { ids: JSON.stringify(ids) } : {}) as { name: string; items: number }[];
  }

  /** Tags as they are written already, where they are: a tag is one in any case. */
  spelling(tags: readonly string[]): string[] {
    const written = this.db.prepare('select name from tag where name = ?').pluck();
    return tags.map((tag) => (written.get(tag) as string | undefined) ?? tag);
  }

  /** How many of these are there, and what they weigh. */
  sum(ids: readonly number[]): { items: number; bytes: number } {
    return this.db
      .prepare(
        `select count(*) as items, coalesce(sum(bytes), 0) as bytes from json_each(@ids) as wanted
         join item on item.id = wanted.value where item.state = 'here'`,
      )
      .get({ ids: JSON.stringify(ids) }) as { items: number; bytes: number };
  }

  counts() {
    return this.db
      .prepare(
        `select count(case when state = 'here' then 1 end) as items,
           coalesce(sum(case when state = 'here' then bytes end), 0) as bytes,
           count(case when state = 'aside' then 1 end) as aside,
           coalesce(sum(case when state = 'aside' then bytes end), 0) as asideBytes,
           count(case when state = 'here' and use = 'unused' then 1 end) as unused,
           count(case when state = 'here' and use = 'mentioned' then 1 end) as mentioned,
           count(case when state = 'here' and item.kind = 'image' and ${NEEDS_ALT} and alt = '' and decorative = 0 then 1 end) as undescribed
         from item`,
      )
      .get() as {
      items: number;
      bytes: number;
      aside: number;
      asideBytes: number;
      unused: number;
      mentioned: number;
      undescribed: number;
    };
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
    const done = this.db
      .prepare(
        `insert into item (path, folder, name, state, kind, mime, bytes, sha256, width, height, duration, unreadable,
           added_at, added_by, original_name, original_sha256, name_faults, use)
         values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
      )
      .run(
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
        nameFaults(baseName(item.path)).join(' '),
        useOf(item.path, false, false),
      );
    return Number(done.lastInsertRowid);
  }

  /** Brings an item's facts in line with its file. */
  setFacts(id: number, facts: FileFacts): void {
    this.db
      .prepare(
        'update item set bytes = ?, sha256 = ?, width = ?, height = ?, duration = ?, unreadable = ? where id = ?',
      )
      .run(
        facts.bytes,
        facts.sha256,
        facts.item?.width ?? null,
        facts.item?.height ?? null,
        facts.item?.duration ?? null,
        facts.item?.unreadable ?? null,
        id,
      );
  }

  /** Follows a file that others moved or took away: only where it is changes, not its words. */
  setPlace(id: number, path: SitePath, state: ItemState): void {
    this.db
      .prepare('update item set path = ?, folder = ?, name = ?, name_faults = ?, state = ? where id = ?')
      .run(path, folderOf(path), baseName(path), nameFaults(baseName(path)).join(' '), state, id);
  }

  /** Counts placements and derives the use of every item anew. */
  refreshUse(): void {
    this.db.exec(`
      update item set placements =
        (select count(*) from placement where placement.path = item.path and placement.state = 'placed' and placement.page <> item.path)
      where state = 'here'`);
    const rows = this.db
      .prepare(
        `select id, path, placements, use, exists (select 1 from mention where mention.path = item.path) as mentioned
         from item where state = 'here'`,
      )
      .all() as { id: number; path: SitePath; placements: number; use: Use; mentioned: number }[];
    const update = this.db.prepare('update item set use = ? where id = ?');
    for (const row of rows) {
      const use = useOf(row.path, row.placements > 0, row.mentioned === 1);
      if (use !== row.use) update.run(use, row.id);
    }
  }

  /** Applies one record step. @throws Fault 'stale-record' when the record has changed since the plan */
  apply(step: RecordStep, personId: number, now: string): void {
    const after = step.after;
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
      set('name_faults', nameFaults(baseName(after.path)).join(' '));
    }
    if (after.state !== undefined) {
      set('state', after.state);
      set('aside_at', after.state === 'aside' ? now : null);
    }
    for (const field of [
      'alt',
      'title',
      'caption',
      'description',
      'creator',
      'credit',
      'copyright',
      'source',
      'licence',
    ] as const) {
      if (after[field] !== undefined) set(field, after[field]);
    }
    if (after.licenceEnd !== undefined) set('licence_end', after.licenceEnd);
    if (after.owner !== undefined) {
      sets.push('owner_id = (select id from person where name = @owner)');
      values['owner'] = after.owner;
    }
    if (after.decorative !== undefined) set('decorative', Number(after.decorative));
    const done = this.db
      .prepare(`update item set ${sets.join(', ')} where id = @id and row_version = @rowVersion`)
      .run(values);
    if (done.changes !== 1) throw this.staleRecord(step.itemId);
    if (after.tags !== undefined) this.setTags(step.itemId, after.tags);
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
  private setTags(id: number, tags: readonly string[]): void {
    const { db } = this;
    const had = db
      .prepare('select tag.id, tag.name from item_tag join tag on tag.id = item_tag.tag_id where item_id = ?')
      .all(id) as { id: number; name: string }[];
    const wanted = new Set(tags.map((tag) => tag.toLowerCase()));
    for (const tag of had) {
      if (wanted.has(tag.name.toLowerCase())) continue;
      db.prepare('delete from item_tag where item_id = ? and tag_id = ?').run(id, tag.id);
      db.prepare(
        'delete from tag where id = @id and not exists (select 1 from item_tag where tag_id = @id)',
      ).run({
        id: tag.id,
      });
    }
    const has = new Map(had.map((tag) => [tag.name.toLowerCase(), tag]));
    for (const name of tags) {
      const one = has.get(name.toLowerCase());
      if (one && one.name !== name) db.prepare('update tag set name = ? where id = ?').run(name, one.id);
      if (one) continue;
      db.prepare('insert into tag (name) values (?) on conflict (name) do nothing').run(name);
      db.prepare(
        'insert into item_tag (item_id, tag_id) select ?, id from tag where name = ? on conflict do nothing',
      ).run(id, name);
    }
  }
}
