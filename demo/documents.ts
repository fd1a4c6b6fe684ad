import { PDFDocument, rgb, StandardFonts } from 'pdf-lib';
import { strToU8, zipSync } from 'fflate';
import { Chance } from './chance.ts';

/** No clock in the demo: every date inside a file is this one, so that the same seed gives the same bytes. */
const DATE = new Date('2026-03-21T18:00:00Z');

export async function pdf(title: string, pages: number, scan?: Uint8Array): Promise<Uint8Array> {
  const document = await PDFDocument.create();
  const serif = await document.embedFont(StandardFonts.TimesRoman);
  const bold = await document.embedFont(StandardFonts.TimesRomanBold);
  const chance = new Chance(title);
  for (let number = 1; number <= pages; number++) {
    const page = document.addPage([420, 595]);
    page.drawRectangle({
      x: 0,
      y: 0,
      width: 420,
      height: 595,
      color: number === 1 ? rgb(0.06, 0.09, 0.18) : rgb(0.98, 0.97, 0.94),
    });
    if (number === 1 && scan)
      page.drawImage(await document.embedJpg(scan), { x: 0, y: 0, width: 420, height: 595 });
    const ink = number === 1 ? rgb(0.96, 0.94, 0.88) : rgb(0.1, 0.1, 0.12);
    if (number === 1 && !scan)
      for (let i = 0; i < 160; i++)
        page.drawCircle({
          x: chance.between(0, 420),
          y: chance.between(160, 595),
          size: chance.between(0.3, 1.6),
          color: rgb(1, 0.97, 0.88),
        });
    page.drawText(number === 1 ? title[0]!.toUpperCase() + title.slice(1) : `Page ${number}`, {
      x: 36,
      y: number === 1 ? 110 : 540,
      size: number === 1 ? 26 : 16,
      font: bold,
      color: ink,
    });
    page.drawText('Corvane Hill Observatory', {
      x: 36,
      y: number === 1 ? 84 : 522,
      size: 11,
      font: serif,
      color: ink,
    });
    if (number > 1)
      for (let line = 0; line < 22; line++)
        page.drawText('Open on every clear Friday, from dusk until the last visitor has seen Saturn.', {
          x: 36,
          y: 490 - line * 20,
          size: 10,
          font: serif,
          color: ink,
        });
  }
  document.setTitle(title);
  document.setAuthor('Corvane Hill Observatory');
  document.setProducer('Corvane Hill Observatory');
  document.setCreator('Corvane Hill Observatory');
  document.setCreationDate(DATE);
  document.setModificationDate(DATE);
  return document.save();
}

const CONTENT_TYPES = (part: string, type: string) =>
  `<?xml version="1.0" encoding="UTF-8"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="${part}" ContentType="${type}"/></Types>`;
const RELATIONS = (target: string) =>
  `<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="${target}"/></Relationships>`;

function zip(files: Record<string, string>): Uint8Array {
  return zipSync(
    Object.fromEntries(Object.entries(files).map(([name, text]) => [name, [strToU8(text), { mtime: DATE }]])),
  );
}

const WORD = 'application/vnd.openxmlformats-officedocument.wordprocessingml';
const SHEET = 'application/vnd.openxmlformats-officedocument.spreadsheetml';
const XML = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>';

/** A form in a word-processor document (ECMA-376): headings, a table to fill in, and what to mind. */
export function docx(title: string): Uint8Array {
  const run = (text: string, look = '') =>
    `<w:r>${look && `<w:rPr>${look}</w:rPr>`}<w:t xml:space="preserve">${text}</w:t></w:r>`;
  const paragraph = (text: string, style = '') =>
    `<w:p>${style && `<w:pPr><w:pStyle w:val="${style}"/></w:pPr>`}${run(text)}</w:p>`;
  const cell = (text: string, wide: number) =>
    `<w:tc><w:tcPr><w:tcW w:w="${wide}" w:type="dxa"/></w:tcPr>${paragraph(text)}</w:tc>`;
  const row = (text: string) => `<w:tr>${cell(text, 3200)}${cell('', 5600)}</w:tr>`;
  const edges = ['top', 'left', 'bottom', 'right', 'insideH', 'insideV']
    .map((edge) => `<w:${edge} w:val="single" w:sz="4" w:color="808080"/>`)
    .join('');
  const heading = (level: number, size: number) =>
    `<w:style w:type="paragraph" w:styleId="Heading${level}"><w:name w:val="heading ${level}"/><w:pPr><w:spacing w:before="240" w:after="120"/><w:outlineLvl w:val="${level - 1}"/></w:pPr><w:rPr><w:b/><w:sz w:val="${size}"/></w:rPr></w:style>`;
  return zip({
    '[Content_Types].xml': CONTENT_TYPES('/word/document.xml', `${WORD}.document.main+xml`).replace(
      '</Types>',
      `<Override PartName="/word/styles.xml" ContentType="${WORD}.styles+xml"/></Types>`,
    ),
    '_rels/.rels': RELATIONS('word/document.xml'),
    'word/_rels/document.xml.rels': `${XML}<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/styles" Target="styles.xml"/></Relationships>`,
    'word/styles.xml': `${XML}<w:styles xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:docDefaults><w:rPrDefault><w:rPr><w:rFonts w:ascii="Arial" w:hAnsi="Arial"/><w:sz w:val="22"/></w:rPr></w:rPrDefault></w:docDefaults>${heading(1, 36)}${heading(2, 26)}</w:styles>`,
    'word/document.xml': `${XML}<w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:body>${paragraph(title, 'Heading1')}<w:p>${run('Evenings for schools are held from ')}${run('October to March', '<w:b/>')}${run(', on weekdays, and last two hours.')}</w:p>${paragraph('Your visit', 'Heading2')}<w:tbl><w:tblPr><w:tblW w:w="8800" w:type="dxa"/><w:tblBorders>${edges}</w:tblBorders></w:tblPr><w:tblGrid><w:gridCol w:w="3200"/><w:gridCol w:w="5600"/></w:tblGrid>${['School', 'Class and number of pupils', 'Evening you would like', 'A second choice'].map(row).join('')}</w:tbl>${paragraph('Before you come', 'Heading2')}${paragraph('Please send this form to the observatory two weeks before your visit.')}<w:sectPr><w:pgSz w:w="11906" w:h="16838"/><w:pgMar w:top="1134" w:right="1134" w:bottom="1134" w:left="1134"/></w:sectPr></w:body></w:document>`,
  });
}

/** A price list in a spreadsheet (ECMA-376): its first row stays in sight, prices have a format, and sums are formulas. */
export function xlsx(): Uint8Array {
  const goods = [
    ['Star wheel, northern sky', 9.5, 140],
    ['Star wheel, southern sky', 9.5, 35],
    ['Star wheel for children', 7, 60],
    ['Enamel pin, dome', 6, 210],
    ['Enamel pin, Saturn', 6, 180],
    ['Print, Lantern Galaxy', 24, 18],
    ['Print, Ember Veil', 24, 12],
    ['Print, Heron Galaxy', 24, 25],
  ] as const;
  const text = (at: string, words: string, style = 0) =>
    `<c r="${at}" s="${style}" t="inlineStr"><is><t>${words}</t></is></c>`;
  const rows = goods.map(([name, price, stock], at) => {
    const row = at + 2;
    return `<row r="${row}">${text(`A${row}`, name)}<c r="B${row}" s="2"><v>${price}</v></c><c r="C${row}"><v>${stock}</v></c><c r="D${row}" s="2"><f>B${row}*C${row}</f><v>${price * stock}</v></c></row>`;
  });
  const last = goods.length + 1;
  const sum = goods.reduce((total, [, price, stock]) => total + price * stock, 0);
  const names = ['Item', 'Price', 'In stock', 'Value'].map((name, at) => text(`${'ABCD'[at]}1`, name, 1));
  const relation = (id: string, kind: string, target: string) =>
    `<Relationship Id="${id}" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/${kind}" Target="${target}"/>`;
  const sheet = (within: string) =>
    `${XML}<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">${within}</worksheet>`;
  const part = (name: string, kind: string) =>
    `<Override PartName="/xl/${name}.xml" ContentType="${SHEET}.${kind}+xml"/>`;
  return zip({
    '[Content_Types].xml': CONTENT_TYPES('/xl/workbook.xml', `${SHEET}.sheet.main+xml`).replace(
      '</Types>',
      `${part('worksheets/sheet1', 'worksheet')}${part('worksheets/sheet2', 'worksheet')}${part('styles', 'styles')}</Types>`,
    ),
    '_rels/.rels': RELATIONS('xl/workbook.xml'),
    'xl/workbook.xml': `${XML}<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="Prices" sheetId="1" r:id="rId1"/><sheet name="Terms" sheetId="2" r:id="rId2"/></sheets></workbook>`,
    'xl/_rels/workbook.xml.rels': `${XML}<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">${relation('rId1', 'worksheet', 'worksheets/sheet1.xml')}${relation('rId2', 'worksheet', 'worksheets/sheet2.xml')}${relation('rId3', 'styles', 'styles.xml')}</Relationships>`,
    'xl/styles.xml': `${XML}<styleSheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><numFmts count="1"><numFmt numFmtId="164" formatCode="&quot;£&quot;#,##0.00"/></numFmts><fonts count="2"><font><sz val="11"/><name val="Arial"/></font><font><b/><color rgb="FFFFFFFF"/><sz val="11"/><name val="Arial"/></font></fonts><fills count="3"><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill><fill><patternFill patternType="solid"><fgColor rgb="FF27425F"/></patternFill></fill></fills><borders count="1"><border/></borders><cellStyleXfs count="1"><xf/></cellStyleXfs><cellXfs count="4"><xf/><xf fontId="1" fillId="2" applyFont="1" applyFill="1"/><xf numFmtId="164" applyNumberFormat="1"/><xf fontId="1" fillId="2" numFmtId="164" applyFont="1" applyFill="1" applyNumberFormat="1"/></cellXfs></styleSheet>`,
    'xl/worksheets/sheet1.xml': sheet(
      `<sheetViews><sheetView workbookViewId="0"><pane ySplit="1" topLeftCell="A2" state="frozen"/></sheetView></sheetViews><cols><col min="1" max="1" width="28" customWidth="1"/><col min="2" max="4" width="12" customWidth="1"/></cols><sheetData><row r="1">${names.join('')}</row>${rows.join('')}<row r="${last + 1}">${text(`A${last + 1}`, 'All', 1)}<c r="B${last + 1}" s="1"/><c r="C${last + 1}" s="1"/><c r="D${last + 1}" s="3"><f>SUM(D2:D${last})</f><v>${sum}</v></c></row></sheetData>`,
    ),
    'xl/worksheets/sheet2.xml': sheet(
      `<sheetData><row r="1">${text('A1', 'Members pay a tenth less.')}</row><row r="2">${text('A2', 'Prints are made to order and take two weeks.')}</row></sheetData>`,
    ),
  });
}

/** iCalendar (RFC 5545). */
export function calendar(): string {
  const days = ['20260327', '20260403', '20260410'];
  const events = days.flatMap((day, i) => [
    'BEGIN:VEVENT',
    `UID:open-night-${i + 1}@corvane-hill.example`,
    'DTSTAMP:20260301T120000Z',
    `DTSTART:${day}T190000Z`,
    'SUMMARY:Open night',
    'END:VEVENT',
  ]);
  return [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Corvane Hill Observatory//EN',
    ...events,
    'END:VCALENDAR',
    '',
  ].join('\r\n');
}
