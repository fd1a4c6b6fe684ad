import { strFromU8, unzipSync } from 'fflate';
import { expect, test } from 'vitest';
import { WorkbookEditor } from '../sheet/edit-xlsx.ts';
import { blankDocument } from './new-document.ts';
import { readWord, wordAsText } from '../word/read-word.ts';
import { editedWord } from '../word/write-word.ts';
import type { RichNode } from './rich.ts';

test('a text begins with its title, and can be written in at once', () => {
  const bytes = blankDocument('text', ' Open\nnights & <days> ');
  const { doc, kept } = readWord(bytes);
  expect(doc.content).toMatchObject([{ type: 'heading', attrs: { level: 1 } }, { type: 'paragraph' }]);
  expect(kept).toEqual([]);
  const text: RichNode = { type: 'paragraph', content: [{ type: 'text', text: 'Doors open at 19:00.' }] };
  const list: RichNode = { type: 'bulletList', content: [{ type: 'listItem', content: [text] }] };
  const now = editedWord(bytes, { ...doc, content: [doc.content![0]!, text, list] });
  expect(wordAsText(now)).toBe('Open nights & <days>\nDoors open at 19:00.\nDoors open at 19:00.\n');
  expect(readWord(now).doc.content![2]!.type).toBe('bulletList');
});

test.each([
  ['Spring prices', 'Spring prices'],
  ['Prices [2026]: a/b & "c"', 'Prices  2026   a b & "c"'],
  ["'quoted'", 'quoted'],
  ['???', 'Sheet 1'],
  ['A list that has a far longer name than any sheet may have', 'A list that has a far longer na'],
])('a workbook called %j can be opened and written in at once', (title, sheet) => {
  const bytes = blankDocument('workbook', title);
  const editor = new WorkbookEditor(bytes);
  expect(editor.sheets.map(({ name, rowCount }) => [name, rowCount])).toEqual([[sheet, 0]]);
  editor.apply({
    do: 'set',
    sheet: 0,
    cells: [
      [0, 0, 'Item'],
      [1, 1, '12%'],
      [2, 1, '=B2*2'],
    ],
  });
  editor.apply({ do: 'style', sheet: 0, row: 0, column: 0, rows: 1, columns: 1, look: { bold: true } });
  const again = new WorkbookEditor(editor.bytes()).sheets[0]!;
  expect(again.rows[1]![1]).toMatchObject({ text: '12%', number: 0.12 });
  expect(again.rows[2]![1]).toMatchObject({ number: 0.24, formula: '=B2*2' });
  expect(again.rows[0]![0]!.style).toEqual({ bold: true });
  expect(strFromU8(unzipSync(bytes)['docProps/core.xml']!)).toContain('<dc:title>');
});
