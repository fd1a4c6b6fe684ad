import { strToU8, zipSync } from 'fflate';
import { describe, expect, test } from 'vitest';
import { openPackage, UnreadableOffice } from '../office/package.ts';
import { csvBook, findInSheet, memoryBook } from './book.ts';
import { delimiterOf, parseRows, STEP } from './csv.ts';
import { movedFormula } from './formula.ts';
import { readOds } from './read-ods.ts';
import { readXlsx } from './read-xlsx.ts';
import { sheetOnPaper } from './sheet-on-paper.ts';
import { cellAt, columnName, rangeAt, type Row } from './sheet.ts';

const packed = (files: Record<string, string>) =>
  zipSync(Object.fromEntries(Object.entries(files).map(([name, text]) => [name, strToU8(text)])));
const texts = (row: Row | undefined) => Array.from(row ?? [], (cell) => cell?.text ?? '');
const RELATIONS = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
const relations = (...all: [string, string, string][]) =>
  `<Relationships>${all.map(([id, type, target]) => `<Relationship Id="${id}" Type="${RELATIONS}/${type}" Target="${target}"/>`).join('')}</Relationships>`;

/** A workbook with one sheet of the given XML, and another that is hidden. */
const workbook = (sheet: string, more: { properties?: string; styles?: string; shared?: string } = {}) =>
  openPackage(
    packed({
      '_rels/.rels': relations(['rId1', 'officeDocument', 'xl/workbook.xml']),
      'xl/workbook.xml': `<workbook>${more.properties ?? ''}<sheets><sheet name="Prices" r:id="rId1" xmlns:r="r"/><sheet name="Old" state="hidden" r:id="rId2" xmlns:r="r"/></sheets></workbook>`,
      'xl/_rels/workbook.xml.rels': relations(
        ['rId1', 'worksheet', 'worksheets/sheet1.xml'],
        ['rId2', 'worksheet', '/xl/worksheets/sheet2.xml'],
        ['rId3', 'styles', 'styles.xml'],
        ['rId4', 'sharedStrings', 'sharedStrings.xml'],
      ),
      'xl/worksheets/sheet1.xml': sheet,
      'xl/worksheets/sheet2.xml': '<worksheet><sheetData/></worksheet>',
      'xl/styles.xml': `<styleSheet>${more.styles ?? ''}</styleSheet>`,
      'xl/sharedStrings.xml': `<sst>${more.shared ?? ''}</sst>`,
    }),
  );

test('columns and cells by their letters', () => {
  expect([0, 25, 26, 701, 702, 16_383].map(columnName)).toEqual(['A', 'Z', 'AA', 'ZZ', 'AAA', 'XFD']);
  expect(cellAt('$C$5')).toEqual({ row: 4, column: 2 });
  expect([cellAt('A0'), cellAt('XFE1'), cellAt('A1048577'), cellAt('5')]).toEqual(Array(4).fill(undefined));
  expect(rangeAt('C3:A1')).toEqual({ row: 0, column: 0, rows: 3, columns: 3 });
});

test('a formula that is shared moves with its cell, but not its texts, its functions and what is held', () => {
  expect(movedFormula('SUM(A1:$B$2)*C$1&"A1"', 2, 1)).toBe('SUM(B3:$B$2)*D$1&"A1"');
  expect(movedFormula("'Sheet A1'!A1+LOG10(B2)", 1, 0)).toBe("'Sheet A1'!A2+LOG10(B3)");
  expect(movedFormula('A1', -1, 0)).toBe('#REF!');
});

describe('workbooks', () => {
  test('show texts, numbers by their formats, dates, truths and faults', () => {
    const styles = `<numFmts><numFmt numFmtId="164" formatCode="#,##0.00\\ &quot;kr&quot;"/></numFmts>
      <fonts><font/><font><b/><color rgb="FFC00000"/></font></fonts>
      <fills><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="solid"><fgColor rgb="FFFFEE00"/></patternFill></fill></fills>
      <cellXfs><xf/><xf numFmtId="164"/><xf numFmtId="14"/><xf numFmtId="9"/><xf fontId="1" fillId="1"><alignment horizontal="center"/></xf></cellXfs>`;
    const sheet = `<worksheet><sheetViews><sheetView><pane xSplit="1" ySplit="2" state="frozen"/></sheetView></sheetViews>
      <cols><col min="1" max="1" width="20"/><col min="3" max="3" hidden="1"/></cols><sheetData>
      <row r="1"><c r="A1" t="s" s="4"><v>0</v></c><c r="B1" t="inlineStr"><is><r><t>Half </t></r><r><t>price</t></r><rPh><t>xx</t></rPh></is></c></row>
      <row r="3" hidden="1"><c r="A3" s="1"><v>1234.5</v></c><c r="B3" s="2"><v>46000</v></c><c r="C3" s="3"><v>0.125</v></c>
        <c r="D3" t="b"><v>1</v></c><c r="E3" t="e"><f>1/0</f><v>#DIV/0!</v></c><c r="F3"><v>0.1</v></c></row>
      </sheetData><mergeCells><mergeCell ref="A1:B1"/></mergeCells><drawing r:id="rId1" xmlns:r="r"/></worksheet>`;
    const shared = '<si><t>Item &amp; size</t></si>';
    const [prices, old] = readXlsx(workbook(sheet, { styles, shared }));
    expect(texts(prices!.rows[0])).toEqual(['Item & size', 'Half price']);
    expect(texts(prices!.rows[2])).toEqual(['1,234.50 kr', '12/9/2025', '13%', 'TRUE', '#DIV/0!', '0.1']);
    expect(prices!.rows[2]![4]).toEqual({ text: '#DIV/0!', kind: 'fault', formula: '=1/0' });
    expect(prices!.rows[0]![0]!.style).toEqual({
      bold: true,
      color: '#c00000',
      fill: '#ffee00',
      align: 'center',
    });
    expect(prices).toMatchObject({
      name: 'Prices',
      hidden: false,
      rowCount: 3,
      columnCount: 6,
      frozenRows: 2,
      frozenColumns: 1,
      widths: [145, undefined, 0],
      hiddenRows: [2],
      merges: [{ row: 0, column: 0, rows: 1, columns: 2 }],
      notes: ['Charts and images on this sheet aren’t shown here.'],
    });
    expect(old).toMatchObject({ name: 'Old', hidden: true, rowCount: 0 });
  });

  test('count their days from 1904 where they say so', () => {
    const sheet =
      '<worksheet><sheetData><row><c s="0"><v>0</v></c><c s="1"><v>0</v></c></row></sheetData></worksheet>';
    const [read] = readXlsx(
      workbook(sheet, {
        properties: '<workbookPr date1904="1"/>',
        styles: '<cellXfs><xf/><xf numFmtId="14"/></cellXfs>',
      }),
    );
    expect(texts(read!.rows[0])).toEqual(['0', '1/1/1904']);
  });

  test('share formulas, and say nothing in cells that only have a look', () => {
    const sheet = `<worksheet><sheetData><row r="1"><c r="C1"><f t="shared" ref="C1:C2" si="0">A1*2</f><v>2</v></c></row>
      <row r="2"><c r="C2"><f t="shared" si="0"/><v>4</v></c></row><row r="90"><c r="Z90" s="0"/></row></sheetData></worksheet>`;
    const [read] = readXlsx(workbook(sheet));
    expect(read!.rows[1]![2]!.formula).toBe('=A2*2');
    expect(read).toMatchObject({ rowCount: 2, columnCount: 3 });
  });
});

describe('spreadsheets in OpenDocument', () => {
  const ods = (body: string, styles = '') =>
    openPackage(
      packed({
        'content.xml': `<office:document-content xmlns:office="o" xmlns:table="t" xmlns:text="x" xmlns:style="s" xmlns:fo="f" xmlns:draw="d"><office:automatic-styles>${styles}</office:automatic-styles><office:body><office:spreadsheet>${body}</office:spreadsheet></office:body></office:document-content>`,
        'styles.xml': '<office:document-styles xmlns:office="o"/>',
        'settings.xml':
          '<s xmlns:config="c"><config:config-item-map-entry config:name="One"><config:config-item config:name="VerticalSplitMode">2</config:config-item><config:config-item config:name="VerticalSplitPosition">1</config:config-item></config:config-item-map-entry></s>',
      }),
    );

  test('show what was saved; repeated cells and rows stand at each place, and endless empty ones nowhere', () => {
    const [sheet] = readOds(
      ods(
        `<table:table table:name="One"><table:table-column table:style-name="co1"/>
        <table:table-row><table:table-cell table:number-columns-repeated="2" office:value-type="string"><text:p>twice</text:p></table:table-cell>
          <table:table-cell office:value-type="currency" table:formula="of:=SUM([.A1:.B1])*2" table:style-name="ce1"><office:annotation><text:p>a note</text:p></office:annotation><text:p>£4.00</text:p></table:table-cell>
          <table:table-cell table:number-columns-repeated="16381"/></table:table-row>
        <table:table-row table:number-rows-repeated="3"><table:table-cell><text:p>a<text:s text:c="2"/>b</text:p><text:p>c</text:p></table:table-cell></table:table-row>
        <table:table-row table:number-rows-repeated="1048572"><table:table-cell table:number-columns-repeated="16384"/></table:table-row>
        </table:table>`,
        '<style:style style:name="co1" style:family="table-column"><style:table-column-properties style:column-width="2.54cm"/></style:style><style:style style:name="ce1" style:family="table-cell"><style:text-properties fo:font-weight="bold"/></style:style>',
      ),
    );
    expect(texts(sheet!.rows[0])).toEqual(['twice', 'twice', '£4.00']);
    expect(sheet!.rows[0]![2]).toEqual({
      text: '£4.00',
      kind: 'number',
      formula: '=SUM(A1:B1)*2',
      style: { bold: true },
    });
    expect(sheet!.rows.slice(1).map((row) => texts(row))).toEqual(Array(3).fill(['a  b\nc']));
    expect(sheet).toMatchObject({
      rowCount: 4,
      columnCount: 3,
      frozenRows: 1,
      widths: [96],
      notes: ['Comments on cells aren’t shown here.'],
    });
  });
});

describe('packages that can’t be read', () => {
  test.each([
    ['no package', strToU8('nothing'), 'damaged'],
    ['protected by a password', new Uint8Array([0xd0, 0xcf, 0x11, 0xe0, 0xa1]), 'protected by a password'],
    [
      'protected in OpenDocument',
      packed({ 'META-INF/manifest.xml': '<manifest:encryption-data/>', 'content.xml': 'x' }),
      'protected by a password',
    ],
    [
      'made to fill the memory',
      packed({ 'xl/workbook.xml': ' '.repeat(20_000_000) }),
      'far more than it weighs',
    ],
  ])('%s', (_what, bytes, why) => {
    expect(() => openPackage(bytes)).toThrow(UnreadableOffice);
    expect(() => openPackage(bytes)).toThrow(why);
  });
  test('damaged within', () => {
    expect(() => readXlsx(workbook('<worksheet><sheetData>'))).toThrow('Its content is damaged.');
    expect(() => readXlsx(openPackage(packed({ 'word/document.xml': '' })))).toThrow('It holds no workbook.');
  });
});

describe('tables in text', () => {
  const book = (text: string | Uint8Array<ArrayBuffer>) => csvBook(new Blob([text]), 'stars.csv');
  const all = async (text: string | Uint8Array<ArrayBuffer>) => {
    const made = await book(text);
    return (await made.rows(0, 0, made.sheets[0]!.rowCount)).map(texts);
  };

  test('the delimiter is the sign that splits the lines alike', () => {
    expect(delimiterOf('a;b;c\n"1,5";2,5;3,5\n')).toBe(';');
    expect(delimiterOf('a\tb\n1, 2\t3\n')).toBe('\t');
    expect(delimiterOf('one column\nand no more\n')).toBe(',');
  });

  test('quotes hold delimiters, line ends and quotes; within a field they are signs', async () => {
    const text = 'name,size\r\n"Heron, ""the"" bird","two\r\nlines"\r\n5" pipe,"a"b\r\n\r\nlast,';
    expect(parseRows(text, ',', true)).toEqual([
      ['name', 'size'],
      ['Heron, "the" bird', 'two\r\nlines'],
      ['5" pipe', 'ab'],
      [''],
      ['last', ''],
    ]);
    expect(await all(text)).toEqual(parseRows(text, ',', true).map((row) => row));
  });

  test('a quote that is never closed swallows nothing', async () => {
    const made = await book('a,b\n"open,2\n3,4\n');
    expect(made.sheets[0]).toMatchObject({ rowCount: 3, columnCount: 2 });
    expect(made.sheets[0]!.notes).toHaveLength(1);
    expect((await made.rows(0, 1, 2)).map(texts)).toEqual([
      ['"open', '2'],
      ['3', '4'],
    ]);
  });

  test('any window of a long table is what the whole says, in chunks of any length', async () => {
    const lines = Array.from({ length: 5 * STEP + 3 }, (_, at) =>
      at % 7 === 0 ? `"${at}\n${at}",x` : at % 11 === 0 ? '' : `${at},y`,
    );
    const text = `${lines.join('\r\n')}\r\n`;
    const whole = parseRows(text, ',', true);
    const made = await book(text);
    expect(made.sheets[0]!.rowCount).toBe(whole.length);
    for (const [from, count] of [
      [0, 3],
      [STEP - 1, 2],
      [STEP, STEP],
      [3 * STEP - 5, 700],
      [5 * STEP, 3],
    ] as const)
      expect((await made.rows(0, from, count)).map(texts), `${from}`).toEqual(
        whole.slice(from, from + count),
      );
  });

  test('in the encodings that tables come in', async () => {
    expect(await all(new Uint8Array([0x63, 0x61, 0x66, 0xe9, 0x2c, 0x80, 0x0a]))).toEqual([['café', '€']]);
    expect(await all(strToU8('\ufeffcafé,1\n'))).toEqual([['café', '1']]);
    const wide = new Uint8Array(Buffer.from('\ufeffcafé;1\n2;3\n', 'utf16le'));
    expect(await all(wide)).toEqual([
      ['café', '1'],
      ['2', '3'],
    ]);
    expect(await all('')).toEqual([]);
  });

  test('words are found row by row, in sheets of any kind', async () => {
    const made = await book(`a,b\n${'x,y\n'.repeat(9000)}heron,Heron\n`);
    const any = { exact: false, whole: false };
    expect(await findInSheet(made, 0, 'heron', any)).toEqual([
      { row: 9001, column: 0 },
      { row: 9001, column: 1 },
    ]);
    expect(await findInSheet(made, 0, 'Heron', { ...any, exact: true })).toEqual([{ row: 9001, column: 1 }]);
    const memory = memoryBook(
      readXlsx(
        workbook('<worksheet><sheetData><row><c t="str"><v>a heron</v></c></row></sheetData></worksheet>'),
      ),
    );
    expect(await findInSheet(memory, 0, 'heron', { ...any, whole: true })).toEqual([{ row: 0, column: 0 }]);
  });
});

test('a sheet on paper: cells that are one, what is hidden, and what of it is left out', () => {
  const [sheet] = readXlsx(
    workbook(`<worksheet><cols><col min="2" max="2" hidden="1"/></cols><sheetData>
      <row r="1"><c r="A1" t="str"><v>A &lt;b&gt;</v></c><c r="B1" t="str"><v>hidden</v></c><c r="C1"><v>5</v></c></row>
      <row r="2" hidden="1"><c r="A2" t="str"><v>hidden</v></c></row>
      <row r="3"><c r="A3"><f>A1</f></c><c r="C3" t="str"><v>covered</v></c></row><row r="9"><c r="A9"><v>9</v></c></row>
      </sheetData><mergeCells><mergeCell ref="A3:C3"/></mergeCells></worksheet>`),
  );
  const { rows, ...facts } = sheet!;
  const html = sheetOnPaper(facts, rows.slice(0, 3)).replace(/ style="[^"]*"/g, '');
  expect(html).toBe(
    '<article><h1>Prices</h1><table><tr><td>A &lt;b&gt;</td><td>5</td></tr><tr><td colspan="2">=A1</td></tr></table><p>6 more rows are not printed.</p></article>',
  );
});
