import { cellAt, columnName, MOST_COLUMNS, MOST_ROWS } from './sheet.ts';

/** Cells that a formula refers to, from 0; both ends belong to it. Whole rows or columns reach as far as sheets can. */
export interface CellRange {
  /** As the formula names it; undefined: the sheet of the formula. */
  sheet: string | undefined;
  row: number;
  column: number;
  lastRow: number;
  lastColumn: number;
}

/** Texts, names of sheets with their “!”, cells, ranges, whole columns and rows, functions and names, each as one piece. */
const SHEET = String.raw`(?:(?:'((?:[^']|'')*)'|([A-Za-z_\u0080-\uffff][\w.\u0080-\uffff]*))!)?`;
const CELL = String.raw`\$?[A-Za-z]{1,3}\$?\d{1,7}`;
const PLACE = String.raw`(${CELL}(?::${CELL})?|\$?[A-Za-z]{1,3}:\$?[A-Za-z]{1,3}|\$?\d{1,7}:\$?\d{1,7})(?![\w.(!\u0080-\uffff])`;
/* eslint-disable regexp/no-super-linear-move -- formulas that are gone through have a length */
const PIECES = new RegExp(
  String.raw`"(?:[^"]|"")*"|\[[^\][]*\]|${SHEET}${PLACE}|'(?:[^']|'')*'!?|[A-Za-z_\\\u0080-\uffff][\w.\\\u0080-\uffff]*\(?!?|\d+(?:\.\d*)?(?:[Ee][+-]?\d+)?`,
  'g',
);
/* eslint-enable regexp/no-super-linear-move */
/** Signs that a formula may have (as spreadsheets do). */
const LONGEST = 8192;

/** One end of a range: undefined where it names a whole row or column. */
interface End {
  row: number | undefined;
  column: number | undefined;
  heldRow: boolean;
  heldColumn: boolean;
}

function endAt(text: string): End | undefined {
  const found = /^(\$?)([A-Za-z]{0,3})(\$?)(\d{0,7})$/.exec(text);
  if (!found) return undefined;
  const [, first, letters, second, digits] = found as unknown as [string, string, string, string, string];
  const column = letters === '' ? undefined : cellAt(`${letters.toUpperCase()}1`)?.column;
  const row = digits === '' ? undefined : cellAt(`A${digits}`)?.row;
  if ((letters !== '' && column === undefined) || (digits !== '' && row === undefined)) return undefined;
  // Of a row alone, the only sign stands before its number.
  return letters === ''
    ? { row, column, heldRow: first !== '', heldColumn: false }
    : { row, column, heldRow: second !== '', heldColumn: first !== '' };
}

const written = ({ row, column, heldRow, heldColumn }: End) =>
  `${column === undefined ? '' : `${heldColumn ? '$' : ''}${columnName(column)}`}${row === undefined ? '' : `${heldRow ? '$' : ''}${row + 1}`}`;

/** Makes something else of every place that a formula refers to. @param change what stands there instead; undefined: it stays */
function eachPlace(
  formula: string,
  change: (sheet: string | undefined, from: End, to: End | undefined, piece: string) => string | undefined,
): string {
  if (formula.length > LONGEST) return formula;
  return formula.replace(PIECES, (piece, quoted?: string, bare?: string, place?: string) => {
    if (place === undefined) return piece;
    const [from, to] = place.split(':').map(endAt);
    if (!from || (place.includes(':') && !to)) return piece;
    const sheet = quoted === undefined ? bare : quoted.replaceAll("''", "'");
    const now = change(sheet, from, to, place);
    return now === undefined ? piece : piece.slice(0, piece.length - place.length) + now;
  });
}

/** The cells that a formula refers to, without what its functions work out. */
export function rangesIn(formula: string): CellRange[] {
  const found: CellRange[] = [];
  eachPlace(formula, (sheet, from, to = from) => {
    const rows = [from.row ?? 0, to.row ?? MOST_ROWS - 1];
    const columns = [from.column ?? 0, to.column ?? MOST_COLUMNS - 1];
    found.push({
      sheet,
      row: Math.min(...rows),
      column: Math.min(...columns),
      lastRow: Math.max(...rows),
      lastColumn: Math.max(...columns),
    });
    return undefined;
  });
  return found;
}

/** Names in a formula that are no cells, no functions and no texts. */
export function namesIn(formula: string): string[] {
  if (formula.length > LONGEST) return [];
  return [...formula.matchAll(PIECES)].flatMap(([piece, , , place]) =>
    place === undefined && /^[A-Za-z_\\\u0080-\uffff]/.test(piece) && !/[(!]$|^(?:true|false)$/i.test(piece)
      ? [piece]
      : [],
  );
}

/** A formula as it is some cells further on: what it refers to moves along, but for what is held by “$”. “#REF!” where that is nowhere. */
export function movedFormula(formula: string, rows: number, columns: number): string {
  const moved = (end: End): End | undefined => {
    const row = end.row === undefined || end.heldRow ? end.row : end.row + rows;
    const column = end.column === undefined || end.heldColumn ? end.column : end.column + columns;
    const there =
      (row ?? 0) >= 0 && (row ?? 0) < MOST_ROWS && (column ?? 0) >= 0 && (column ?? 0) < MOST_COLUMNS;
    return there ? { ...end, row, column } : undefined;
  };
  return eachPlace(formula, (_sheet, from, to) => {
    const [first, last] = [moved(from), to && moved(to)];
    if (!first || (to && !last)) return '#REF!';
    return last ? `${written(first)}:${written(last)}` : written(first);
  });
}

/** Rows or columns that come into a sheet, or leave it. */
export interface Shift {
  axis: 'row' | 'column';
  /** The first of them, from 0. */
  at: number;
  /** How many come in; below 0: how many leave. */
  by: number;
}

/** Where a row or column is after a shift; undefined: it is gone. */
export function shifted(place: number, { at, by }: Pick<Shift, 'at' | 'by'>): number | undefined {
  if (place < at) return place;
  return by < 0 && place < at - by ? undefined : place + by;
}

/** Where a range from one row or column to another is after a shift; undefined: all of it is gone. */
export function shiftedSpan(
  from: number,
  to: number,
  shift: Pick<Shift, 'at' | 'by'>,
  most: number,
): [number, number] | undefined {
  const first = shifted(from, shift) ?? shift.at;
  const last = shifted(to, shift) ?? shift.at - 1;
  return first > last || first >= most ? undefined : [first, Math.min(last, most - 1)];
}

/**
 * A formula after rows or columns have come into a sheet or left it: it refers to the same cells as before, also where “$” holds them.
 * @param isOn whether a sheet, as the formula names it, is the one that changed
 */
export function shiftedFormula(
  formula: string,
  isOn: (sheet: string | undefined) => boolean,
  shift: Shift,
): string {
  const most = shift.axis === 'row' ? MOST_ROWS : MOST_COLUMNS;
  return eachPlace(formula, (sheet, from, to = from, place) => {
    if (!isOn(sheet)) return undefined;
    const [first, last] = [from[shift.axis], to[shift.axis]];
    // Whole columns have all rows, before and after.
    if (first === undefined || last === undefined) return undefined;
    const span = shiftedSpan(Math.min(first, last), Math.max(first, last), shift, most);
    if (!span) return '#REF!';
    const [start, end] = first <= last ? span : [span[1], span[0]];
    const now = written({ ...from, [shift.axis]: start });
    return place.includes(':') ? `${now}:${written({ ...to, [shift.axis]: end })}` : now;
  });
}

/** A list of ranges, as “A1:B2 C3”, after a shift; '': all are gone. */
export function shiftedRanges(ranges: string, shift: Shift): string {
  return ranges
    .split(/\s+/)
    .map((one) => shiftedFormula(one, () => true, shift))
    .filter((one) => one !== '' && one !== '#REF!')
    .join(' ');
}
