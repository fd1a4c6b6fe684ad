import type { SitePath } from '../../core/address/path.ts';
import { TEXT_FIELD_KEYS, TEXT_FIELDS, type TextField } from '../../core/describe/fields.ts';
import { isGroup, type Condition, type Group, type Node } from '../../core/find/query.ts';
import { checksMeant } from '../../core/find/tests.ts';
import type { Grouping, Sort } from '../../core/find/sorts.ts';
import type { StateAsked } from '../../core/plan/plan.ts';
import type { Value } from './database.ts';
import { OPEN } from './findings.ts';
import { USE_KNOWN } from './site-state.ts';

export interface ItemQuery {
  state: StateAsked;
  /** Sizes of images too, each by itself; else an image stands for its sizes. */
  sizes?: boolean;
  folder?: SitePath | undefined;
  /** Also everything below the folder. */
  below: boolean;
  /** Of drafts only those of this person: brought in by them, or theirs to look after. */
  draftsOf?: number;
  /** Touched by this ledger entry. */
  entry?: number | undefined;
  /** Words that must all stand in name, words, tags or document text, in any order; the last may be unfinished. */
  words: string[];
  where: Group;
  sort: Sort;
  /** The other way round. */
  turned: boolean;
  offset: number;
  limit: number;
}

export const ALL_HERE: ItemQuery = {
  state: 'here',
  below: true,
  words: [],
  where: { join: 'all', of: [], not: false },
  sort: 'path',
  turned: false,
  offset: 0,
  limit: 500,
};

/** Of an image and its sizes, the one that stands for all. A walk over the few sizes, not over all rows. */
export const STANDS_FOR_ITSELF =
  'item.id not in (select sized.id from item as sized where sized.size_of is not null)';
/** What an item weighs with its sizes. */
export const FAMILY_BYTES =
  '(item.bytes + coalesce((select sum(sized.bytes) from item as sized where sized.size_of = item.id), 0))';

/** As needsAlt in core/describe, for rows. */
export const NEEDS_ALT = "item.mime <> 'image/vnd.microsoft.icon' and item.size_of is null";

export interface Sql {
  where: string;
  values: Record<string, Value>;
}

/** Hashes of images that look like an item; the store cannot ask that in SQL. */
export type LikeLookup = (itemId: number) => readonly string[];

/** Written out, as partial indexes are for one state; it is one of five words. */
export const inState = (state: StateAsked): string =>
  state === 'any' ? "in ('here', 'draft', 'aside')" : `= '${state}'`;

/** A query as SQL for rows of item, with its values. */
export function conditions(query: ItemQuery, like: LikeLookup = () => []): Sql {
  const sql = new Building(query.state, like);
  const where = [`item.state ${inState(query.state)}`];
  // Absent is also what an undone change had brought, and what was emptied: here it is what others have taken away.
  if (query.state === 'absent') where.push('item.outside = 1');
  if (query.draftsOf !== undefined) {
    const person = sql.bind(query.draftsOf);
    where.push(`(item.state <> 'draft' or item.added_by = ${person} or item.owner_id = ${person})`);
  }
  if (!query.sizes) where.push(STANDS_FOR_ITSELF);
  if (query.folder !== undefined && !(query.folder === '' && query.below))
    where.push(query.below ? sql.below(query.folder) : `item.folder = ${sql.bind(query.folder)}`);
  if (query.entry !== undefined) {
    const entry = sql.bind(query.entry);
    where.push(
      `(item.id in (select coalesce(touched.size_of, touched.id) from item as touched
        where exists (select 1 from ledger_touch where entry_id = ${entry} and what = 'record ' || touched.id)
          or exists (select 1 from ledger_touch where entry_id = ${entry} and what = 'file ' || touched.path)))`,
    );
  }
  for (const word of query.words) {
    const match = sql.bind(prefixOf(word));
    const name = sql.bind(`% ${word.replace(/[\\%_]/g, '\\$&')}%`);
    const people = `select id from person where ' ' || name like ${name} escape '\\'`;
    where.push(
      `item.id in (select rowid from item_words where item_words match ${match}
        union all select item_id from item_tag where tag_id in (select rowid from tag_words where tag_words match ${match})
        union all select item_id from item_tag where tag_id in (select tag.id from tag
          join tag_spelling on tag_spelling.tag = tag.name
          where tag_spelling.id in (select rowid from spelling_words where spelling_words match ${match}))
        union all select size_of from item as size where size.size_of is not null and size.id in
          (select rowid from item_words where item_words match ${match})
        union all select id from item as added where added.added_by in (${people})
        union all select id from item as kept where kept.owner_id is not null and kept.owner_id in (${people})
        union all select found.id from content_words join item as found on found.sha256 = content_words.sha256
          where content_words match ${match})`,
    );
  }
  for (const node of query.where.join === 'all' && !query.where.not ? query.where.of : [query.where])
    where.push(sql.node(node));
  return { where: where.join(' and '), values: sql.values };
}

/** Names of a tag and of all below it, also where it is asked for by another spelling. @param tag a bound value */
export function tagsUnder(tag: string): string {
  return `with recursive under (name) as (
    select coalesce((select tag from tag_spelling where spelling = ${tag}), ${tag})
    union select tag_above.tag from tag_above join under on tag_above.above = under.name
  ) select name from under`;
}

/** A word as FTS5 takes it: its letters, and whatever goes on from them. */
export function prefixOf(word: string): string {
  return `"${word.replace(/"/g, '""')}" *`;
}

const KIND_ORDER =
  "case item.kind when 'image' then 0 when 'video' then 1 when 'audio' then 2 when 'document' then 3 else 4 end";

export interface Order {
  order: string;
  /** What the order needs beside item: a table named in front of the query, and its join. */
  before: string;
  join: string;
  values: Record<string, Value>;
}

/** How rows are ordered; ties always end the same way. */
export function orderOf(query: ItemQuery): Order {
  const [up, down] = query.turned ? ['desc', 'asc'] : ['asc', 'desc'];
  /** By the letter, those without any at the end. */
  const text = (value: string) => `${value} = '' ${up}, ${value} collate nocase ${up}, item.path ${up}`;
  const orders: Record<Exclude<Sort, 'rank'>, string> = {
    kind: `${KIND_ORDER} ${up}, item.path ${up}`,
    name: `item.name collate nocase ${up}, item.path ${up}`,
    path: `item.path ${up}`,
    added: `item.added_at ${down}, item.id ${down}`,
    changed: `item.changed_at ${down}, item.id ${down}`,
    bytes: `item.bytes ${down}, item.path ${down}`,
    width: `item.width ${down}, item.id ${down}`,
    height: `item.height ${down}, item.id ${down}`,
    duration: `item.duration ${down}, item.id ${down}`,
    placements: `item.placements ${down}, item.path ${down}`,
    // Each placement counts by how far its page lies from the front: 1 at the root, 1/2 a folder below, 1/3 ...
    seen: `(select coalesce(sum(1.0 / (1 + length(page) - length(replace(page, '/', '')))), 0) from placement
      where placement.path in (select path from item as shown where shown.id = item.id or shown.size_of = item.id)
        and placement.state = 'placed' and placement.page <> item.path) ${down}, item.path ${up}`,
    tags: `(select count(*) from item_tag where item_tag.item_id = item.id) ${down}, item.path ${up}`,
    by: text("coalesce((select name from person where person.id = item.added_by), '')"),
    owner: text("coalesce((select name from person where person.id = item.owner_id), '')"),
    ...(Object.fromEntries(
      TEXT_FIELD_KEYS.map((field) => [field, text(`item.${TEXT_FIELDS[field].column}`)]),
    ) as Record<TextField, string>),
  };
  if (query.sort !== 'rank') return { order: orders[query.sort], before: '', join: '', values: {} };
  if (query.words.length === 0) return { order: orders.kind, before: '', join: '', values: {} };
  return {
    // Name and title weigh most. What only a tag or a document's text says stands between good and weak finds.
    order: `coalesce(ranked.rank, -1.0) ${up}, item.path ${up}`,
    before: `with ranked as materialized (select rowid as id, bm25(item_words, 8.0, 8.0, 5.0, 3.0, 2.0, 2.0, 2.0) as rank
      from item_words where item_words match @ranked)`,
    join: 'left join ranked on ranked.id = item.id',
    values: { ranked: query.words.map(prefixOf).join(' ') },
  };
}

/** What rows are put together by: the group's name, how groups are ordered, and what must be joined for it. */
export const GROUPED: Record<Grouping, { key: string; order: string; join: string }> = {
  month: { key: 'substr(item.added_at, 1, 7)', order: 'grouped desc', join: '' },
  folder: { key: 'item.folder', order: 'grouped', join: '' },
  kind: { key: 'item.kind', order: KIND_ORDER, join: '' },
  page: {
    key: "coalesce(shown.page, '')",
    order: "grouped = '', grouped",
    join: `left join (select distinct coalesce(member.size_of, member.id) as id, placement.page from placement
        join item as member on member.path = placement.path and member.state = 'here'
        where placement.state = 'placed' and placement.page <> placement.path) as shown
      on shown.id = item.id`,
  },
};

/** All that a query finds, as the reader packs it. */
export function foundSql(
  query: ItemQuery,
  like: LikeLookup,
  group: Grouping | undefined,
): { sql: string; values: Record<string, Value> } {
  const { where, values } = conditions(query, like);
  const { order, before, join, values: ranked } = orderOf(query);
  const grouped = group && GROUPED[group];
  return {
    sql: `${before} select item.id, item.width, item.height, item.kind, ${FAMILY_BYTES} as bytes${grouped ? `, ${grouped.key} as grouped` : ''}
      from item ${join} ${grouped?.join ?? ''} where ${where} order by ${grouped ? `${grouped.order}, ` : ''}${order}`,
    values: { ...values, ...ranked },
  };
}

class Building {
  readonly values: Record<string, Value> = {};
  private count = 0;

  constructor(
    private readonly state: StateAsked,
    private readonly like: LikeLookup,
  ) {}

  bind(value: Value): string {
    const key = `v${this.count++}`;
    this.values[key] = value;
    return `@${key}`;
  }

  below(folder: SitePath): string {
    if (folder === '') return '1';
    // '0' is the character after '/': everything below the folder lies between the two. Two walks along one index: an
    // 'or' of values that are not known beforehand would be answered by a walk over all.
    const [own, from, to] = [folder, `${folder}/`, `${folder}0`].map((value) => this.bind(value));
    return `(item.id in (select id from item as within where within.state ${inState(this.state)} and within.folder = ${own}
      union all select id from item as within where within.state ${inState(this.state)} and within.folder >= ${from} and within.folder < ${to}))`;
  }

  node(node: Node): string {
    const sql = isGroup(node) ? this.group(node) : this.condition(node);
    // No row's answer is ever null: the opposite is the other rows.
    return node.not ? `not ${sql}` : sql;
  }

  private group(group: Group): string {
    if (group.of.length === 0) return '1';
    return `(${group.of.map((one) => this.node(one)).join(group.join === 'all' ? ' and ' : ' or ')})`;
  }

  private contains(column: string, part: string): string {
    // like folds the case of ASCII letters, as core does.
    return `${column} like ${this.bind(`%${part.replace(/[\\%_]/g, '\\$&')}%`)} escape '\\'`;
  }

  private condition({ test, value }: Condition): string {
    const number = () => this.bind(Number(value));
    switch (test) {
      case 'kind':
        return `(item.kind = ${this.bind(value)})`;
      case 'use':
        return value === 'placed'
          ? `(item.use = ${this.bind(value)})`
          : `(item.use = ${this.bind(value)} and ${USE_KNOWN})`;
      case 'mark':
        return MARKS[value]!;
      case 'no':
        if (value === 'tags') return NO_TAGS;
        if (value === 'alt')
          return `(item.kind = 'image' and ${NEEDS_ALT} and item.alt = '' and item.decorative = 0)`;
        return `(item.${TEXT_FIELDS[value as TextField].column} = '')`;
      case 'tag':
        // What a size bears of its own finds its image too.
        return `(item.id in (select coalesce(bearer.size_of, bearer.id) from item_tag join tag on tag.id = item_tag.tag_id
          join item as bearer on bearer.id = item_tag.item_id where tag.name in (${tagsUnder(this.bind(value))})))`;
      case 'own':
        return `(exists (select 1 from json_each(item.own) as field
          where field.value <> '' and field.key || ': ' || field.value = ${this.bind(value)} collate nocase))`;
      case 'folder':
        return this.below(value);
      case 'name':
        return `(${this.contains('item.name', value)})`;
      case 'name-fault':
        return `(instr(' ' || item.name_faults || ' ', ${this.bind(` ${value} `)}) > 0)`;
      case 'page':
        return `(item.id in (select coalesce(shown.size_of, shown.id) from placement join page on page.path = placement.page
          join item as shown on shown.path = placement.path and shown.state = 'here'
          where placement.state = 'placed' and (${this.contains('page.title', value)} or ${this.contains('page.path', value)})))`;
      case 'added': {
        const [year, month] = value.split('-').map(Number) as [number, number];
        const next = month === 12 ? `${year + 1}-01` : `${year}-${String(month + 1).padStart(2, '0')}`;
        return `(item.added_at >= ${this.bind(value)} and item.added_at < ${this.bind(next)})`;
      }
      case 'added-since':
        return `(item.added_at >= ${this.bind(value)})`;
      case 'by':
        return `(item.added_by is not null and item.added_by in (select id from person where name = ${this.bind(value)}))`;
      case 'owner':
        return `(item.owner_id is not null and item.owner_id in (select id from person where name = ${this.bind(value)}))`;
      case 'wider':
        return `(item.width is not null and item.width > ${number()})`;
      case 'narrower':
        return `(item.width is not null and item.width < ${number()})`;
      case 'taller':
        return `(item.height is not null and item.height > ${number()})`;
      case 'heavier':
        return `(item.bytes > ${number()})`;
      case 'longer':
        return `(item.duration is not null and item.duration > ${number()})`;
      case 'shape': {
        const compare = { landscape: '>', portrait: '<', square: '=' }[value]!;
        return `(item.width is not null and item.height is not null and item.width ${compare} item.height)`;
      }
      case 'colour':
        return `(item.sha256 in (select sha256 from content where main_colour = ${this.bind(value)}))`;
      case 'licence-ends':
        return `(item.licence_end <> '' and item.licence_end < ${this.bind(value)})`;
      case 'copies':
        return `(item.sha256 <> '' and exists (select 1 from item as twin
          where twin.sha256 = item.sha256 and twin.state = 'here' and twin.id <> item.id))`;
      case 'found':
        // What is said of a size is said of its image.
        return `(item.id in (select coalesce(told.size_of, told.id) from finding join item as told on told.id = finding.item_id
          where finding.name in (select value from json_each(${this.bind(JSON.stringify(checksMeant(value)))})) and ${OPEN}))`;
      case 'like':
        return `(item.id <> ${number()} and item.sha256 in (select value from json_each(${this.bind(JSON.stringify(this.like(Number(value))))})))`;
    }
  }
}

const NO_TAGS = '(not exists (select 1 from item_tag where item_tag.item_id = item.id))';

/** The care marks, as careMarks in core/describe. */
export const MARKS: Record<string, string> = {
  described: `(case when item.kind = 'image' and ${NEEDS_ALT} then item.decorative = 1 or trim(item.alt) <> ''
    when item.kind = 'image' then 1 else trim(item.title) <> '' end)`,
  named: "(item.name_faults = '')",
  filed: `(item.folder <> '' and (item.size_of is not null or not ${NO_TAGS}))`,
  placed: "(item.use = 'placed')",
};
