import { extensionOf, type SitePath } from '../address/path.ts';

/** How a document can be edited: as running text with headings, lists and links, or line by line. */
export type TextKind = 'markdown' | 'lines';

/** Bytes of a document that can be edited here. */
export const MOST_EDITED = 1_000_000;

const MARKDOWN = new Set(['.md', '.markdown']);
const LINES = new Set('.txt .csv .tsv .json .ics .vcf .vtt .srt .yml .yaml'.split(' '));

/** How a file can be edited here; undefined: it can't. */
export function textKindOf(path: SitePath): TextKind | undefined {
  const extension = extensionOf(path);
  if (MARKDOWN.has(extension)) return 'markdown';
  return LINES.has(extension) ? 'lines' : undefined;
}
