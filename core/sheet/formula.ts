import { cellAt, columnName } from './sheet.ts';

/** Texts and names of sheets in quotes, functions and names with their brackets, and cells. */
const PIECES = /"(?:[^"]|"")*"|'(?:[^']|'')*'|(\$?[A-Z]{1,3}\$?\d{1,7})(?![\w.(])|[A-Za-z_][\w.]*/g;

/** A formula as it is some cells further on: what it refers to moves along, but for what is held by “$”. “#REF!” where that is nowhere. */
export function movedFormula(formula: string, rows: number, columns: number): string {
  return formula.replace(PIECES, (piece, cell?: string) => {
    const at = cell && cellAt(cell);
    if (!at) return piece;
    const [, heldColumn, heldRow] = /^(\$?)[A-Z]+(\$?)/.exec(piece)!;
    const column = heldColumn ? at.column : at.column + columns;
    const row = heldRow ? at.row : at.row + rows;
    const moved = `${heldColumn}${column < 0 ? '' : columnName(column)}${heldRow}${row + 1}`;
    return column >= 0 && row >= 0 && cellAt(moved) ? moved : '#REF!';
  });
}
