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

/** A word-processor document (ECMA-376), as small as one can be. */
export function docx(title: string): Uint8Array {
  const paragraphs = [
    title,
    'School:',
    'Class and number of pupils:',
    'Wished evening:',
    'Please send this form to the observatory two weeks before your visit.',
  ];
  return zip({
    '[Content_Types].xml': CONTENT_TYPES(
      '/word/document.xml',
      'application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml',
    ),
    '_rels/.rels': RELATIONS('word/document.xml'),
    'word/document.xml': `<?xml version="1.0" encoding="UTF-8"?><w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:body>${paragraphs.map((text) => `<w:p><w:r><w:t>${text}</w:t></w:r></w:p>`).join('')}</w:body></w:document>`,
  });
}

/** A spreadsheet (ECMA-376) with one sheet. */
export function xlsx(): Uint8Array {
  const rows = [
    ['Print', '24'],
    ['Star wheel', '9'],
    ['Enamel pin', '6'],
  ];
  const sheet = rows
    .map(
      (row, r) =>
        `<row r="${r + 1}"><c r="A${r + 1}" t="inlineStr"><is><t>${row[0]}</t></is></c><c r="B${r + 1}"><v>${row[1]}</v></c></row>`,
    )
    .join('');
  return zip({
    '[Content_Types].xml': CONTENT_TYPES(
      '/xl/workbook.xml',
      'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml',
    ).replace(
      '</Types>',
      '<Override PartName="/xl/worksheets/sheet1.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/></Types>',
    ),
    '_rels/.rels': RELATIONS('xl/workbook.xml'),
    'xl/workbook.xml':
      '<?xml version="1.0" encoding="UTF-8"?><workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="Prices" sheetId="1" r:id="rId1"/></sheets></workbook>',
    'xl/_rels/workbook.xml.rels':
      '<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/></Relationships>',
    'xl/worksheets/sheet1.xml': `<?xml version="1.0" encoding="UTF-8"?><worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>${sheet}</sheetData></worksheet>`,
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
