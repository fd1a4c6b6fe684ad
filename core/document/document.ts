import { extensionOf, type SitePath } from '../address/path.ts';

/** How a document can be edited: as running text with headings, lists and links (in Markdown, HTML or a word processor's file), as a table, line by line, or as the sheets of a workbook. */
export const TEXT_KINDS = ['markdown', 'html', 'table', 'lines', 'workbook', 'word'] as const;
export type TextKind = (typeof TEXT_KINDS)[number];

/** Those that are packages of parts: what is written of one is what changes in it. */
export const PACKAGES = ['workbook', 'word'] as const;
export type PackageKind = (typeof PACKAGES)[number];
export const isPackage = (kind: TextKind | undefined): kind is PackageKind =>
  kind === 'workbook' || kind === 'word';

/** Bytes that can be edited here, of a text, a workbook and a word-processor document with its images. */
export const MOST_EDITED = 1_000_000;
export const MOST_WORKBOOK = 5_000_000;
export const MOST_WORD = 20_000_000;
export const mostEdited = (kind: TextKind | undefined): number =>
  kind === 'word' ? MOST_WORD : kind === 'workbook' ? MOST_WORKBOOK : MOST_EDITED;

const MARKDOWN = new Set(['.md', '.markdown']);
const HTML = new Set(['.html', '.htm']);
const TABLES = new Set(['.csv', '.tsv']);
const WORKBOOKS = new Set(['.xlsx', '.xlsm']);
const WORDS = new Set(['.docx', '.docm']);
const LINES = new Set('.txt .json .ics .vcf .vtt .srt .yml .yaml'.split(' '));

/** How a file can be edited here; undefined: it can't. */
export function textKindOf(path: SitePath): TextKind | undefined {
  const extension = extensionOf(path);
  if (MARKDOWN.has(extension)) return 'markdown';
  if (HTML.has(extension)) return 'html';
  if (TABLES.has(extension)) return 'table';
  if (WORKBOOKS.has(extension)) return 'workbook';
  if (WORDS.has(extension)) return 'word';
  return LINES.has(extension) ? 'lines' : undefined;
}
