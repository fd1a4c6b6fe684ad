import { extensionOf, type SitePath } from '../address/path.ts';

/** How a document can be edited: as running text with headings, lists and links, as a table, line by line, or as the sheets of a workbook. */
export const TEXT_KINDS = ['markdown', 'table', 'lines', 'workbook'] as const;
export type TextKind = (typeof TEXT_KINDS)[number];

/** Bytes of a text, and of a workbook, that can be edited here. */
export const MOST_EDITED = 1_000_000;
export const MOST_WORKBOOK = 5_000_000;

const MARKDOWN = new Set(['.md', '.markdown']);
const TABLES = new Set(['.csv', '.tsv']);
const WORKBOOKS = new Set(['.xlsx', '.xlsm']);
const LINES = new Set('.txt .json .ics .vcf .vtt .srt .yml .yaml'.split(' '));

/** How a file can be edited here; undefined: it can't. */
export function textKindOf(path: SitePath): TextKind | undefined {
  const extension = extensionOf(path);
  if (MARKDOWN.has(extension)) return 'markdown';
  if (TABLES.has(extension)) return 'table';
  if (WORKBOOKS.has(extension)) return 'workbook';
  return LINES.has(extension) ? 'lines' : undefined;
}
