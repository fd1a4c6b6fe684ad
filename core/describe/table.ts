import {
  fieldFault,
  ownFault,
  TEXT_FIELD_KEYS,
  TEXT_FIELDS,
  type OwnField,
  type TextField,
  type Words,
} from './fields.ts';

/** What a formula begins with, also in full width, as some programs read it. */
const SIGNS = '=+\\-@\uff1d\uff0b\uff0d\uff20';
/** Where a program may let a cell begin: at its start, and behind whatever else may part cells for it. */
const UNTOUCHED = new RegExp(`(^|[;,|\\t\\r\\n])(["']*)(?=[${SIGNS}])`, 'g');
const NEUTRALISED = new RegExp(`(^|[;,|\\t\\r\\n])(["']*)'(?=[${SIGNS}])`, 'g');

/**
 * A cell that a spreadsheet program would run as a formula gets an apostrophe in front, so that it stays text (OWASP, "CSV injection");
 * also behind what parts cells for a program that is told another delimiter. Plain numbers stay as they are.
 */
export function neutralCell(cell: string): string {
  if (/^[+-]?\d+([.,]\d+)?$/.test(cell)) return cell;
  const text = cell.replace(UNTOUCHED, "$1$2'");
  return /^'*[\t\r\n]/.test(text) ? `'${text}` : text;
}

/** The text that a neutralised cell stands for. */
export function plainCell(cell: string): string {
  return (/^'+[\t\r\n]/.test(cell) ? cell.slice(1) : cell).replace(NEUTRALISED, '$1$2');
}

/** The cells of a block as spreadsheet programs copy it: lines, tabs between cells, quotes round what holds either. */
export function blockOf(text: string): string[][] {
  const rows: string[][] = [[]];
  let cell = '';
  let quoted = false;
  const body = text.replace(/\r\n?/g, '\n').replace(/\n$/, '');
  for (let at = 0; at < body.length; at++) {
    const char = body[at]!;
    if (quoted) {
      if (char !== '"') cell += char;
      else if (body[at + 1] === '"') cell += body[at++];
      else quoted = false;
    } else if (char === '"' && cell === '') quoted = true;
    else if (char === '\t') {
      rows.at(-1)!.push(cell);
      cell = '';
    } else if (char === '\n') {
      rows.at(-1)!.push(cell);
      rows.push([]);
      cell = '';
    } else cell += char;
  }
  rows.at(-1)!.push(cell);
  return rows;
}

/** What the head of a table calls an own field. */
export const ownColumn = (name: string) => `own: ${name}`;
/** Columns that tell which record a row is. */
const KEYS = ['id', 'path', 'address'] as const;
/** Columns that are handed out and say nothing when they come back. */
const TOLD = [
  'kind',
  'mime',
  'bytes',
  'sha256',
  'width',
  'height',
  'duration',
  'added_at',
  'added_by',
  'original_name',
  'described',
  'named',
  'filed',
  'use',
  'placements',
  'pages',
  'changed_at',
  'changed_by',
  'version',
];

export interface TableItem {
  id: number;
  path: string;
  rowVersion: number;
  changedBy: string | null;
  words: Words;
}

export interface CellChange {
  itemId: number;
  path: string;
  /** Line of the table, from 1 with the head. */
  line: number;
  field: string;
  before: string;
  after: string;
  set: Partial<Words>;
  /** The record has been changed since the table was handed out: by whom. */
  conflict?: string;
}

export interface TableReading {
  rows: number;
  matched: number;
  changes: CellChange[];
  /** Columns that no record has. */
  unknown: string[];
  /** Lines that belong to no record, or whose cells cannot stand, with the reason. */
  faults: { line: number; why: string }[];
}

/**
 * Reads a table that was handed out and comes back: rows are matched by id, else by path or address; only cells that differ
 * count. A cell of a record that has changed since (by its version) is a conflict.
 *
 * Each row is a step, so that other work can go on between them.
 *
 * @param find the item of an id, path or address
 */
export function* readingTable(
  head: readonly string[],
  rows: readonly (readonly string[])[],
  find: (by: (typeof KEYS)[number], value: string) => TableItem | undefined,
  own: readonly OwnField[],
): Generator<void, TableReading> {
  const at = new Map(head.map((name, index) => [name.trim().toLowerCase(), index]));
  const fields = TEXT_FIELD_KEYS.flatMap((field) => {
    const index = at.get(TEXT_FIELDS[field].column) ?? at.get(TEXT_FIELDS[field].name.toLowerCase());
    return index === undefined ? [] : [{ field, index }];
  });
  const owns = own.flatMap((field) => {
    const index = at.get(ownColumn(field.name).toLowerCase()) ?? at.get(field.name.toLowerCase());
    return index === undefined ? [] : [{ field, index }];
  });
  const known = new Set([...fields, ...owns].map((one) => one.index));
  const named = [...KEYS, ...TOLD, 'decorative', 'tags'];
  const reading: TableReading = {
    rows: rows.length,
    matched: 0,
    changes: [],
    unknown: head.filter(
      (name, index) => name.trim() !== '' && !known.has(index) && !named.includes(name.trim().toLowerCase()),
    ),
    faults: [],
  };
  if (!KEYS.some((key) => at.has(key))) {
    reading.faults.push({
      line: 1,
      why: 'The file needs a column “id”, “path” or “address” to match rows to items.',
    });
    return reading;
  }
  const seen = new Map<number, number>();
  for (const [index, row] of rows.entries()) {
    yield;
    const line = index + 2;
    const cell = (column: number | undefined) =>
      column === undefined ? '' : plainCell(row[column] ?? '').trim();
    if (row.every((one) => one.trim() === '')) continue;
    const item = KEYS.map((key) => {
      const value = cell(at.get(key));
      return value === '' ? undefined : find(key, value);
    }).find((one) => one !== undefined);
    if (!item) {
      const told = KEYS.map((key) => cell(at.get(key))).find((value) => value !== '');
      reading.faults.push({
        line,
        why: told
          ? `There is no item “${told}” on the site.`
          : 'The row doesn’t say which item it belongs to.',
      });
      continue;
    }
    if (seen.has(item.id)) {
      reading.faults.push({
        line,
        why: `${item.path} is already in line ${seen.get(item.id)}; this line is skipped.`,
      });
      continue;
    }
    seen.set(item.id, line);
    reading.matched++;
    const version = cell(at.get('version'));
    const stale = version !== '' && Number(version) !== item.rowVersion;
    const change = (field: string, before: string, after: string, set: Partial<Words>, fault?: string) => {
      if (before === after) return;
      if (fault) reading.faults.push({ line, why: fault });
      else
        reading.changes.push({
          itemId: item.id,
          path: item.path,
          line,
          field,
          before,
          after,
          set,
          ...(stale ? { conflict: item.changedBy ?? 'someone' } : {}),
        });
    };
    for (const { field, index } of fields) {
      const value = tidied(field, cell(index));
      change(TEXT_FIELDS[field].name, item.words[field], value, { [field]: value }, fieldFault(field, value));
    }
    for (const { field, index } of owns) {
      const value = cell(index);
      change(
        field.name,
        item.words.own[field.name] ?? '',
        value,
        { own: { [field.name]: value } },
        ownFault(field, value),
      );
    }
    const decorative = at.get('decorative');
    if (decorative !== undefined) {
      const value = cell(decorative).toLowerCase();
      const yes = /^(yes|y|true|1|x)$/.test(value);
      const fault =
        yes || /^(no|n|false|0|)$/.test(value) ? undefined : `Decorative is yes or no, not “${value}”.`;
      change(
        'Decorative',
        item.words.decorative ? 'yes' : 'no',
        yes ? 'yes' : fault ? value : 'no',
        { decorative: yes },
        fault,
      );
    }
    const tags = at.get('tags');
    if (tags !== undefined) {
      const list = cell(tags)
        .split(/[;,]/)
        .map((tag) => tag.trim())
        .filter(Boolean);
      const order = (some: readonly string[]) =>
        [...some].sort((a, b) => (a.toLowerCase() < b.toLowerCase() ? -1 : 1)).join('; ');
      change('Tags', order(item.words.tags), order(list), { tags: list });
    }
  }
  return reading;
}

/** Spreadsheet programs write CRLF inside cells and days in their own way. */
function tidied(field: TextField, value: string): string {
  const text = value.replace(/\r\n/g, '\n').normalize('NFC');
  const form: string = TEXT_FIELDS[field].form;
  if (form !== 'day' && form !== 'moment') return text;
  const european = /^(\d{1,2})\.(\d{1,2})\.(\d{4})$/.exec(text);
  if (!european) return text;
  return `${european[3]}-${european[2]!.padStart(2, '0')}-${european[1]!.padStart(2, '0')}`;
}
