import { extensionOf, type SitePath } from '../address/path.ts';
import { readPage } from './read.ts';
import { applyChanges, type SpanChange } from './rewrite.ts';
import { lineAt, lineStarts, readSource, type Source } from './source.ts';
import { markdownPlaces } from './placed-markdown.ts';
import { htmlPlaces } from './placed-html.ts';
import type { Place } from './placed-text.ts';
import type { PlacedWords, Writing } from './placed-text.ts';

/** What is written in place of the words with one reference. */
export interface WordChange {
  start: number;
  alt?: string;
  title?: string;
  linkText?: string;
}

/** Reads the words with some references of an HTML or Markdown file. Those that it cannot see are left out. */
export function placedWords(path: SitePath, source: Source, starts: readonly number[]): PlacedWords[] {
  return places(path, source, starts).map(({ spans: _spans, room: _room, ...words }) => words);
}

function places(path: SitePath, source: Source, starts: readonly number[]): Place[] {
  const wanted = [...new Set(starts)].sort((a, b) => a - b);
  const extension = extensionOf(path);
  if (['.html', '.htm', '.xhtml'].includes(extension)) return htmlPlaces(source, wanted, 0);
  if (extension === '.md' || extension === '.markdown') return markdownPlaces(source, wanted);
  return [];
}

/** Text as bytes of the file's encoding, one character per byte; what that cannot write becomes a character reference. */
function encoded(source: Source, text: string): string {
  let raw = '';
  for (const char of text) {
    const code = char.codePointAt(0)!;
    if (code < 0x80) raw += char;
    else if (source.encoding === 'utf-8')
      for (const byte of new TextEncoder().encode(char)) raw += String.fromCharCode(byte);
    else raw += code >= 0xa0 && code <= 0xff ? char : `&#${code};`;
  }
  return raw;
}

function written(
  source: Source,
  text: string,
  span: { writing: Writing; quote?: string; name?: string },
): string {
  const one = text.replace(/\s+/g, ' ').trim();
  switch (span.writing) {
    case 'attribute': {
      const quote = span.quote || '"';
      const escaped = one
        .replace(/&/g, '&amp;')
        .replace(/</g, '&lt;')
        .replaceAll(quote, quote === '"' ? '&quot;' : '&#39;');
      return span.quote ? encoded(source, escaped) : encoded(source, `${span.name}="${escaped}"`);
    }
    case 'text':
      return encoded(source, one.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;'));
    case 'md text':
      return encoded(source, one.replace(/[\\`*_[\]<>~!]/g, '\\$&').replace(/&(?=[#\w]+;)/g, '\\&'));
    case 'md title':
      return encoded(source, one.replace(/[\\"']/g, '\\$&').replace(/&(?=[#\w]+;)/g, '\\&'));
  }
}

/**
 * Writes other words with some references of a page: only the attribute, or the text in the brackets or the link, changes.
 * A missing alt attribute is added behind the address; a missing title or link text is never added. Afterwards the page is
 * read again: the words are those that were meant, and every reference is what it was.
 *
 * @returns undefined when nothing changes; `refused` says why the page cannot be rewritten safely
 */
export function rewriteWords(
  path: SitePath,
  bytes: Uint8Array,
  wanted: readonly WordChange[],
): { changes: SpanChange[]; bytes: Uint8Array } | { refused: string } | undefined {
  const source = readSource(bytes);
  if ('unread' in source) return { refused: source.unread };
  const lines = lineStarts(source.raw);
  const there = new Map(
    places(
      path,
      source,
      wanted.map((one) => one.start),
    ).map((one) => [one.start, one]),
  );
  const changes: SpanChange[] = [];
  const expected: { index: number; field: 'alt' | 'title' | 'linkText'; text: string }[] = [];
  const references = readPage(path, source, true).references;
  for (const change of wanted) {
    const place = there.get(change.start);
    const line = lineAt(lines, change.start);
    if (!place) return { refused: `Line ${line}: the words of this place cannot be rewritten.` };
    const index = references.findIndex((one) => one.start === change.start);
    for (const field of ['alt', 'title', 'linkText'] as const) {
      const text = change[field]?.normalize('NFC').replace(/\s+/g, ' ').trim();
      if (text === undefined || text === place[field]) continue;
      const span = place.spans[field];
      const name = field === 'linkText' ? 'link text' : field;
      expected.push({ index, field, text });
      if (span) {
        changes.push({
          start: span.start,
          end: span.end,
          insert: written(source, text, span),
          line,
          place: `${place.place.replace(/ words$/, '')} ${name}`,
          oldUrl: span.text,
          newUrl: text,
        });
      } else if (field === 'alt' && place.room !== undefined) {
        const attribute = written(source, text, { writing: 'attribute', name: 'alt' });
        changes.push({
          start: place.room,
          end: place.room,
          insert: ` ${attribute}`,
          line,
          place: `${place.place.replace(/ words$/, '')} alt`,
          oldUrl: '',
          newUrl: text,
        });
      } else return { refused: `Line ${line}: there is no ${name} here that could be changed.` };
    }
  }
  if (changes.length === 0) return undefined;
  const rewritten = applyChanges(source, changes);
  const fault = verify(path, rewritten, references, expected);
  return fault ? { refused: fault } : { changes, bytes: rewritten };
}

/** Reads the page again: the same references in the same order, with the words that were meant. */
function verify(
  path: SitePath,
  bytes: Uint8Array,
  before: readonly { url: string; place: string }[],
  expected: readonly { index: number; field: 'alt' | 'title' | 'linkText'; text: string }[],
): string | undefined {
  const source = readSource(bytes);
  if ('unread' in source) return source.unread;
  const after = readPage(path, source, true).references;
  if (
    after.length !== before.length ||
    after.some((one, at) => one.url !== before[at]!.url || one.place !== before[at]!.place)
  )
    return 'After the change, the page would hold other references than before.';
  const words = new Map(
    places(
      path,
      source,
      expected.map((one) => after[one.index]!.start),
    ).map((one) => [one.start, one]),
  );
  for (const { index, field, text } of expected)
    if (words.get(after[index]!.start)?.[field] !== text)
      return `After the change, the page would not say “${text}”.`;
  return undefined;
}
