import type Database from 'better-sqlite3';
import type { RecordKind } from '../../core/archive/records.ts';
import type { Db } from '../db/database.ts';

/** How the records of an archive are kept in the database: one table each, columns by their names with capitals for underscores. */
export interface Table {
  kind: RecordKind;
  table: string;
  order: string;
  /** Columns that hold JSON. */
  json?: readonly string[];
  /** Columns that hold JSON, or are empty: then null. */
  jsonOrEmpty?: readonly string[];
  /** Columns that are 0 or 1. */
  flags?: readonly string[];
  /** Columns that stay behind. */
  without?: readonly string[];
  /** The rows that are meant. */
  where?: string;
  /** Made anew when an archive comes in: it is only told. */
  derived?: true;
}

/** In the order in which they are brought in: those that others refer to come first. */
export const TABLES: readonly Table[] = [
  // Nobody can sign in with what an archive says.
  { kind: 'people', table: 'person', order: 'id', json: ['folders'], without: ['password'] },
  { kind: 'settings', table: 'site_state', order: 'name', where: "name not in ('connected', 'use-known')" },
  { kind: 'upkeep-settings', table: 'upkeep_state', order: 'name', where: "name = 'keeping-days'" },
  { kind: 'layout', table: 'layout', order: 'part' },
  { kind: 'tags', table: 'tag', order: 'id' },
  { kind: 'tag-relations', table: 'tag_above', order: 'tag' },
  { kind: 'tag-spellings', table: 'tag_spelling', order: 'id' },
  { kind: 'own-fields', table: 'own_field', order: 'name', json: ['choices'] },
  {
    kind: 'items',
    table: 'item',
    order: 'id',
    json: ['own'],
    jsonOrEmpty: ['edit'],
    flags: ['decorative', 'outside'],
  },
  { kind: 'suggested-tags', table: 'suggested_tag', order: 'item_id, tag' },
  { kind: 'comments', table: 'comment', order: 'key', json: ['value'] },
  {
    kind: 'folder-rules',
    table: 'folder_rule',
    order: 'folder',
    json: ['kinds', 'tags', 'pattern'],
    flags: ['keep_original'],
  },
  { kind: 'saved-searches', table: 'saved_query', order: 'id' },
  { kind: 'name-patterns', table: 'name_pattern', order: 'name', json: ['pattern'] },
  { kind: 'treatments', table: 'treatment', order: 'name', json: ['treatment'] },
  { kind: 'placements', table: 'placement', order: 'id', flags: ['has_alt', 'unsure'], derived: true },
  { kind: 'live-pages', table: 'live_page', order: 'url' },
  { kind: 'live-placements', table: 'live_placement', order: 'id', flags: ['has_alt'] },
  { kind: 'shown-widths', table: 'shown_width', order: 'page, path' },
  { kind: 'measured-pages', table: 'measured_page', order: 'page' },
  { kind: 'recognised-texts', table: 'recognised', order: 'sha256' },
  { kind: 'ledger', table: 'ledger', order: 'id', where: "state in ('done', 'taken-back')" },
  { kind: 'ledger-plans', table: 'ledger_plan', order: 'entry_id', json: ['plan'] },
  { kind: 'ledger-parts', table: 'ledger_part', order: 'entry_id, list, number', json: ['steps'] },
  { kind: 'ledger-touches', table: 'ledger_touch', order: 'entry_id, what' },
  { kind: 'ledger-contents', table: 'ledger_bytes', order: 'entry_id, sha256' },
  { kind: 'submissions', table: 'submission', order: 'id', json: ['request', 'rests'] },
  { kind: 'dismissals', table: 'dismissal', order: 'name, subject' },
  { kind: 'care-days', table: 'care_day', order: 'day' },
  { kind: 'bank-orders', table: 'bank_order', order: 'bank, image, key', json: ['terms'] },
  { kind: 'unsaved-texts', table: 'unsaved_text', order: 'path, person_id' },
  {
    kind: 'arrivals',
    table: 'arrival',
    order: 'id',
    json: ['facts', 'notes', 'words', 'choices', 'archive', 'ready', 'recipe', 'said'],
    flags: ['named', 'inside'],
    without: ['upload'],
    where: "state = 'ready' and sha256 <> ''",
  },
];

/** Tables that no archive holds, and why. */
export const LEFT_OUT: Readonly<Record<string, string>> = {
  session: 'of one server',
  invitation: 'of one server',
  access_log: 'of one server',
  machine_token: 'lets people in',
  second_factor: 'lets people in',
  recovery_code: 'lets people in',
  provided_person: 'lets people in',
  image_label: 'an answer of a service',
  service_use: 'of one server',
  label_wanted: 'work that waits',
  export: 'what was handed over',
  item_tag: 'in the items',
  file: 'read from the files',
  page: 'read from the files',
  mention: 'read from the files',
  content: 'read from the files',
  alike: 'read from the files',
  reader: 'read from the files',
  finding: 'found anew',
  unchecked: 'found anew',
  being_checked: 'work that waits',
};

type Row = Record<string, string | number | null>;
export const fieldOf = (column: string): string =>
  column.replace(/_([a-z0-9])/g, (_, letter: string) => letter.toUpperCase());

/** The records of a table, one after the other. */
export function* recordsOf(db: Database.Database, table: Table): Generator<Record<string, unknown>> {
  const { json = [], jsonOrEmpty = [], flags = [], without = [] } = table;
  const tags = db
    .prepare('select name from item_tag join tag on tag.id = tag_id where item_id = ? order by name')
    .pluck();
  const rows = db.prepare(
    `select * from ${table.table} ${table.where ? `where ${table.where}` : ''} order by ${table.order}`,
  );
  for (const row of rows.iterate() as Iterable<Row>) {
    const record: Record<string, unknown> = {};
    for (const [column, value] of Object.entries(row)) {
      if (without.includes(column)) continue;
      record[fieldOf(column)] =
        json.includes(column) || jsonOrEmpty.includes(column)
          ? value === null || value === ''
            ? null
            : (JSON.parse(String(value)) as unknown)
          : flags.includes(column)
            ? value === 1
            : value;
    }
    if (table.table === 'item') record['tags'] = tags.all(row['id']);
    yield record;
  }
}

/** Writes records of a table into a new database. */
export class TableWriter {
  private readonly columns: string[];
  private readonly insert: string;

  constructor(
    private readonly db: Db,
    private readonly table: Table,
  ) {
    const all = db.values<string>('select name from pragma_table_info(?)', table.table);
    this.columns = all.filter((column) => !table.without?.includes(column));
    const places = this.columns.map(() => '?').join(', ');
    // A new database may say something already.
    this.insert = `insert or replace into ${table.table} (${this.columns.join(', ')}) values (${places})`;
  }

  write(record: Record<string, unknown>): void {
    const { json = [], jsonOrEmpty = [], flags = [] } = this.table;
    const values = this.columns.map((column) => {
      const value = record[fieldOf(column)];
      if (jsonOrEmpty.includes(column)) return value === null ? '' : JSON.stringify(value);
      if (json.includes(column)) return value === null ? null : JSON.stringify(value);
      return flags.includes(column) ? Number(value) : value;
    });
    this.db.run(this.insert, ...values);
    if (this.table.table !== 'item') return;
    for (const tag of record['tags'] as string[])
      this.db.run(
        'insert into item_tag (item_id, tag_id) select ?, id from tag where name = ?',
        record['id'],
        tag,
      );
  }
}
