import { expect, test } from 'vitest';
import type { Sheet } from '../sheet/sheet.ts';
import { originalIn, readEdit } from '../picture/recipe/edit.ts';
import { readMadePdf, writeMadePdf } from './made-pdf.ts';
import { runsIn } from './print-document.ts';
import { printedSheets } from './printed-sheets.ts';

const sheet = (name: string, more: Partial<Sheet> = {}): Sheet => ({
  name,
  hidden: false,
  rowCount: 2,
  columnCount: 2,
  frozenRows: 1,
  frozenColumns: 0,
  widths: [],
  hiddenRows: [],
  merges: [],
  notes: [],
  rows: [
    [
      { text: 'Item', kind: 'text' },
      { text: 'Price', kind: 'text', style: { bold: true } },
    ],
    [
      { text: 'Star wheel', kind: 'text' },
      { text: '£9.50', kind: 'number', number: 9.5 },
    ],
  ],
  ...more,
});

test('sheets become tables: frozen rows as headings, numbers to the right, hidden ones left out', () => {
  const { doc, notes } = printedSheets([sheet('Prices'), sheet('Secret', { hidden: true })]);
  expect(notes).toEqual([]);
  expect(doc.content).toHaveLength(1);
  const [head, row] = doc.content![0]!.content!;
  expect(head!.content!.map(({ type }) => type)).toEqual(['tableHeader', 'tableHeader']);
  expect(row!.content![1]!.attrs).toEqual({ align: 'right' });
  const two = printedSheets([sheet('A'), sheet('B', { widths: [undefined, 0], hiddenRows: [1] })]).doc
    .content!;
  expect(two.map(({ type }) => type)).toEqual(['heading', 'table', 'heading', 'table']);
  expect(two[3]!.content!.map(({ content }) => content!.length)).toEqual([1]);
});

test('what is too much for paper is told', () => {
  const rows = Array.from({ length: 5001 }, () => [{ text: 'x', kind: 'text' as const }]);
  const { notes } = printedSheets([sheet('Long', { rows, rowCount: 5001, columnCount: 40 })]);
  expect(notes).toEqual([
    'Of “Long” only the first 30 columns are in it.',
    'Of “Long” only the first 5,000 rows are in it.',
  ]);
});

test('letters keep their looks and links; images stand by themselves', () => {
  const runs = runsIn({
    type: 'paragraph',
    content: [
      {
        type: 'text',
        text: 'us',
        marks: [{ type: 'bold' }, { type: 'link', attrs: { href: 'https://a.example/' } }],
      },
      { type: 'hardBreak' },
      { type: 'image', attrs: { src: 'x' } },
      { type: 'keptInline', attrs: { says: '4 March' } },
    ],
  });
  expect(runs).toMatchObject([
    { text: 'us\n', bold: true, href: 'https://a.example/' },
    { type: 'image' },
    { text: '4 March', bold: false },
  ]);
});

test('how a PDF was made is known as long as its bytes are those; it is none of an image', () => {
  const [of, pdf] = ['a'.repeat(64), 'b'.repeat(64)];
  const text = writeMadePdf({ from: 7, sha256: of }, pdf);
  expect(readMadePdf(text, pdf)).toEqual({ from: 7, sha256: of });
  expect(readMadePdf(text, of)).toBeUndefined();
  expect(readMadePdf('', pdf)).toBeUndefined();
  expect(originalIn(text)).toBeUndefined();
  expect(readEdit(text, pdf)).toBeUndefined();
});
