import { addressOf } from '../../core/address/redirects.ts';
import { TEXT_FIELD_KEYS, TEXT_FIELDS } from '../../core/describe/fields.ts';
import { careMarks } from '../../core/describe/record.ts';
import { neutralCell } from '../../core/describe/table.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import { csvOf } from '../describe/csv.ts';
import { breathe } from '../workers/breathe.ts';

/** What tells of an item beside its record. */
type Told = Pick<Site, 'index' | 'items' | 'references'>;

/** Columns of the table, in order: name and value. Described in docs/formats.md. */
type Value = string | number | boolean | null | readonly string[];
type Column = [string, (item: Item, site: Told, file: string) => Value];
const COLUMNS: Column[] = [
  ['id', (item) => item.id],
  ['path', (item) => item.path],
  ['file', (_item, _site, file) => file],
  ['address', (item, site) => addressOf(item.path, site.index.map.roots)],
  ['kind', (item) => item.kind],
  ['mime', (item) => item.mime],
  ['bytes', (item) => item.bytes],
  ['sha256', (item) => item.sha256],
  ['width', (item) => item.width],
  ['height', (item) => item.height],
  ['duration', (item) => item.duration],
  ['added_at', (item) => item.addedAt],
  ['added_by', (item) => item.addedBy],
  ['original_name', (item) => item.originalName],
  ...TEXT_FIELD_KEYS.map((field): Column => [TEXT_FIELDS[field].column, (item) => item.words[field]]),
  ['decorative', (item) => item.words.decorative],
  ['tags', (item) => item.words.tags],
  ['owner', (item) => item.owner],
  ['focal_point', (item) => item.focal],
  ['size_of', (item, site) => (item.sizeOf === null ? null : (site.items.get(item.sizeOf)?.path ?? null))],
  ['described', (item) => careMarks(item).described],
  ['named', (item) => careMarks(item).named],
  ['filed', (item) => careMarks(item).filed],
  ['use', (item) => item.use],
  ['placements', (item) => item.placements],
  ['pages', (item, site) => [...new Set(site.references.placementsOf(item.path).map((one) => one.page))]],
  ['changed_at', (item) => item.changedAt],
  ['changed_by', (item) => item.changedBy],
];

/** The site's own fields come last, one column each. */
const columnsOf = (site: Told & Pick<Site, 'ownFields'>): Column[] => [
  ...COLUMNS,
  ...site.ownFields.all().map(({ name }): Column => [`own: ${name}`, (item) => item.words.own[name] ?? '']),
];

/** As a cell says it. */
const cellOf = (value: Value): string | number | null =>
  typeof value === 'boolean'
    ? value
      ? 'yes'
      : 'no'
    : typeof value === 'string'
      ? neutralCell(value)
      : Array.isArray(value)
        ? neutralCell(value.join('; '))
        : (value as number | null);

/**
 * items.csv: RFC 4180, UTF-8, CRLF, one header line; cells that a spreadsheet would run as a formula are neutralised.
 * @param files the name of each item's file in the archive
 */
export async function itemsCsv(
  site: Told & Pick<Site, 'ownFields'>,
  items: readonly Item[],
  files: readonly string[],
): Promise<string> {
  const columns = columnsOf(site);
  const rows: (string | number | null)[][] = [];
  for (const [at, item] of items.entries()) {
    rows.push(columns.map(([, value]) => cellOf(value(item, site, files[at]!))));
    await breathe();
  }
  rows.unshift(columns.map(([name]) => neutralCell(name)));
  return csvOf(rows);
}

/** items.jsonl: the same columns, an object in a line; several values are a list, yes and no are true and false. */
export async function itemsJsonLines(
  site: Told & Pick<Site, 'ownFields'>,
  items: readonly Item[],
  files: readonly string[],
): Promise<string> {
  const columns = columnsOf(site);
  const lines: string[] = [];
  for (const [at, item] of items.entries()) {
    const values = columns.map(([name, value]) => [name, value(item, site, files[at]!)] as const);
    lines.push(`${JSON.stringify(Object.fromEntries(values))}\n`);
    await breathe();
  }
  return lines.join('');
}
