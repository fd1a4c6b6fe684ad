import { expect, test } from 'vitest';
import type { RichNode } from '../document/rich.ts';
import type { Sheet } from '../sheet/sheet.ts';
import { originalIn, readEdit } from '../picture/recipe/edit.ts';
import { readMadePdf, writeMadePdf } from './made-pdf.ts';
import { runsIn } from './print-document.ts';
import { printedHtml } from './printed-html.ts';
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

const types = (html: string) => printedHtml(html).doc.content!.map(({ type }) => type);

test('HTML goes on paper without what only arranges it; the looks that its elements say stay', () => {
  expect(
    types(
      '<section><h2>A</h2><div><p>b</p><figure><img src=x><figcaption>c</figcaption></figure></div></section>',
    ),
  ).toEqual(['heading', 'paragraph', 'paragraph', 'paragraph']);
  const { doc, notes } = printedHtml(
    '<p style="font-weight:bold">All <span style="font-style:italic">of it</span>, <span class="link" title="https://a.example/">there</span><span class="tab">\t</span>3</p>' +
      '<script>no()</script><form>Name</form>',
  );
  expect(notes).toEqual(['The document has this: form. In the PDF it is plain text, or left out.']);
  expect(doc.content).toHaveLength(2);
  expect(runsIn(doc.content![0]!)).toMatchObject([
    { text: 'All ', bold: true, italic: false },
    { text: 'of it', bold: true, italic: true },
    { text: ', ', bold: true },
    { text: 'there', href: 'https://a.example/' },
    { text: '\u2003', href: '' },
    { text: '3' },
  ]);
  expect(doc.content![1]).toEqual({ type: 'paragraph', content: [{ type: 'text', text: 'Name' }] });
});

test('merged cells take the places of several', () => {
  const words = (node: RichNode): string => node.text ?? (node.content ?? []).map(words).join('');
  const [table] = printedHtml(
    '<table><tr><th rowspan=2>Night<th colspan=2>Price</tr><tr><td>Adult<td>Child</tr><tr><td>Friday<td>4</tr></table>',
  ).doc.content!;
  expect(table!.content!.map((row) => row.content!.map(words))).toEqual([
    ['Night', 'Price', ''],
    ['', 'Adult', 'Child'],
    ['Friday', '4', ''],
  ]);
});
