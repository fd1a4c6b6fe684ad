import { lineEdits, type LineEdit } from '../document/line-changes.ts';
import { openPackage } from '../office/package.ts';
import { WorkbookEditor } from './edit-xlsx.ts';
import type { SheetEdit } from './edits.ts';
import { readXlsx } from './read-xlsx.ts';
import type { Row, Sheet } from './sheet.ts';

/**
 * A workbook with its changes made, and the rows that say something else then.
 * @throws UnreadableOffice, NoSuchEdit
 */
export function editedWorkbook(
  packed: Uint8Array,
  edits: readonly SheetEdit[],
): { bytes: Uint8Array; edits: LineEdit[] } {
  const editor = new WorkbookEditor(packed);
  const before = sheetsAsText(editor.sheets);
  for (const edit of edits) editor.apply(edit);
  return { bytes: editor.bytes(), edits: rowEdits(before, sheetsAsText(editor.sheets)) };
}

/** The rows of a workbook that say something else than those of another. @throws UnreadableOffice */
export const workbookEdits = (before: Uint8Array, after: Uint8Array): LineEdit[] =>
  rowEdits(workbookAsText(before), workbookAsText(after));

/** What a workbook shows, row by row, to be compared. @throws UnreadableOffice */
export const workbookAsText = (packed: Uint8Array): string => sheetsAsText(readXlsx(openPackage(packed)));

const HEADING = /^Sheet “(.*)”$/;

/** Rows that say something else, each by its number in its sheet; where there are several sheets, with the name of it. */
function rowEdits(before: string, after: string): LineEdit[] {
  const lines = after.split('\n');
  const headings = lines.flatMap((line, at) => (HEADING.test(line) ? [at] : []));
  const named = headings.length > 1;
  return lineEdits(before, after).map(({ line, ...texts }) => {
    const heading = headings.findLast((at) => at < line) ?? 0;
    const sheet = HEADING.exec(lines[heading] ?? '')?.[1] ?? '';
    const told = (text: string | undefined) => (named && text !== undefined ? `${sheet}: ${text}` : text);
    return { line: Math.max(1, line - heading - 1), before: told(texts.before), after: told(texts.after) };
  });
}

function sheetsAsText(sheets: readonly Sheet[]): string {
  return sheets
    .flatMap(({ name, rows }) => [`Sheet “${name}”`, ...Array.from(rows, rowAsText)])
    .map((line) => `${line}\n`)
    .join('');
}

function rowAsText(row: Row | undefined): string {
  const texts = Array.from(row ?? [], (cell) => (cell?.text || cell?.formula || '').replace(/\s+/g, ' '));
  return texts.slice(0, texts.findLastIndex((text) => text !== '') + 1).join(' | ');
}
