import type { RichNode } from '../document/rich.ts';
import type { Cell, Sheet } from '../sheet/sheet.ts';

/** Rows and columns of a sheet that are put on paper at most. */
const MOST_ROWS = 5000;
const MOST_COLUMNS = 30;

/** Sheets as headings and tables. Hidden ones, and hidden rows and columns, are left out. */
export function printedSheets(sheets: readonly Sheet[]): { doc: RichNode; notes: string[] } {
  const notes: string[] = [];
  const seen = sheets.filter(({ hidden, rows }) => !hidden && rows.length > 0);
  const content = seen.flatMap((sheet): RichNode[] => {
    const columns = Array.from({ length: sheet.columnCount }, (_, at) => at).filter(
      (at) => sheet.widths[at] !== 0,
    );
    const shown = columns.slice(0, MOST_COLUMNS);
    if (columns.length > MOST_COLUMNS)
      notes.push(`Of “${sheet.name}” only the first ${MOST_COLUMNS} columns are in it.`);
    if (sheet.rows.length > MOST_ROWS)
      notes.push(`Of “${sheet.name}” only the first ${MOST_ROWS.toLocaleString('en')} rows are in it.`);
    const hidden = new Set(sheet.hiddenRows);
    const rows = Array.from(sheet.rows.slice(0, MOST_ROWS), (row, at) => ({ row, at }))
      .filter(({ at }) => !hidden.has(at))
      .map(({ row, at }): RichNode => {
        const type = at < sheet.frozenRows ? 'tableHeader' : 'tableCell';
        return { type: 'tableRow', content: shown.map((column) => cellNode(row?.[column], type)) };
      });
    if (rows.length === 0 || shown.length === 0) return [];
    const heading: RichNode = {
      type: 'heading',
      attrs: { level: 2 },
      content: [{ type: 'text', text: sheet.name }],
    };
    return [...(seen.length > 1 ? [heading] : []), { type: 'table', content: rows }];
  });
  return { doc: { type: 'doc', content }, notes };
}

function cellNode(cell: Cell | undefined, type: string): RichNode {
  const text = cell?.text || cell?.formula || '';
  const align = cell?.style?.align ?? (cell?.kind === 'number' ? 'right' : undefined);
  const marks = [
    ...(cell?.style?.bold ? [{ type: 'bold' as const }] : []),
    ...(cell?.style?.italic ? [{ type: 'italic' as const }] : []),
  ];
  return {
    type,
    ...(align ? { attrs: { align } } : {}),
    content: [{ type: 'paragraph', ...(text === '' ? {} : { content: [{ type: 'text', text, marks }] }) }],
  };
}
