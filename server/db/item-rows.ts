import type { NameFault } from '../../core/address/name.ts';
import type { Kind } from '../../core/address/kinds.ts';
import type { SitePath } from '../../core/address/path.ts';
import { TEXT_FIELD_KEYS, TEXT_FIELDS, type TextField, type Words } from '../../core/describe/fields.ts';
import type { ItemState, ReviewState } from '../../core/plan/plan.ts';
import type { ShownUse } from '../../core/reference/survey.ts';
import type { Db } from './database.ts';
import { storedJson } from './stored-json.ts';
import { USE_KNOWN } from './site-state.ts';
import { conditions, FAMILY_BYTES, orderOf, type ItemQuery, type LikeLookup } from './item-query.ts';

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
  review: ReviewState;
  due: string;
  placements: number;
  use: ShownUse;
  rowVersion: number;
  changedAt: string | null;
  changedBy: string | null;
  /** Who looks after it. */
  owner: string | null;
  /** Percents from the left and the top of what must be seen; '': the middle. */
  focal: string;
  /** Others have changed the file, or, when it is not there, taken it away. */
  outside: boolean;
  /** Where it lay before others moved it. */
  movedFrom: SitePath | null;
  /** The image that it is a size of: that one's words are its own. */
  sizeOf: number | null;
  /** How many sizes it has. */
  sizes: number;
  /** How its file was made of its original (see RecordValues). */
  edit: string;
  /** What a person has said of its family (see RecordValues). */
  family: number | null;
  nameFaults: NameFault[];
  words: Words;
}

interface ItemRow extends Omit<Item, 'words' | 'nameFaults' | 'outside'>, Record<TextField, string> {
  /** Parted by spaces. */
  nameFaults: string;
  decorative: number;
  outside: number;
  /** JSON */
  own: string;
  tags: string | null;
}

/** Where each column of a row comes from. */
const SOURCES: Record<keyof ItemRow, string> = {
  id: 'item.id',
  path: 'item.path',
  folder: 'item.folder',
  name: 'item.name',
  state: 'item.state',
  kind: 'item.kind',
  mime: 'item.mime',
  bytes: 'item.bytes',
  sha256: 'item.sha256',
  placeholder: '(select content.placeholder from content where content.sha256 = item.sha256)',
  width: 'item.width',
  height: 'item.height',
  duration: 'item.duration',
  unreadable: 'item.unreadable',
  addedAt: 'item.added_at',
  addedBy: 'adder.name',
  originalName: 'item.original_name',
  asideAt: 'item.aside_at',
  review: 'item.review',
  due: 'item.due',
  placements: 'item.placements',
  use: `case when item.use <> 'placed' and not ${USE_KNOWN} then 'unknown' else item.use end`,
  rowVersion: 'item.row_version',
  changedAt: 'item.changed_at',
  changedBy: 'changer.name',
  owner: 'keeper.name',
  focal: 'item.focal',
  outside: 'item.outside',
  movedFrom: 'item.moved_from',
  sizeOf: 'item.size_of',
  sizes: '(select count(*) from item as sized where sized.size_of = item.id)',
  edit: 'item.edit',
  family: 'item.family',
  ...(Object.fromEntries(
    TEXT_FIELD_KEYS.map((field) => [field, `item.${TEXT_FIELDS[field].column}`]),
  ) as Record<TextField, string>),
  decorative: 'item.decorative',
  own: 'item.own',
  nameFaults: 'item.name_faults',
  tags: '(select json_group_array(name) from (select tag.name from item_tag join tag on tag.id = item_tag.tag_id where item_tag.item_id = item.id order by tag.name collate nocase))',
};
const KEYS = Object.keys(SOURCES) as (keyof ItemRow)[];
export const COLUMNS = KEYS.map((key) => SOURCES[key]).join(', ');
export const JOINS = `left join person as adder on adder.id = item.added_by
  left join person as changer on changer.id = item.changed_by left join person as keeper on keeper.id = item.owner_id`;

/** Items that a question for COLUMNS finds. Rows come as lists: as objects they take half as long again. */
export function itemsOf(db: Db, sql: string, values: object): Item[] {
  return db.tuples<unknown[]>(sql, values).map((values) => {
    const row: Record<string, unknown> = {};
    KEYS.forEach((key, at) => (row[key] = values[at]));
    return itemOf(row as unknown as ItemRow);
  });
}

function itemOf(row: ItemRow): Item {
  return {
    id: row.id,
    path: row.path,
    folder: row.folder,
    name: row.name,
    state: row.state,
    kind: row.kind,
    mime: row.mime,
    bytes: row.bytes,
    sha256: row.sha256,
    placeholder: row.placeholder,
    width: row.width,
    height: row.height,
    duration: row.duration,
    unreadable: row.unreadable,
    addedAt: row.addedAt,
    addedBy: row.addedBy,
    originalName: row.originalName,
    asideAt: row.asideAt,
    review: row.review,
    due: row.due,
    placements: row.placements,
    use: row.use,
    rowVersion: row.rowVersion,
    changedAt: row.changedAt,
    changedBy: row.changedBy,
    owner: row.owner,
    focal: row.focal,
    outside: row.outside === 1,
    movedFrom: row.movedFrom,
    sizeOf: row.sizeOf,
    sizes: row.sizes,
    edit: row.edit,
    family: row.family,
    nameFaults: row.nameFaults === '' ? [] : (row.nameFaults.split(' ') as NameFault[]),
    words: {
      alt: row.alt,
      longDescription: row.longDescription,
      title: row.title,
      caption: row.caption,
      description: row.description,
      creator: row.creator,
      credit: row.credit,
      copyright: row.copyright,
      source: row.source,
      licence: row.licence,
      licenceEnd: row.licenceEnd,
      taken: row.taken,
      place: row.place,
      language: row.language,
      decorative: row.decorative === 1,
      own: row.own === '{}' ? {} : storedJson<Words['own']>(row.own, {}, `own fields of item ${row.id}`),
      tags: row.tags === null || row.tags === '[]' ? [] : (JSON.parse(row.tags) as string[]),
    },
  };
}
/** Items by their ids (JSON, `@ids`), in that order. */
export const BY_IDS = `select ${COLUMNS} from json_each(@ids) as wanted join item on item.id = wanted.value ${JOINS} order by wanted.key`;

/** A window of a query as SQL: the window first, by its index; then all about the few items in it. */
export function listSql(query: ItemQuery, like?: LikeLookup) {
  const { where, values } = conditions(query, like);
  const { order, before, join, values: ranked } = orderOf(query);
  return {
    totals: `select count(*) as total, coalesce(sum(${FAMILY_BYTES}), 0) as bytes from item where ${where}`,
    rows: `${before} select ${COLUMNS} from (select item.id as at_id, row_number() over () as place from
       (select item.id from item ${join} where ${where} order by ${order} limit @limit offset @offset) as item) as slice
     join item on item.id = slice.at_id ${JOINS} order by slice.place`,
    /** The ids of all, in their order. */
    ids: `${before} select item.id from item ${join} where ${where} order by ${order}`,
    values: { ...values, ...ranked, limit: query.limit, offset: query.offset },
  };
}
