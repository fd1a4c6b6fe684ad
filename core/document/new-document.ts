import { strToU8, zipSync } from 'fflate';
import { toXml } from '../office/xml-tags.ts';

/** Documents that can be begun here, by what they are. */
export const NEW_DOCUMENTS = {
  text: { label: 'Blank text (Markdown)', extension: '.md', mime: 'text/markdown' },
  workbook: {
    label: 'Blank spreadsheet (XLSX)',
    extension: '.xlsx',
    mime: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  },
  table: { label: 'Blank table (CSV)', extension: '.csv', mime: 'text/csv' },
} as const;
export type NewDocument = keyof typeof NEW_DOCUMENTS;

/** Signs that no name of a sheet may have, and how long one may be (as spreadsheets do). */
const NOT_IN_NAMES = /[[\]:*?/\\]/g;
const LONGEST_NAME = 31;

/** The bytes of an empty document. @param title shown as its heading, or as the name of its sheet */
export function blankDocument(kind: NewDocument, title: string): Uint8Array {
  if (kind === 'text') return strToU8(`# ${title.replace(/\s+/g, ' ').trim()}\n\n`);
  // A file of no bytes is taken for one that went wrong.
  return kind === 'table' ? strToU8('Name,Value\n') : blankWorkbook(title);
}

const MAIN = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
const RELATIONS = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
const PACKAGE = 'http://schemas.openxmlformats.org/package/2006';
const HEAD = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n';

/** A workbook of one empty sheet (ECMA-376, part 1, 12 and 18), with its title. */
function blankWorkbook(title: string): Uint8Array {
  const name =
    title
      .replace(NOT_IN_NAMES, ' ')
      .trim()
      .slice(0, LONGEST_NAME)
      .replace(/^'+|'+$/g, '')
      .trim() || 'Sheet 1';
  const type = 'application/vnd.openxmlformats-officedocument.spreadsheetml';
  const parts: Record<string, string> = {
    '[Content_Types].xml': `<Types xmlns="${PACKAGE}/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="${type}.sheet.main+xml"/><Override PartName="/xl/worksheets/sheet1.xml" ContentType="${type}.worksheet+xml"/><Override PartName="/xl/styles.xml" ContentType="${type}.styles+xml"/><Override PartName="/docProps/core.xml" ContentType="application/vnd.openxmlformats-package.core-properties+xml"/></Types>`,
    '_rels/.rels': `<Relationships xmlns="${PACKAGE}/relationships"><Relationship Id="rId1" Type="${RELATIONS}/officeDocument" Target="xl/workbook.xml"/><Relationship Id="rId2" Type="${PACKAGE}/relationships/metadata/core-properties" Target="docProps/core.xml"/></Relationships>`,
    'docProps/core.xml': `<cp:coreProperties xmlns:cp="${PACKAGE}/metadata/core-properties" xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:title>${toXml(title)}</dc:title></cp:coreProperties>`,
    'xl/workbook.xml': `<workbook xmlns="${MAIN}" xmlns:r="${RELATIONS}"><sheets><sheet name="${toXml(name).replaceAll('"', '&quot;')}" sheetId="1" r:id="rId1"/></sheets></workbook>`,
    'xl/_rels/workbook.xml.rels': `<Relationships xmlns="${PACKAGE}/relationships"><Relationship Id="rId1" Type="${RELATIONS}/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="rId2" Type="${RELATIONS}/styles" Target="styles.xml"/></Relationships>`,
    'xl/worksheets/sheet1.xml': `<worksheet xmlns="${MAIN}"><sheetData/></worksheet>`,
    'xl/styles.xml': `<styleSheet xmlns="${MAIN}"><fonts count="1"><font><sz val="11"/><name val="Calibri"/></font></fonts><fills count="2"><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill></fills><borders count="1"><border><left/><right/><top/><bottom/><diagonal/></border></borders><cellStyleXfs count="1"><xf numFmtId="0" fontId="0" fillId="0" borderId="0"/></cellStyleXfs><cellXfs count="1"><xf numFmtId="0" fontId="0" fillId="0" borderId="0" xfId="0"/></cellXfs></styleSheet>`,
  };
  return zipSync(
    Object.fromEntries(Object.entries(parts).map(([part, xml]) => [part, strToU8(HEAD + xml)])),
    {
      mtime: '1980-01-01T00:00:00',
    },
  );
}
