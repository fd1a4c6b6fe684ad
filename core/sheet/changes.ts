import { diffArrays } from 'diff';
import type { LineEdit } from '../document/line-changes.ts';
import { columnName, type Cell, type Row, type Sheet } from './sheet.ts';

/** Rows that may come and go before a sheet is compared row by row at the same places. */
const MOST_MOVED = 5000;

/**
 * What changed between two versions of a workbook: cells, and rows that came or went, each by its place in the sheet as it is (or was, when it went).
 * Where there are several sheets, with the name of its own.
 */
export function sheetEdits(before: readonly Sheet[], after: readonly Sheet[]): LineEdit[] {
  /** Where rows or columns came or went, formulas that follow them are others everywhere, and say the same. */
  const isMoved =
    before.length !== after.length ||
    after.some(({ name, rowCount, columnCount }) => {
      const old = before.find((one) => one.name === name);
      return old?.rowCount !== rowCount || old.columnCount !== columnCount;
    });
  const keyOf = (row: Row | undefined) => keyed(row, !isMoved);
  const names = [...new Set([...after, ...before].map(({ name }) => name))];
  const rowsIn = (sheets: readonly Sheet[], name: string) =>
    Array.from(sheets.find((one) => one.name === name)?.rows ?? []);
  return names.flatMap((name) => {
    const [old, now] = [rowsIn(before, name), rowsIn(after, name)];
    const told = (text: string) => (names.length > 1 ? `${name}: ${text}` : text);
    const edits: LineEdit[] = [];
    let [from, at] = [0, 0];
    const pass = (removed: number, added: number) => {
      const both = Math.min(removed, added);
      for (let row = 0; row < both; row++)
        edits.push(
          ...cellEdits(old[from + row], now[at + row], at + row, !isMoved, names.length > 1 ? name : ''),
        );
      for (let row = both; row < added; row++)
        edits.push({ line: at + row + 1, before: undefined, after: told(rowAsText(now[at + row])) });
      for (let row = both; row < removed; row++)
        edits.push({ line: from + row + 1, before: told(rowAsText(old[from + row])), after: undefined });
      from += removed;
      at += added;
    };
    const runs = diffArrays(old.map(keyOf), now.map(keyOf), { maxEditLength: MOST_MOVED });
    if (!runs) pass(old.length, now.length);
    for (let run = 0; run < (runs?.length ?? 0); run++) {
      const [one, next] = [runs![run]!, runs![run + 1]];
      const size = one.value.length;
      if (!one.added && !one.removed) {
        from += size;
        at += size;
        continue;
      }
      const other = next && ((one.removed && next.added) || (one.added && next.removed)) ? next : undefined;
      if (other) run++;
      const [gone, come] = one.removed ? [one, other] : [other, one];
      pass(gone?.value.length ?? 0, come?.value.length ?? 0);
    }
    return edits;
  });
}

const shown = (cell: Cell | undefined): string => cell?.text || cell?.formula || '';
/** What tells a row from others. */
const keyed = (row: Row | undefined, formulas: boolean): string => {
  const cells = Array.from(row ?? [], (cell) => [shown(cell), formulas ? (cell?.formula ?? '') : '']);
  return JSON.stringify(cells.slice(0, cells.findLastIndex(([text]) => text !== '') + 1));
};

function cellEdits(
  old: Row | undefined,
  now: Row | undefined,
  row: number,
  byFormula: boolean,
  sheet: string,
): LineEdit[] {
  const edits: LineEdit[] = [];
  for (let column = 0; column < Math.max(old?.length ?? 0, now?.length ?? 0); column++) {
    const [before, after] = [old?.[column], now?.[column]];
    const texts = [shown(before), shown(after)];
    const formulas = [before?.formula ?? '', after?.formula ?? ''];
    if (texts[0] === texts[1] && (!byFormula || formulas[0] === formulas[1])) continue;
    // The same result by another formula: that is what changed.
    const [was, is] = texts[0] === texts[1] ? [formulas[0] || texts[0], formulas[1] || texts[1]] : texts;
    const place = `${columnName(column)}${row + 1}`;
    edits.push({
      line: row + 1,
      before: was!,
      after: is!,
      cell: sheet === '' ? place : `${place} of “${sheet}”`,
    });
  }
  return edits;
}

/** The cells of a row, to be read and compared. */
export function rowAsText(row: Row | undefined): string {
  const texts = Array.from(row ?? [], (cell) => shown(cell).replace(/\s+/g, ' '));
  return texts.slice(0, texts.findLastIndex((text) => text !== '') + 1).join(' | ');
}
