/** What a cell looks like. Colours as '#rrggbb'. */
export interface CellStyle {
  bold?: boolean;
  italic?: boolean;
  underline?: boolean;
  strike?: boolean;
  color?: string;
  fill?: string;
  align?: 'left' | 'center' | 'right';
  wrap?: boolean;
}

/** 'fault': what a formula says instead of a value, as “#DIV/0!”. */
export type CellKind = 'text' | 'number' | 'truth' | 'fault';

export interface Cell {
  /** As it is shown: by its number format. */
  text: string;
  kind: CellKind;
  /** Of a number: as it is stored. */
  number?: number;
  /** The number format, where it is not the general one. */
  pattern?: string;
  /** As it is written, with “=”. */
  formula?: string;
  style?: CellStyle;
}

/** Cells of one row, by columns from 0; holes are empty. */
export type Row = readonly (Cell | undefined)[];

/** Cells that are shown as one, by the first of them. */
export interface Merge {
  row: number;
  column: number;
  rows: number;
  columns: number;
}

/** What is known of a sheet before any of its rows is read. */
export interface SheetFacts {
  name: string;
  /** Hidden sheets are shown last, and told as such. */
  hidden: boolean;
  rowCount: number;
  columnCount: number;
  /** Rows and columns that stay in sight. */
  frozenRows: number;
  frozenColumns: number;
  /** CSS pixels of each column; undefined: as wide as columns usually are. 0: it is hidden. */
  widths: readonly (number | undefined)[];
  hiddenRows: readonly number[];
  merges: readonly Merge[];
  /** What of it isn't shown here, each as a sentence. */
  notes: readonly string[];
}

export interface Sheet extends SheetFacts {
  rows: readonly (Row | undefined)[];
}

/** As many rows and columns as spreadsheets can have (ECMA-376, and common programs). */
export const MOST_ROWS = 1_048_576;
export const MOST_COLUMNS = 16_384;

/** The letters of a column. @param column from 0 */
export function columnName(column: number): string {
  let name = '';
  for (let left = column + 1; left > 0; left = Math.floor((left - 1) / 26))
    name = String.fromCharCode(65 + ((left - 1) % 26)) + name;
  return name;
}

/** A cell by its letters and number, both from 0; undefined: it is none, or beyond what a sheet can have. */
export function cellAt(reference: string): { row: number; column: number } | undefined {
  const found = /^\$?([A-Z]{1,3})\$?(\d{1,7})$/.exec(reference);
  if (!found) return undefined;
  let column = 0;
  for (const letter of found[1]!) column = column * 26 + letter.charCodeAt(0) - 64;
  const row = Number(found[2]);
  return row < 1 || row > MOST_ROWS || column > MOST_COLUMNS
    ? undefined
    : { row: row - 1, column: column - 1 };
}

/** Cells from one to another, as “A1:C3”. */
export function rangeAt(reference: string): Merge | undefined {
  const [from, to = from] = reference.split(':').map(cellAt);
  if (!from || !to) return undefined;
  const [row, column] = [Math.min(from.row, to.row), Math.min(from.column, to.column)];
  return {
    row,
    column,
    rows: Math.abs(to.row - from.row) + 1,
    columns: Math.abs(to.column - from.column) + 1,
  };
}
