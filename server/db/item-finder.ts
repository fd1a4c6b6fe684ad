import { baseName, folderOf, isWithin, type SitePath } from '../../core/address/path.ts';
import { fold } from '../../core/find/marks.ts';
import type { Db } from './database.ts';
import {
  conditions,
  FAMILY_BYTES,
  NEEDS_ALT,
  orderOf,
  type ItemQuery,
  type LikeLookup,
} from './item-query.ts';
import { itemsOf, listSql, type Item } from './item-rows.ts';
import { OPEN } from './findings.ts';
import { USE_KNOWN } from './site-state.ts';
import { each, filter } from '../../core/paced.ts';
import { breathe } from '../workers/breathe.ts';
import type { Reader } from './reader.ts';

import type { Items } from './items.ts';

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

/** How many of some items are on the site, what they weigh with their sizes and the drafts among them, how many are set aside and how many drafts. */
export async function sumOf(
  reader: Reader,
  ids: readonly number[],
): Promise<{ items: number; bytes: number; aside: number; drafts: number }> {
  const [sum] = await reader.rows<{ items: number; bytes: number; aside: number; drafts: number }>(
    `select count(case when state = 'here' then 1 end) as items,
       coalesce(sum(case state when 'here' then ${FAMILY_BYTES} when 'draft' then item.bytes end), 0) as bytes,
       count(case when state = 'aside' then 1 end) as aside,
       count(case when state = 'draft' then 1 end) as drafts
     from json_each(@ids) as wanted join item on item.id = wanted.value`,
    { ids: JSON.stringify(ids) },
  );
  return sum!;
}

/** Finds items by queries, and counts them. */
export class ItemFinder {
  constructor(
    private readonly db: Db,
    private readonly items: Items,
  ) {}

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

  /** Names of other images, with other bytes, that have an alt text; at most ten. */
  withAlt(alt: string, id: number): string[] {
    return this.db.values<string>(
      `select name from item where state = 'here' and kind = 'image' and alt = @alt and alt <> '' and id <> @id
           and sha256 <> (select sha256 from item where id = @id) order by path limit 10`,
      { alt, id },
    );
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
    await each(await this.items.many([...ids]), breathe, (item) => {
      const group = groups.get(item.sha256);
      if (group) group.push(item);
      else groups.set(item.sha256, [item]);
    });
    return [...groups.values()];
  }

  /** How many there are: an image and its sizes are one, and weigh what all of them weigh. */
  counts(): Counts {
    return this.db.get<Counts>(COUNTS)!;
  }

  /** The same, with what Upkeep finds unused or there twice; counted on a thread of its own. */
  async countsApart(reader: Reader): Promise<Counts & { cleanable: number }> {
    const cleanable = `select count(*) as cleanable from finding where name in ('unused', 'copies') and ${OPEN}`;
    const [[counts], [found]] = (await reader.many([COUNTS, cleanable], {})) as [
      [Counts],
      [{ cleanable: number }],
    ];
    return { ...counts, ...found };
  }

  /** What is set aside, the longest kept first; the sizes of an image are one with it. */
  aside(most: number): Promise<Item[]> {
    const ids = this.db.values<number>(
      `select id from item where state = 'aside' and size_of is null order by aside_at, path limit ?`,
      most,
    );
    return this.items.many(ids);
  }
}
