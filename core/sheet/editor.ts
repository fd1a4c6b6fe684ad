import type { LineEdit } from '../document/line-changes.ts';
import { openPackage } from '../office/package.ts';
import { rowAsText, sheetEdits } from './changes.ts';
import { WorkbookEditor } from './edit-xlsx.ts';
import type { SheetEdit } from './edits.ts';
import { readXlsx } from './read-xlsx.ts';
import type { Sheet } from './sheet.ts';

/**
 * A workbook with its changes made, and the cells and rows that say something else then.
 * @throws UnreadableOffice, NoSuchEdit
 */
export function editedWorkbook(
  packed: Uint8Array,
  edits: readonly SheetEdit[],
): { bytes: Uint8Array; edits: LineEdit[] } {
  const editor = new WorkbookEditor(packed);
  for (const edit of edits) editor.apply(edit);
  return { bytes: editor.bytes(), edits: sheetEdits(sheetsOf(packed), editor.sheets) };
}

/** The cells and rows of a workbook that say something else than those of another. @throws UnreadableOffice */
export const workbookEdits = (before: Uint8Array, after: Uint8Array): LineEdit[] =>
  sheetEdits(sheetsOf(before), sheetsOf(after));

/** What a workbook shows, row by row, to be compared. @throws UnreadableOffice */
export const workbookAsText = (packed: Uint8Array): string =>
  sheetsOf(packed)
    .flatMap(({ name, rows }) => [`Sheet “${name}”`, ...Array.from(rows, rowAsText)])
    .map((line) => `${line}\n`)
    .join('');

const sheetsOf = (packed: Uint8Array): readonly Sheet[] => readXlsx(openPackage(packed));
