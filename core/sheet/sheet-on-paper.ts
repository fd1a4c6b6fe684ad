import { element, escapeHtml } from '../office/paper.ts';
import { lookOf } from './cell-look.ts';
import type { Cell, Row, SheetFacts } from './sheet.ts';

/** Rows and columns of a sheet that are put on paper at most. */
export const MOST_PRINTED = 5000;
const MOST_COLUMNS = 60;

/** A sheet as a table in HTML. @param rows its first ones; hidden ones, and hidden columns, are left out */
export function sheetOnPaper(sheet: SheetFacts, rows: readonly (Row | undefined)[]): string {
  const hidden = new Set(sheet.hiddenRows);
  const columns = Array.from({ length: Math.min(sheet.columnCount, MOST_COLUMNS) }, (_, at) => at).filter(
    (at) => sheet.widths[at] !== 0,
  );
  const merged = new Map<string, { rows: number; columns: number } | undefined>();
  for (const { row, column, rows: tall, columns: wide } of sheet.merges) {
    const end = Math.min(row + tall, rows.length);
    const along = columns.filter((at) => at >= column && at < column + wide);
    const down = Array.from({ length: Math.max(0, end - row) }, (_, at) => row + at).filter(
      (at) => !hidden.has(at),
    );
    for (const at of down)
      for (const one of along)
        merged.set(
          `${at} ${one}`,
          at === row && one === column ? { rows: down.length, columns: along.length } : undefined,
        );
  }
  const lines = rows.flatMap((row, at) => {
    if (hidden.has(at)) return [];
    const cells = columns.map((column) => {
      const key = `${at} ${column}`;
      const span = merged.get(key);
      if (merged.has(key) && !span) return '';
      const cell = row?.[column];
      return element(
        'td',
        {
          style: cssOf(cell),
          rowspan: span && span.rows > 1 ? String(span.rows) : undefined,
          colspan: span && span.columns > 1 ? String(span.columns) : undefined,
        },
        escapeHtml(cell?.text || cell?.formula || ''),
      );
    });
    return [`<tr>${cells.join('')}</tr>`];
  });
  const left = sheet.rowCount - rows.length;
  const more = left > 0 ? `<p>${left.toLocaleString('en')} more rows are not printed.</p>` : '';
  const columnsLeft =
    sheet.columnCount > MOST_COLUMNS ? `<p>Columns after the first ${MOST_COLUMNS} are not printed.</p>` : '';
  return `<article><h1>${escapeHtml(sheet.name)}</h1><table>${lines.join('')}</table>${more}${columnsLeft}</article>`;
}

/** On paper, all of a text is seen. */
const cssOf = (cell: Cell | undefined): string =>
  Object.entries({ ...lookOf(cell), 'white-space': 'pre-wrap' })
    .map(([property, value]) => `${property}:${value}`)
    .join(';');
