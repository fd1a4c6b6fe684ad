import { extensionOf, type SitePath } from '../address/path.ts';

/** How a document can be read here. */
export type ReadingKind =
  'pdf' | 'word' | 'odt' | 'slides' | 'sheets' | 'table' | 'markdown' | 'calendar' | 'text';

const KINDS: Readonly<Record<string, ReadingKind>> = {
  '.pdf': 'pdf',
  '.docx': 'word',
  '.docm': 'word',
  '.dotx': 'word',
  '.odt': 'odt',
  '.ott': 'odt',
  '.pptx': 'slides',
  '.pptm': 'slides',
  '.ppsx': 'slides',
  '.odp': 'slides',
  '.xlsx': 'sheets',
  '.xlsm': 'sheets',
  '.ods': 'sheets',
  '.csv': 'table',
  '.tsv': 'table',
  '.md': 'markdown',
  '.markdown': 'markdown',
  '.ics': 'calendar',
};

export const readingKindOf = (path: SitePath): ReadingKind => KINDS[extensionOf(path)] ?? 'text';

/** Whether a PDF can be made of a document. */
export const isPrintable = (path: SitePath): boolean =>
  ['word', 'odt', 'sheets', 'table', 'markdown'].includes(readingKindOf(path)) ||
  ['.txt', '.html', '.htm'].includes(extensionOf(path));

/** Bytes of a document that are read at most; tables in text may have any length. */
export const MOST_OFFICE = 200_000_000;
