import * as moreFunctions from '@formulajs/formulajs';
import FormulaParser, { type Argument, type Fault, type Value } from 'fast-formula-parser';
import { namesIn, rangesIn, type CellRange } from './formula.ts';
import type { Cell, Row, Sheet } from './sheet.ts';

/** What a formula says; undefined: it can't be worked out here. */
export type Result = number | string | boolean | { fault: string } | undefined;

/** A place in a workbook, from 0. */
export interface Place {
  sheet: number;
  row: number;
  column: number;
}

/** Formulas of a workbook that are worked out here at most. */
export const MOST_FORMULAS = 20_000;
/** How many cells may wait for one another. */
const DEEPEST = 500;
const FAULTS = new Set(['#DIV/0!', '#N/A', '#NAME?', '#NULL!', '#NUM!', '#REF!', '#VALUE!']);
/** What would ask the network, or can't be told before it is worked out. */
const NEVER = [
  'WEBSERVICE',
  'INDIRECT',
  'OFFSET',
  'RAND',
  'RANDBETWEEN',
  'RANDARRAY',
  'NOW',
  'TODAY',
  'CELL',
  'INFO',
  'HYPERLINK',
];

const { FormulaError } = FormulaParser;

/** Cells that say something else than before. @property moved so do formulas among them, whatever they refer to */
export type ChangedCells = Place & { rows?: number; columns?: number; moved?: boolean };

/** Why it isn't worked out; not a fault that a formula can deal with. */
class NotWorkedOut extends Error {}

function convert(result: unknown): Value {
  if (result instanceof Error)
    return new FormulaError(FAULTS.has(result.message) ? result.message : '#VALUE!');
  if (typeof result === 'number' || typeof result === 'string' || typeof result === 'boolean') return result;
  throw new NotWorkedOut();
}

/** Functions that the parser has none of, from a library of them; and some that are never worked out. */
function otherFunctions(): Record<string, (...values: (Argument | undefined)[]) => Value> {
  const own = new Set(
    new FormulaParser({ onCell: () => 0, onRange: () => [], onVariable: () => null }).supportedFunctions(),
  );
  const others = Object.entries(moreFunctions as unknown as Record<string, unknown>).flatMap(
    ([name, work]) =>
      typeof work !== 'function' || own.has(name) || !/^[A-Z][A-Z\d]*$/.test(name)
        ? []
        : [
            [
              name,
              (...values: (Argument | undefined)[]) =>
                convert((work as (...all: unknown[]) => unknown)(...values.map((one) => one?.value))),
            ] as const,
          ],
  );
  return {
    ...Object.fromEntries(others),
    ...Object.fromEntries(
      NEVER.map((name) => [
        name,
        () => {
          throw new NotWorkedOut();
        },
      ]),
    ),
  };
}
const NEVER_IN = new RegExp(String.raw`\b(?:${NEVER.join('|')})\(`, 'i');

/** Names of a workbook and what they stand for, as “Prices!$A$1:$A$9”. */
export type DefinedNames = ReadonlyMap<string, string>;

interface FormulaAt extends Place {
  formula: string;
  ranges: (CellRange & { of: number })[];
  /** It can't be told what it refers to: whatever changes may change it. */
  unsure: boolean;
  /** It isn't worked out here. */
  never: boolean;
  /** No value of it was ever saved, or it refers to nothing any more. */
  fresh: boolean;
}

/**
 * What the formulas say that depend on some cells, after these have changed. All others stay as they were saved; so do those that can't be
 * worked out here, and are told.
 * @param isFixed formulas that fill several cells, which stay
 */
export function recompute(
  sheets: readonly Sheet[],
  changed: readonly ChangedCells[],
  names: DefinedNames,
  isFixed: (at: Place) => boolean = () => false,
): { results: (Place & { result: Exclude<Result, undefined> })[]; left: Place[] } {
  const numberOf = new Map(sheets.map(({ name }, at) => [name.toLowerCase(), at]));
  const formulas = allFormulas(sheets, numberOf, names);
  if (formulas.size > MOST_FORMULAS) return { results: [], left: [...formulas.values()] };
  const dirty = dependents([...formulas.values()], changed, sheets.length);
  const results = new Map<string, Result>();
  const working = new Set<string>();
  const left: Place[] = [];

  const parser = new FormulaParser({
    functions: otherFunctions(),
    onCell: ({ sheet, row, col }) => valueAt(numbered(sheet), row - 1, col - 1),
    onRange: ({ sheet, from, to }) => {
      const at = numbered(sheet);
      const { rows } = sheets[at]!;
      // Empty ends of whole columns and rows are left out.
      const lastRow = Math.max(from.row, Math.min(to.row, rows.length));
      const wide = rows
        .slice(from.row - 1, lastRow)
        .reduce((most, row) => Math.max(most, row?.length ?? 0), 0);
      const lastColumn = Math.max(from.col, Math.min(to.col, wide));
      return Array.from({ length: lastRow - from.row + 1 }, (_, row) =>
        Array.from({ length: lastColumn - from.col + 1 }, (__, column) =>
          valueAt(at, from.row - 1 + row, from.col - 1 + column),
        ),
      );
    },
    onVariable: (name, sheet) => {
      const [range] = rangesIn(names.get(name.toLowerCase()) ?? '');
      if (!range) throw new NotWorkedOut();
      const of = range.sheet ?? sheet;
      const [row, col] = [range.row + 1, range.column + 1];
      return range.row === range.lastRow && range.column === range.lastColumn
        ? { sheet: of, row, col }
        : { sheet: of, from: { row, col }, to: { row: range.lastRow + 1, col: range.lastColumn + 1 } };
    },
  });
  const numbered = (sheet: string) => {
    const at = numberOf.get(sheet.toLowerCase());
    if (at === undefined) throw new NotWorkedOut();
    return at;
  };
  function valueAt(sheet: number, row: number, column: number): Value {
    const key = keyOf({ sheet, row, column });
    const formula = formulas.get(key);
    if (formula && dirty.has(key)) {
      const result = work(formula, key);
      if (result === undefined) throw new NotWorkedOut();
      return typeof result === 'object' ? new FormulaError(result.fault) : result;
    }
    return stored(sheets[sheet]!.rows[row]?.[column]);
  }
  function work(at: FormulaAt, key: string): Result {
    if (results.has(key)) return results.get(key);
    // One that waits for itself, or a chain that is too long.
    if (at.unsure || at.never || isFixed(at) || working.has(key) || working.size > DEEPEST) return undefined;
    working.add(key);
    let result: Result;
    try {
      const said = parser.parse(at.formula.slice(1), {
        sheet: sheets[at.sheet]!.name,
        row: at.row + 1,
        col: at.column + 1,
      });
      result = resultOf(said);
    } catch (error) {
      if (!(error instanceof NotWorkedOut) && !(error instanceof FormulaError) && !isParserFault(error))
        throw error;
    } finally {
      working.delete(key);
    }
    results.set(key, result);
    return result;
  }

  for (const key of dirty) work(formulas.get(key)!, key);
  const said: (Place & { result: Exclude<Result, undefined> })[] = [];
  for (const key of dirty) {
    const { sheet, row, column } = formulas.get(key)!;
    const result = results.get(key);
    if (result === undefined) left.push({ sheet, row, column });
    else said.push({ sheet, row, column, result });
  }
  return { results: said, left };
}

/** The parser wraps what goes wrong within it into faults of its own. */
const isParserFault = (error: unknown) =>
  error instanceof Error && /Error|Exception/.test(error.constructor.name);

function resultOf(said: Value | Value[][]): Result {
  if (typeof said === 'number') return Number.isFinite(said) ? said : { fault: '#NUM!' };
  if (typeof said === 'string' || typeof said === 'boolean') return said;
  if (said === null || said === undefined) return 0;
  if (Array.isArray(said)) return undefined;
  const { name } = said as Fault;
  return FAULTS.has(name) ? { fault: name } : undefined;
}

/** What an untouched cell says to a formula. */
function stored(cell: Cell | undefined): Value {
  if (!cell || (cell.text === '' && cell.number === undefined)) return null;
  if (cell.number !== undefined) return cell.number;
  if (cell.kind === 'truth') return cell.text === 'TRUE';
  return cell.kind === 'fault' ? new FormulaError(cell.text) : cell.text;
}

const keyOf = ({ sheet, row, column }: Place) => `${sheet} ${row} ${column}`;

function allFormulas(
  sheets: readonly Sheet[],
  numberOf: ReadonlyMap<string, number>,
  names: DefinedNames,
): Map<string, FormulaAt> {
  const found = new Map<string, FormulaAt>();
  for (const [sheet, { rows }] of sheets.entries())
    rows.forEach((cells: Row | undefined, row) =>
      cells?.forEach((cell, column) => {
        if (cell?.formula === undefined) return;
        const { formula } = cell;
        const named = namesIn(formula).map((name) => names.get(name.toLowerCase()));
        const ranges = [formula, ...named].flatMap((one) => (one === undefined ? [] : rangesIn(one)));
        const known = ranges.map((one) => ({
          ...one,
          of: one.sheet === undefined ? sheet : (numberOf.get(one.sheet.toLowerCase()) ?? -1),
        }));
        const unsure = named.includes(undefined) || known.some(({ of }) => of < 0) || formula.includes('[');
        const at = { sheet, row, column };
        const lost = formula.includes('#REF!') && cell.kind !== 'fault';
        const fresh = lost || (cell.text === '' && cell.number === undefined);
        found.set(keyOf(at), { ...at, formula, ranges: known, unsure, never: NEVER_IN.test(formula), fresh });
      }),
    );
  return found;
}

/** Formulas that refer to changed cells, straight or through others; those of which that can't be told, or that were never worked out, count as such. */
function dependents(
  formulas: readonly FormulaAt[],
  changed: readonly ChangedCells[],
  sheetCount: number,
): Set<string> {
  const dirty = new Set<string>();
  /** What has changed and hasn't been looked at: by sheet. */
  let fresh: { sheet: number; row: number; column: number; lastRow: number; lastColumn: number }[] =
    changed.map(({ sheet, row, column, rows = 1, columns = 1 }) => ({
      sheet,
      row,
      column,
      lastRow: row + rows - 1,
      lastColumn: column + columns - 1,
    }));
  let waiting = formulas;
  const moved = changed.filter((one) => one.moved);
  const isMoved = (at: Place) =>
    moved.some(({ sheet, row, rows = 1 }) => at.sheet === sheet && at.row >= row && at.row < row + rows);
  let first = true;
  while (first || fresh.length > 0) {
    const bySheet = Array.from({ length: sheetCount }, (_, sheet) =>
      fresh.filter((one) => one.sheet === sheet),
    );
    const found: FormulaAt[] = [];
    const others: FormulaAt[] = [];
    for (const one of waiting) {
      const touched = one.ranges.some(
        (range) =>
          range.of >= 0 &&
          bySheet[range.of]!.some(
            (place) =>
              place.row <= range.lastRow &&
              place.lastRow >= range.row &&
              place.column <= range.lastColumn &&
              place.lastColumn >= range.column,
          ),
      );
      if (touched || (first && (one.unsure || one.fresh || isMoved(one)))) found.push(one);
      else others.push(one);
    }
    for (const one of found) dirty.add(keyOf(one));
    fresh = found.map(({ sheet, row, column }) => ({ sheet, row, column, lastRow: row, lastColumn: column }));
    waiting = others;
    first = false;
  }
  return dirty;
}
