import { decode1252 } from '../document/text-form.ts';
import { holds, type FindOptions } from '../document/find.ts';
import { CsvIndex, delimiterOf, HEAD, parseRows, STEP, type Delimiter } from './csv.ts';
import type { Cell, Row, Sheet, SheetFacts } from './sheet.ts';

/** Sheets that are read a window at a time. */
export interface SheetBook {
  sheets: readonly SheetFacts[];
  /** Rows of a sheet; a hole is an empty row. @param from from 0 */
  rows(sheet: number, from: number, count: number): Promise<(Row | undefined)[]>;
}

/** A place of some words in a sheet. */
export interface FoundCell {
  row: number;
  column: number;
}

/** Sheets that are in memory whole. */
export function memoryBook(sheets: readonly Sheet[]): SheetBook {
  return {
    sheets: sheets.map(({ rows: _rows, ...facts }) => facts),
    rows: (sheet, from, count) =>
      Promise.resolve(Array.from({ length: count }, (_, at) => sheets[sheet]!.rows[from + at])),
  };
}

/** Characters of a cell that are shown. */
const MOST_SHOWN = 10_000;
/** Bytes between two rows that are kept, of which more is not read at once. */
const MOST_READ = 20_000_000;

/**
 * A table in text, of any length: only where its rows begin is kept.
 * @param progress is told the bytes that have been read
 */
export async function csvBook(
  file: Blob,
  name: string,
  progress: (bytes: number) => void = () => undefined,
): Promise<SheetBook> {
  const { blob, decode } = await withPlainBytes(file);
  const head = decode(new Uint8Array(await blob.slice(0, HEAD).arrayBuffer())).replace(/^\ufeff/, '');
  const delimiter = delimiterOf(head);
  let index = await indexOf(blob, delimiter, true, progress);
  // A quote that is never closed would swallow all that follows it.
  const quotes = !index.unclosed;
  if (!quotes) index = await indexOf(blob, delimiter, false, progress);
  const { starts } = index;
  return {
    sheets: [
      {
        name,
        hidden: false,
        rowCount: index.rows,
        columnCount: index.columns,
        frozenRows: index.rows > 1 ? 1 : 0,
        frozenColumns: 0,
        widths: [],
        hiddenRows: [],
        merges: [],
        notes: quotes ? [] : ['A quotation mark is never closed. All of them are shown as they stand.'],
      },
    ],
    async rows(_sheet, from, count) {
      const to = Math.min(from + count, index.rows);
      const rows: Row[] = [];
      for (let block = Math.floor(from / STEP); block * STEP < to;) {
        // As many blocks at once as are wanted, but not more than can be held.
        let end = block + 1;
        while (end * STEP < to && starts[end]! - starts[block]! < MOST_READ) end++;
        const bytes = blob.slice(
          starts[block]!,
          Math.min(starts[end] ?? blob.size, starts[block]! + 2 * MOST_READ),
        );
        const text = decode(new Uint8Array(await bytes.arrayBuffer()));
        const parsed = parseRows(block === 0 ? text.replace(/^\ufeff/, '') : text, delimiter, quotes);
        const first = block * STEP;
        for (let row = Math.max(from, first); row < Math.min(to, end * STEP); row++)
          rows.push((parsed[row - first] ?? []).map(cellOf));
        block = end;
      }
      return rows;
    },
  };
}

const cellOf = (words: string): Cell | undefined =>
  words === '' ? undefined : { text: words.slice(0, MOST_SHOWN), kind: isNumber(words) ? 'number' : 'text' };

/** Numbers as tables have them, with a point or a comma; what has a zero in front is a code. */
export const isNumber = (words: string) =>
  /^-?(?:0|[1-9]\d*|[1-9]\d{0,2}(?:[ ,.']\d{3})+)(?:[.,]\d+)?\s?%?$/.test(words);

async function indexOf(
  blob: Blob,
  delimiter: Delimiter,
  quotes: boolean,
  progress: (bytes: number) => void,
): Promise<CsvIndex> {
  const index = new CsvIndex(delimiter, quotes);
  let read = 0;
  await each(blob, (bytes) => {
    index.feed(bytes);
    progress((read += bytes.length));
  });
  index.end();
  return index;
}

async function each(blob: Blob, take: (bytes: Uint8Array) => void): Promise<void> {
  const reader = blob.stream().getReader();
  for (let next = await reader.read(); !next.done; next = await reader.read()) take(next.value);
}

/** The same text in an encoding in which line ends and delimiters are one byte each: UTF-8, or windows-1252 where it is none. */
async function withPlainBytes(file: Blob): Promise<{ blob: Blob; decode: (bytes: Uint8Array) => string }> {
  const [first, second] = new Uint8Array(await file.slice(0, 2).arrayBuffer());
  const wide =
    first === 0xff && second === 0xfe ? 'utf-16le' : first === 0xfe && second === 0xff ? 'utf-16be' : '';
  const utf8 = (bytes: Uint8Array) => new TextDecoder('utf-8', { ignoreBOM: true }).decode(bytes);
  if (wide) {
    const text = new TextDecoder(wide).decode(await file.arrayBuffer());
    return { blob: new Blob([text]), decode: utf8 };
  }
  const strict = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });
  try {
    await each(file, (bytes) => void strict.decode(bytes, { stream: true }));
    strict.decode();
    return { blob: file, decode: utf8 };
  } catch (error) {
    if (!(error instanceof TypeError)) throw error;
    return { blob: file, decode: decode1252 };
  }
}

/** Places that are found at most. */
export const MOST_FOUND = 10_000;

/** The cells of a sheet that show some words, row by row. @param stop asked now and then whether nobody wants it any more */
export async function findInSheet(
  book: SheetBook,
  sheet: number,
  words: string,
  options: FindOptions,
  stop: () => boolean = () => false,
): Promise<FoundCell[]> {
  const found: FoundCell[] = [];
  const { rowCount } = book.sheets[sheet]!;
  if (words === '') return found;
  const wanted = holds(words, options);
  for (let from = 0; from < rowCount && !stop(); from += STEP * 16) {
    const rows = await book.rows(sheet, from, Math.min(STEP * 16, rowCount - from));
    for (const [at, row] of rows.entries())
      for (const [column, cell] of (row ?? []).entries()) {
        if (!cell || !wanted(cell.text)) continue;
        found.push({ row: from + at, column });
        if (found.length >= MOST_FOUND) return found;
      }
  }
  return found;
}
