import { lineEdits, type LineEdit } from '../document/line-changes.ts';
import { openPackage } from '../office/package.ts';
import { WorkbookEditor } from './edit-xlsx.ts';
import { editsOfText } from './edits.ts';
import { readXlsx } from './read-xlsx.ts';
import type { Sheet } from './sheet.ts';

/**
 * A workbook with its changes made, and the rows that say something else then.
 * @param edits as `editsAsText` wrote them
 * @throws UnreadableOffice, NoSuchEdit
 */
export function editedWorkbook(packed: Uint8Array, edits: string): { bytes: Uint8Array; edits: LineEdit[] } {
  const editor = new WorkbookEditor(packed);
  const before = sheetsAsText(editor.sheets);
  for (const edit of editsOfText(edits)) editor.apply(edit);
  return { bytes: editor.bytes(), edits: lineEdits(before, sheetsAsText(editor.sheets)) };
}

/** The rows of a workbook that say something else than those of another. @throws UnreadableOffice */
export const workbookEdits = (before: Uint8Array, after: Uint8Array): LineEdit[] =>
  lineEdits(workbookAsText(before), workbookAsText(after));

/** What a workbook shows, row by row, to be compared. @throws UnreadableOffice */
export const workbookAsText = (packed: Uint8Array): string => sheetsAsText(readXlsx(openPackage(packed)));

function sheetsAsText(sheets: readonly Sheet[]): string {
  return sheets
    .flatMap(({ name, rows }) => [
      `Sheet “${name}”`,
      ...Array.from(rows, (row) =>
        Array.from(row ?? [], (cell) => (cell?.text || cell?.formula || '').replace(/\s+/g, ' '))
          .join(' | ')
          .replace(/(?: \| )+$/, ''),
      ),
    ])
    .map((line) => `${line}\n`)
    .join('');
}
