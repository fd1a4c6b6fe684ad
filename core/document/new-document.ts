import { strToU8, zipSync } from 'fflate';
import { toXml } from '../office/xml-tags.ts';
import { trim } from '../text/cut.ts';

/** Documents that can be begun here, by what they are. */
export const NEW_DOCUMENTS = {
  text: {
    label: 'Blank text (DOCX)',
    extension: '.docx',
    mime: 'application/vnd.openxmlformats-officedocument.wordprocessingml.document',
  },
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
  if (kind === 'text') return blankText(title.replace(/\s+/g, ' ').trim());
  // A file of no bytes is taken for one that went wrong.
  return kind === 'table' ? strToU8('Name,Value\n') : blankWorkbook(title);
}

const MAIN = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
const RELATIONS = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
const PACKAGE = 'http://schemas.openxmlformats.org/package/2006';
const HEAD = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n';

/** A workbook of one empty sheet (ECMA-376, part 1, 12 and 18), with its title. */
function blankWorkbook(title: string): Uint8Array {
  const name = trim(title.replace(NOT_IN_NAMES, ' ').trim().slice(0, LONGEST_NAME), " '");
  const type = 'application/vnd.openxmlformats-officedocument.spreadsheetml';
  const parts: Record<string, string> = {
    '[Content_Types].xml': `<Types xmlns="${PACKAGE}/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="${type}.sheet.main+xml"/><Override PartName="/xl/worksheets/sheet1.xml" ContentType="${type}.worksheet+xml"/><Override PartName="/xl/styles.xml" ContentType="${type}.styles+xml"/><Override PartName="/docProps/core.xml" ContentType="application/vnd.openxmlformats-package.core-properties+xml"/></Types>`,
    '_rels/.rels': `<Relationships xmlns="${PACKAGE}/relationships"><Relationship Id="rId1" Type="${RELATIONS}/officeDocument" Target="xl/workbook.xml"/><Relationship Id="rId2" Type="${PACKAGE}/relationships/metadata/core-properties" Target="docProps/core.xml"/></Relationships>`,
    'docProps/core.xml': properties(title),
    'xl/workbook.xml': `<workbook xmlns="${MAIN}" xmlns:r="${RELATIONS}"><sheets><sheet name="${toXml(name || 'Sheet 1').replaceAll('"', '&quot;')}" sheetId="1" r:id="rId1"/></sheets></workbook>`,
    'xl/_rels/workbook.xml.rels': `<Relationships xmlns="${PACKAGE}/relationships"><Relationship Id="rId1" Type="${RELATIONS}/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="rId2" Type="${RELATIONS}/styles" Target="styles.xml"/></Relationships>`,
    'xl/worksheets/sheet1.xml': `<worksheet xmlns="${MAIN}"><sheetData/></worksheet>`,
    'xl/styles.xml': `<styleSheet xmlns="${MAIN}"><fonts count="1"><font><sz val="11"/><name val="Calibri"/></font></fonts><fills count="2"><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill></fills><borders count="1"><border><left/><right/><top/><bottom/><diagonal/></border></borders><cellStyleXfs count="1"><xf numFmtId="0" fontId="0" fillId="0" borderId="0"/></cellStyleXfs><cellXfs count="1"><xf numFmtId="0" fontId="0" fillId="0" borderId="0" xfId="0"/></cellXfs></styleSheet>`,
  };
  return packed(parts);
}

const packed = (parts: Record<string, string>) =>
  zipSync(Object.fromEntries(Object.entries(parts).map(([part, xml]) => [part, strToU8(HEAD + xml)])), {
    mtime: '1980-01-01T00:00:00',
  });
const properties = (title: string) =>
  `<cp:coreProperties xmlns:cp="${PACKAGE}/metadata/core-properties" xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:title>${toXml(title)}</dc:title></cp:coreProperties>`;

const WORDS = 'http://schemas.openxmlformats.org/wordprocessingml/2006/main';
/** Sizes of headings by their level, in half points. */
const SIZES = [36, 28, 24];

/** A text document with its title as a heading, and an empty paragraph (ECMA-376, part 1, 11 and 17). */
function blankText(title: string): Uint8Array {
  const type = 'application/vnd.openxmlformats-officedocument.wordprocessingml';
  const headings = SIZES.map(
    (size, at) =>
      `<w:style w:type="paragraph" w:styleId="Heading${at + 1}"><w:name w:val="heading ${at + 1}"/><w:basedOn w:val="Normal"/><w:next w:val="Normal"/><w:qFormat/><w:pPr><w:keepNext/><w:spacing w:before="240" w:after="80"/><w:outlineLvl w:val="${at}"/></w:pPr><w:rPr><w:b/><w:sz w:val="${size}"/></w:rPr></w:style>`,
  );
  return packed({
    '[Content_Types].xml': `<Types xmlns="${PACKAGE}/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/word/document.xml" ContentType="${type}.document.main+xml"/><Override PartName="/word/styles.xml" ContentType="${type}.styles+xml"/><Override PartName="/docProps/core.xml" ContentType="application/vnd.openxmlformats-package.core-properties+xml"/></Types>`,
    '_rels/.rels': `<Relationships xmlns="${PACKAGE}/relationships"><Relationship Id="rId1" Type="${RELATIONS}/officeDocument" Target="word/document.xml"/><Relationship Id="rId2" Type="${PACKAGE}/relationships/metadata/core-properties" Target="docProps/core.xml"/></Relationships>`,
    'docProps/core.xml': properties(title),
    'word/document.xml': `<w:document xmlns:w="${WORDS}" xmlns:r="${RELATIONS}"><w:body><w:p><w:pPr><w:pStyle w:val="Heading1"/></w:pPr><w:r><w:t xml:space="preserve">${toXml(title)}</w:t></w:r></w:p><w:p/><w:sectPr><w:pgSz w:w="11906" w:h="16838"/><w:pgMar w:top="1134" w:right="1134" w:bottom="1134" w:left="1134"/></w:sectPr></w:body></w:document>`,
    'word/_rels/document.xml.rels': `<Relationships xmlns="${PACKAGE}/relationships"><Relationship Id="rId1" Type="${RELATIONS}/styles" Target="styles.xml"/></Relationships>`,
    'word/styles.xml': `<w:styles xmlns:w="${WORDS}"><w:docDefaults><w:rPrDefault><w:rPr><w:rFonts w:ascii="Arial" w:hAnsi="Arial" w:cs="Arial"/><w:sz w:val="22"/></w:rPr></w:rPrDefault><w:pPrDefault><w:pPr><w:spacing w:after="120" w:line="276" w:lineRule="auto"/></w:pPr></w:pPrDefault></w:docDefaults><w:style w:type="paragraph" w:default="1" w:styleId="Normal"><w:name w:val="Normal"/><w:qFormat/></w:style>${headings.join('')}</w:styles>`,
  });
}
