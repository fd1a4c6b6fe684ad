import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { describe, expect, test } from 'vitest';
import { editedWorkbook, workbookEdits } from './editor.ts';
import { TableEditor } from './edit-csv.ts';
import { WorkbookEditor } from './edit-xlsx.ts';
import { draftAsText, draftOfText, NoSuchEdit, type SheetEdit } from './edits.ts';
import { namesIn, rangesIn, shiftedFormula, shiftedSpan } from './formula.ts';
import { orderBy, rowsAround } from './order.ts';
import { inputOf, typed } from './typed.ts';

const RELATIONS = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
const PARTS: Record<string, string> = {
  '[Content_Types].xml':
    '<Types><Override PartName="/xl/workbook.xml"/><Override PartName="/xl/calcChain.xml"/></Types>',
  '_rels/.rels': `<Relationships><Relationship Id="r1" Type="${RELATIONS}/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
  'xl/workbook.xml':
    '<workbook xmlns:r="r"><sheets><sheet name="Prices" sheetId="1" r:id="s1"/><sheet name="Own notes" sheetId="2" r:id="s2"/></sheets><definedNames><definedName name="Rate">Prices!$E$1</definedName><definedName name="_xlnm.Print_Area" localSheetId="0">Prices!$A$1:$D$6</definedName></definedNames></workbook>',
  'xl/_rels/workbook.xml.rels': `<Relationships><Relationship Id="s1" Type="${RELATIONS}/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="s2" Type="${RELATIONS}/worksheet" Target="worksheets/sheet2.xml"/><Relationship Id="st" Type="${RELATIONS}/styles" Target="styles.xml"/><Relationship Id="ss" Type="${RELATIONS}/sharedStrings" Target="sharedStrings.xml"/><Relationship Id="cc" Type="${RELATIONS}/calcChain" Target="calcChain.xml"/></Relationships>`,
  'xl/worksheets/sheet1.xml': `<?xml version="1.0"?>
<worksheet><dimension ref="A1:E6"/><cols><col min="2" max="3" width="12" customWidth="1"/></cols><sheetData>
  <row r="1" spans="1:5" ht="20"><c r="A1" s="2" t="s"><v>0</v></c><c r="B1" t="s"><v>1</v></c><c r="E1"><v>0.5</v></c></row>
  <row r="2"><c r="A2" t="s"><v>2</v></c><c r="B2" s="1"><v>12.5</v></c><c r="C2"><v>2</v></c><c r="D2"><f t="shared" ref="D2:D4" si="0">B2*C2</f><v>25</v></c></row>
  <row r="3"><c r="A3" t="inlineStr"><is><t>Lamp &amp; cord</t></is></c><c r="B3" s="1"><v>7</v></c><c r="C3"><v>3</v></c><c r="D3"><f t="shared" si="0"/><v>21</v></c></row>
  <row r="4"><c r="A4" t="inlineStr"><is><t>Map</t></is></c><c r="B4" s="1"><v>3</v></c><c r="C4"><v>10</v></c><c r="D4"><f t="shared" si="0"/><v>30</v></c></row>
  <row r="6"><c r="A6"/><c r="D6"><f>SUM(D2:D4)</f><v>76</v></c><c r="E6"><f>D6*Rate</f><v>38</v></c></row>
</sheetData><mergeCells count="1"><mergeCell ref="A8:C8"/></mergeCells><conditionalFormatting sqref="D2:D4"><cfRule><formula>$D$6</formula></cfRule></conditionalFormatting></worksheet>`,
  'xl/worksheets/sheet2.xml':
    '<worksheet><sheetData><row r="1"><c r="A1"><f>\'Prices\'!D6*2</f><v>152</v></c><c r="B1"><f>UNKNOWNFUN(Prices!D6)</f><v>7</v></c></row></sheetData></worksheet>',
  'xl/styles.xml':
    '<styleSheet><fonts count="1"><font><sz val="11"/></font></fonts><cellXfs count="3"><xf/><xf numFmtId="4" applyNumberFormat="1"/><xf numFmtId="49"/></cellXfs></styleSheet>',
  'xl/sharedStrings.xml': '<sst><si><t>Item</t></si><si><t>Price</t></si><si><t>Tent</t></si></sst>',
  'xl/calcChain.xml': '<calcChain><c r="D2" i="1"/></calcChain>',
  'xl/media/image1.png': 'not really',
};
const packed = (more: Record<string, string> = {}) =>
  zipSync(
    Object.fromEntries(Object.entries({ ...PARTS, ...more }).map(([name, text]) => [name, strToU8(text)])),
  );
const SHEET = 'xl/worksheets/sheet1.xml';
/** What an editor shows of a sheet. */
const shown = (editor: WorkbookEditor | TableEditor, sheet = 0) =>
  Array.from(editor.sheets[sheet]!.rows, (row) =>
    Array.from(row ?? [], (cell) => cell?.text ?? '').join('|'),
  );
const formulas = (editor: WorkbookEditor, sheet = 0) =>
  editor.sheets[sheet]!.rows.flatMap((row) => (row ?? []).flatMap((cell) => cell?.formula ?? []));
/** Parts that are others than before, or no longer there. */
function changedParts(before: Uint8Array, after: Uint8Array): string[] {
  const [old, now] = [unzipSync(before), unzipSync(after)];
  return [...new Set([...Object.keys(old), ...Object.keys(now)])].filter(
    (name) => !old[name] || !now[name] || Buffer.compare(old[name], now[name]) !== 0,
  );
}
const part = (of: WorkbookEditor, name: string) => strFromU8(unzipSync(of.bytes())[name]!);
const set = (...cells: [number, number, string][]): SheetEdit => ({ do: 'set', sheet: 0, cells });

describe('a workbook', () => {
  test('of which one cell is edited keeps every other part, and every other row, byte for byte', () => {
    const before = packed();
    const editor = new WorkbookEditor(before);
    expect(editor.bytes()).toBe(before);
    editor.apply(set([2, 0, 'Lamp <new>']));
    expect(changedParts(before, editor.bytes())).toEqual([SHEET]);
    const row = /\n {2}<row r="3">.*?<\/row>/;
    const now = part(editor, SHEET);
    expect(now.replace(row, '')).toBe(PARTS[SHEET]!.replace(row, ''));
    expect(now).toContain(
      '<c r="A3" t="inlineStr"><is><t>Lamp &lt;new&gt;</t></is></c><c r="B3" s="1"><v>7</v></c>',
    );
  });

  test('works out what depends on a cell, also on other sheets; what can’t be is told and left to who opens it', () => {
    const before = packed();
    const editor = new WorkbookEditor(before);
    editor.apply(set([1, 1, '20']));
    expect(shown(editor)).toEqual([
      'Item|Price|||0.5',
      'Tent|20.00|2|40',
      'Lamp & cord|7.00|3|21',
      'Map|3.00|10|30',
      '',
      '|||91|45.5',
    ]);
    expect(shown(editor, 1)).toEqual(['182|7']);
    expect(editor.left).toEqual([{ sheet: 1, row: 0, column: 1 }]);
    expect(changedParts(before, editor.bytes())).toEqual([
      'xl/workbook.xml',
      SHEET,
      'xl/worksheets/sheet2.xml',
    ]);
    expect(part(editor, 'xl/workbook.xml')).toContain('</definedNames><calcPr fullCalcOnLoad="1"/>');
  });

  test('takes rows in and out: formulas, names, merged cells and formats follow; what is gone is said so', () => {
    const editor = new WorkbookEditor(packed());
    editor.apply({ do: 'insert', sheet: 0, axis: 'row', at: 2, count: 2 });
    expect(formulas(editor)).toEqual(['=B2*C2', '=B5*C5', '=B6*C6', '=SUM(D2:D6)', '=D8*Rate']);
    expect(formulas(editor, 1)[0]).toBe("='Prices'!D8*2");
    const xml = part(editor, SHEET);
    expect(xml).toContain('<mergeCell ref="A10:C10"/>');
    expect(xml).toContain('<conditionalFormatting sqref="D2:D6"><cfRule><formula>$D$8</formula>');
    // New rows look like the one above them.
    expect(xml).toContain('<row r="3"><c r="B3" s="1"/></row>');
    const book = part(editor, 'xl/workbook.xml');
    expect(book).toContain('Prices!$A$1:$D$8');
    expect(book).toContain('Prices!$E$1<');
    // The order of calculation no longer holds.
    const parts = unzipSync(editor.bytes());
    expect(parts['xl/calcChain.xml']).toBeUndefined();
    expect(strFromU8(parts['xl/_rels/workbook.xml.rels']!)).not.toContain('calcChain');
    expect(strFromU8(parts['[Content_Types].xml']!)).toBe(
      '<Types><Override PartName="/xl/workbook.xml"/></Types>',
    );

    editor.apply({ do: 'remove', sheet: 0, axis: 'row', at: 4, count: 4 });
    expect(shown(editor)).toEqual(['Item|Price|||0.5', 'Tent|12.50|2|25', '|', '|']);
    expect(shown(editor, 1)[0]).toBe('#REF!|7');
    expect(formulas(editor, 1)[0]).toBe("='Prices'!#REF!*2");
  });

  test('sums what is left when the last of its rows goes', () => {
    const editor = new WorkbookEditor(packed());
    editor.apply({ do: 'remove', sheet: 0, axis: 'row', at: 3, count: 1 });
    expect(shown(editor).at(-1)).toBe('|||46|23');
  });

  test('takes columns in and out, with their widths', () => {
    const editor = new WorkbookEditor(packed());
    editor.apply({ do: 'insert', sheet: 0, axis: 'column', at: 1, count: 1 });
    expect(formulas(editor)).toEqual(['=C2*D2', '=C3*D3', '=C4*D4', '=SUM(E2:E4)', '=E6*Rate']);
    expect(part(editor, SHEET)).toContain('<col min="3" max="4" width="12" customWidth="1"/>');
    editor.apply({ do: 'remove', sheet: 0, axis: 'column', at: 1, count: 1 });
    expect(formulas(editor)).toEqual(formulas(new WorkbookEditor(packed())));
    expect(part(editor, SHEET)).toContain('<col min="2" max="3" width="12" customWidth="1"/>');
    editor.apply({ do: 'remove', sheet: 0, axis: 'column', at: 2, count: 1 });
    expect(shown(editor).slice(1, 3)).toEqual(['Tent|12.50|#REF!', 'Lamp & cord|7.00|#REF!']);
  });

  test('is sorted with the formulas of its rows, and refuses where cells are merged', () => {
    const editor = new WorkbookEditor(packed());
    editor.apply({ do: 'order', sheet: 0, from: 1, order: [2, 1, 0] });
    expect(shown(editor).slice(1, 4)).toEqual(['Map|3.00|10|30', 'Lamp & cord|7.00|3|21', 'Tent|12.50|2|25']);
    expect(formulas(editor).slice(0, 3)).toEqual(['=B2*C2', '=B3*C3', '=B4*C4']);
    expect(shown(editor).at(-1)).toBe('|||76|38');
    expect(() => editor.apply({ do: 'order', sheet: 0, from: 5, order: [1, 2, 0] })).toThrow('merged');
  });

  test('gets formats without any other cell changing its own', () => {
    const editor = new WorkbookEditor(packed());
    editor.apply({
      do: 'style',
      sheet: 0,
      row: 1,
      column: 1,
      rows: 2,
      columns: 1,
      look: { bold: true, pattern: '0.000' },
    });
    expect(shown(editor).slice(1, 4)).toEqual([
      'Tent|12.500|2|25',
      'Lamp & cord|7.000|3|21',
      'Map|3.00|10|30',
    ]);
    expect(editor.sheets[0]!.rows[1]![1]!.style).toEqual({ bold: true });
    expect(part(editor, 'xl/styles.xml')).toBe(
      '<styleSheet><numFmts count="1"><numFmt numFmtId="164" formatCode="0.000"/></numFmts><fonts count="2"><font><sz val="11"/></font><font><b/><sz val="11"/></font></fonts><cellXfs count="4"><xf/><xf numFmtId="4" applyNumberFormat="1"/><xf numFmtId="49"/><xf numFmtId="164" applyNumberFormat="1" fontId="1" applyFont="1"></xf></cellXfs></styleSheet>',
    );
  });

  test('takes dates and percents with a format for them, texts where the cell holds texts, and continues a list in its look', () => {
    const editor = new WorkbookEditor(packed());
    editor.apply(
      set([0, 0, '007'], [1, 4, '2026-11-30'], [2, 4, '12%'], [4, 1, '9'], [4, 0, "'=1+1"], [3, 4, 'true']),
    );
    expect(shown(editor)).toEqual([
      '007|Price|||0.5',
      'Tent|12.50|2|25|2026-11-30',
      'Lamp & cord|7.00|3|21|12%',
      'Map|3.00|10|30|TRUE',
      '=1+1|9.00',
      '|||76|38',
    ]);
    expect(editor.input(0, 4, 0)).toBe("'=1+1");
    expect(editor.input(0, 2, 4)).toBe('12%');
    expect(editor.input(0, 1, 4)).toBe('2026-11-30');
  });

  test('refuses what can’t be, each in a sentence, and is what it was', () => {
    const refuses = (more: Record<string, string>, edit: SheetEdit, why: string) =>
      expect(() => new WorkbookEditor(packed(more)).apply(edit)).toThrow(why);
    const row: SheetEdit = { do: 'insert', sheet: 0, axis: 'row', at: 1, count: 1 };
    refuses({}, set([0, 3, "=cmd|'/c calc'!A0"]), 'start a program');
    refuses({}, { ...row, sheet: 9 }, 'no such sheet');
    refuses(
      { [SHEET]: PARTS[SHEET]!.replace('<mergeCells', '<sheetProtection sheet="1"/><mergeCells') },
      row,
      'protected',
    );
    const comments = `<Relationships><Relationship Id="c" Type="${RELATIONS}/comments" Target="../comments1.xml"/></Relationships>`;
    refuses({ 'xl/worksheets/_rels/sheet1.xml.rels': comments }, row, 'comments');
    const array = PARTS[SHEET]!.replace('<f>SUM(D2:D4)</f>', '<f t="array" ref="D6:E6">D2:E2</f>');
    refuses({ [SHEET]: array }, set([5, 4, '1']), 'fills several');
    expect(() => draftOfText('{"edits":[{"do":"set"}]}')).toThrow(NoSuchEdit);
    expect(() => draftOfText('what')).toThrow(NoSuchEdit);
  });

  test('is the same when its changes are kept as a text and made elsewhere; the cells and rows that differ are told', () => {
    const edits: SheetEdit[] = [
      set([1, 1, '20']),
      { do: 'insert', sheet: 0, axis: 'row', at: 4, count: 1 },
      set([4, 0, 'Rope']),
    ];
    const editor = new WorkbookEditor(packed());
    for (const edit of edits) editor.apply(edit);
    const made = editedWorkbook(packed(), draftOfText(draftAsText({ from: undefined, edits })).edits);
    expect(made.bytes).toEqual(editor.bytes());
    expect(made.edits.map(({ cell, line, before, after }) => [cell ?? line, before, after])).toEqual([
      ['B2 of “Prices”', '12.50', '20.00'],
      ['D2 of “Prices”', '25', '40'],
      [5, undefined, 'Prices: Rope'],
      ['D7 of “Prices”', '76', '91'],
      ['E7 of “Prices”', '38', '45.5'],
      ['A1 of “Own notes”', '152', '182'],
    ]);
    expect(workbookEdits(packed(), made.bytes)).toEqual(made.edits);
    expect(draftAsText({ from: undefined, edits: [] })).toBe('');
    const from = 'a'.repeat(64);
    expect(draftOfText(draftAsText({ from, edits: [] }))).toEqual({ from, edits: [] });
  });

  test('another formula with the same result is told; formulas that only follow rows are not', () => {
    const made = (...edits: SheetEdit[]) =>
      editedWorkbook(packed(), edits).edits.map(({ cell, line, before, after }) => [
        cell ?? line,
        before,
        after,
      ]);
    expect(made(set([1, 3, '=C2*B2']))).toEqual([['D2 of “Prices”', '=B2*C2', '=C2*B2']]);
    expect(made({ do: 'insert', sheet: 0, axis: 'row', at: 1, count: 1 })).toEqual([
      [2, undefined, 'Prices: '],
    ]);
  });

  test('tells what becomes of signatures and macros', () => {
    const editor = new WorkbookEditor(
      packed({ '_xmlsignatures/sig1.xml': '<a/>', 'xl/vbaProject.bin': 'x' }),
    );
    expect(editor.notes).toEqual([expect.stringContaining('signed'), expect.stringContaining('never run')]);
    editor.apply(set([0, 1, 'Cost']));
    expect(unzipSync(editor.bytes())['xl/vbaProject.bin']).toEqual(strToU8('x'));
  });
});

describe('a table in text', () => {
  const TEXT = 'Item;"Price";Note\n"Tent; big";12,50;"a ""b"""\nLamp;7\n\n"two\nlines";3;x';
  const table = (...edits: SheetEdit[]) => {
    const editor = new TableEditor(TEXT, 'prices.csv');
    for (const edit of edits) editor.apply(edit);
    return editor;
  };

  test('keeps every row and field that no change touches, quotes and all', () => {
    expect(table().text()).toBe(TEXT);
    expect(shown(table())).toEqual([
      'Item|Price|Note',
      'Tent; big|12,50|a "b"',
      'Lamp|7',
      '',
      'two\nlines|3|x',
    ]);
    expect(table(set([1, 1, '13'])).text()).toBe(TEXT.replace('12,50', '13'));
    expect(table(set([2, 2, 'new; "one"'])).text()).toBe(TEXT.replace('Lamp;7', 'Lamp;7;"new; ""one"""'));
    // What had quotes keeps them.
    expect(table(set([0, 1, 'Cost'])).text()).toBe(TEXT.replace('"Price"', '"Cost"'));
    expect(table(set([1, 2, ''])).text()).toBe(TEXT.replace('"a ""b"""', ''));
  });

  test('gets rows and columns, and gives them up; its last line stays without an end', () => {
    expect(table(set([5, 0, 'Rope'])).text()).toBe(`${TEXT}\n"Rope";;`);
    expect(table(set([7, 9, ''])).text()).toBe(TEXT);
    expect(table({ do: 'insert', sheet: 0, axis: 'row', at: 2, count: 1 }).text()).toBe(
      TEXT.replace('Lamp', ';;\nLamp'),
    );
    expect(table({ do: 'remove', sheet: 0, axis: 'row', at: 3, count: 2 }).text()).toBe(
      TEXT.slice(0, TEXT.indexOf('\n\n')),
    );
    expect(table({ do: 'insert', sheet: 0, axis: 'column', at: 1, count: 1 }).text()).toBe(
      'Item;;"Price";Note\n"Tent; big";;12,50;"a ""b"""\nLamp;;7\n\n"two\nlines";;3;x',
    );
    expect(table({ do: 'remove', sheet: 0, axis: 'column', at: 0, count: 2 }).text()).toBe(
      'Note\n"a ""b"""\n\n\nx',
    );
    expect(table({ do: 'order', sheet: 0, from: 1, order: [3, 1, 0, 2] }).text()).toBe(
      'Item;"Price";Note\n"two\nlines";3;x\nLamp;7\n"Tent; big";12,50;"a ""b"""\n',
    );
  });

  test('whose quotes are never closed is edited as it stands, and holds no delimiter then', () => {
    const editor = new TableEditor('a;"b\nc;d\n', 'x.csv');
    expect([shown(editor), editor.notes]).toEqual([
      ['a|"b', 'c|d'],
      [expect.stringContaining('never closed')],
    ]);
    editor.apply(set([1, 1, 'e"']));
    expect(editor.text()).toBe('a;"b\nc;e"\n');
    expect(() => editor.apply(set([1, 1, 'e;f']))).toThrow('never closed');
    expect(() =>
      editor.apply({ do: 'style', sheet: 0, row: 0, column: 0, rows: 1, columns: 1, look: { bold: true } }),
    ).toThrow('no formats');
  });

  test('tells of cells that spreadsheets would run', () => {
    expect(new TableEditor('a,b\n=1+1,-5\n@x,+44 20\n', 'x.csv').notes).toEqual([
      expect.stringContaining('3 cells begin with =, +, - or @'),
    ]);
  });

  test('an empty one can be filled', () => {
    const editor = new TableEditor('', 'x.csv');
    editor.apply(set([0, 0, 'Item'], [0, 1, 'Price, kr'], [1, 0, 'Tent']));
    expect(editor.text()).toBe('Item,"Price, kr"\nTent,\n');
  });
});

test('what is typed is taken for what it can only be', () => {
  const number = (words: string, pattern?: string) => {
    const meant = typed(words, pattern);
    return meant.as === 'number' ? meant.number : meant;
  };
  expect(['12', '-1.5', '1,234.5', '12,5', '12 %', '1e3'].map((one) => number(one))).toEqual([
    12, -1.5, 1234.5, 12.5, 0.12, 1000,
  ]);
  for (const words of ['007', '+44 20', '1.2.3', '3/4/2026', '1,2345', '12 kr', '=', 'A=B'])
    expect(typed(words)).toEqual({ as: 'text', text: words });
  expect(number('12 kr', '#,##0.00 "kr"')).toBe(12);
  expect([number('3/4/2026', 'd/m/yyyy'), number('3/4/2026', 'm/d/yyyy')]).toEqual([46115, 46085]);
  expect(number('9:30')).toBeCloseTo(9.5 / 24);
  expect(typed('30 Nov 2026')).toEqual({ as: 'number', number: 46356, pattern: 'yyyy-mm-dd' });
  expect(typed('12', '@')).toEqual({ as: 'text', text: '12' });
  expect(number('12', '0%')).toBe(0.12);
  expect(typed('= A1 ')).toEqual({ as: 'formula', formula: 'A1' });
  expect(inputOf({ text: '12', kind: 'text' })).toBe("'12");
  // One that only has a format is empty.
  expect(inputOf({ text: '', kind: 'text', pattern: '0%' })).toBe('');
  expect(inputOf({ text: '13%', kind: 'number', number: 0.125, pattern: '0%' })).toBe('12.5%');
});

test('formulas refer to the same cells after rows and columns have come or gone', () => {
  const on = (formula: string, at: number, by: number, axis: 'row' | 'column' = 'row') =>
    shiftedFormula(formula, (sheet) => sheet === undefined || sheet === 'Own notes', { axis, at, by });
  expect(on('SUM(A1:B9)+$A$3&"A3"', 2, 2)).toBe('SUM(A1:B11)+$A$5&"A3"');
  expect(on("'Own notes'!A5+Other!A5+LOG10(A5)", 2, 1)).toBe("'Own notes'!A6+Other!A5+LOG10(A6)");
  expect(on('SUM(A2:A4)', 1, -2)).toBe('SUM(A2:A2)');
  expect(on('SUM(A2:A3)+A9', 1, -2)).toBe('SUM(#REF!)+A7');
  expect(on('A:C+2:4', 1, 1, 'column')).toBe('A:D+2:4');
  expect(on('SUM(B9:A2)', 2, 1)).toBe('SUM(B10:A2)');
  expect(on('Table1[Price]+Rate2', 0, 5)).toBe('Table1[Price]+Rate2');
  expect(shiftedSpan(1_048_574, 1_048_575, { at: 0, by: 1 }, 1_048_576)).toEqual([1_048_575, 1_048_575]);
  expect(rangesIn("'It''s'!B2:C3+D:D")).toMatchObject([
    { sheet: "It's", row: 1, column: 1, lastRow: 2, lastColumn: 2 },
    { sheet: undefined, column: 3, lastColumn: 3 },
  ]);
  expect(namesIn('Rate*SUM(A1)+TRUE&"Name"')).toEqual(['Rate']);
});

test('rows are sorted by numbers, then words, and empty ones last', () => {
  const rows = ['Item', '10', 'b', '', '9', 'a'].map((text) => [
    text === '' ? undefined : ({ text, kind: /\d/.test(text) ? 'number' : 'text' } as const),
  ]);
  expect(orderBy(rows, { from: 1, count: 5 }, 0, false)).toEqual([3, 0, 4, 1, 2]);
  expect(orderBy(rows, { from: 1, count: 5 }, 0, true)).toEqual([1, 4, 0, 3, 2]);
  expect(rowsAround(rows, 1, 0)).toEqual({ from: 1, count: 2 });
  expect(rowsAround(rows, 4, 1)).toEqual({ from: 4, count: 2 });
});
