import { decodeHTML } from 'entities';
import { baseName, extensionOf, type SitePath } from '../address/path.ts';
import { cssReferences } from './css.ts';
import { canNameFile } from './file-address.ts';
import { htmlReferences } from './html.ts';
import { jsonReferences, yamlReferences } from './data.ts';
import { markdownReferences } from './markdown.ts';
import type { Mention, NameIndex } from './mention.ts';
import type { PageReading, Reference } from './model.ts';
import { decodeRaw, lineAt, lineStarts, type Source } from './source.ts';
import { xmlReferences } from './xml.ts';

type Language = 'html' | 'xml-markup' | 'css' | 'markdown' | 'json' | 'manifest' | 'yaml' | 'xml' | 'text';

function languageOf(path: SitePath): Language {
  switch (extensionOf(path)) {
    case '.html':
    case '.htm':
      return 'html';
    case '.xhtml':
    case '.svg':
      return 'xml-markup';
    case '.css':
      return 'css';
    case '.md':
    case '.markdown':
      return 'markdown';
    case '.json':
    case '.geojson':
      return 'json';
    case '.webmanifest':
      return 'manifest';
    case '.yml':
    case '.yaml':
      return 'yaml';
    case '.xml':
    case '.rss':
    case '.atom':
      return 'xml';
    default:
      return 'text';
  }
}

/** True when references in this file are found by a parser; other text files are searched for names only. */
export function isParsed(path: SitePath): boolean {
  return languageOf(path) !== 'text';
}

/**
 * Reads one content file: its title and its references to files, in order of place.
 * @param links also those to pages, which are left out otherwise
 */
export function readPage(path: SitePath, source: Source, links = false): PageReading {
  const read = readLanguage(path, source, links);
  const starts = lineStarts(source.raw);
  const references: Reference[] = [];
  for (const one of read.references) {
    if (!canNameFile(one.url, links)) continue;
    references.push({ ...one, line: lineAt(starts, one.start) });
  }
  references.sort((a, b) => a.start - b.start || b.end - a.end);
  return { title: read.title || baseName(path), references, canonical: read.canonical };
}

function readLanguage(path: SitePath, source: Source, links: boolean) {
  switch (languageOf(path)) {
    case 'html':
      return htmlReferences(source, isXhtml(source), links);
    case 'xml-markup':
      return htmlReferences(source, true, links);
    case 'css':
      return { title: '', canonical: [], references: cssReferences(source, source.bom, source.raw.length) };
    case 'markdown':
      return markdownReferences(source);
    case 'json':
      return { title: '', canonical: [], references: jsonReferences(source) };
    case 'manifest':
      // By its standard, addresses in a manifest are relative to the manifest.
      return {
        title: '',
        canonical: [],
        references: jsonReferences(source).map(({ loose: _loose, ...one }) => one),
      };
    case 'yaml':
      return { title: '', canonical: [], references: yamlReferences(source) };
    case 'xml':
      return { canonical: [], ...xmlReferences(source, links) };
    case 'text':
      return { title: '', canonical: [], references: [] };
  }
}

/** XHTML served under .html: it starts with an XML declaration or names the XHTML namespace. */
function isXhtml(source: Source): boolean {
  return /^(?:\u00ef\u00bb\u00bf)?\s*<\?xml\b/.test(source.raw.slice(0, 200));
}

/** Names in a text beside its references. */
export interface Named {
  mentions: Mention[];
  /** Starts of references that may hold names, or join with what is beside them to one. */
  doubtful: number[];
}

/**
 * Searches a text for names with all its references left out. Once it is known where those lead, that is the answer for
 * every text whose doubtful references all lead to items; others are searched anew, with fewer left out.
 */
export function namedBeside(index: NameIndex, source: Source, references: readonly Reference[]): Named {
  const doubtful = references
    .filter(({ start, end }) => index.mayTouch(source.raw.slice(start, end + 1)))
    .map((one) => one.start);
  return { mentions: index.search(textWithout(source, references)), doubtful };
}

/** The text of a file with some spans blanked out (each byte a space), for the search for mentions. */
export function textWithout(source: Source, spans: readonly { start: number; end: number }[]): string {
  if (spans.length === 0) return decodeRaw(source.encoding, source.raw);
  let raw = '';
  let at = 0;
  for (const span of [...spans].sort((a, b) => a.start - b.start)) {
    if (span.start < at) continue;
    raw += source.raw.slice(at, span.start) + source.raw.slice(span.start, span.end).replace(/[^\n]/g, ' ');
    at = span.end;
  }
  return decodeRaw(source.encoding, raw + source.raw.slice(at));
}

/** Characters each way within which a credit stands near an image. */
export const NEAR = 300;

/** The text that a reader sees around a span, without the page's head, navigation and footer: tags out, white space folded, at most about `reach` characters each way. */
export function textAround(
  source: Source,
  start: number,
  end: number,
  reach = 90,
): { before: string; after: string } {
  const tagStart = source.raw.lastIndexOf('<', start);
  const tagEnd = source.raw.indexOf('>', end);
  const from = tagStart < 0 || start - tagStart > 4000 ? start : tagStart;
  const to = tagEnd < 0 || tagEnd - end > 4000 ? end : tagEnd + 1;
  const plain = (raw: string) =>
    decodeHTML(
      decodeRaw(source.encoding, raw)
        .replace(/<(script|style)\b[\s\S]*?<\/\1\s*>/gi, ' ')
        .replace(/<!--[\s\S]*?-->/g, ' ')
        .replace(/<[^<>]*>/g, ' '),
    )
      .replace(/\s+/g, ' ')
      .trim();
  const before = plain(
    source.raw
      .slice(Math.max(0, from - 1500), from)
      .replace(/^[^<]*>/, '')
      .replace(/^[\s\S]*(?:<\/nav|<\/header|<main|<\/head)\b[^>]*>/i, ''),
  );
  const after = plain(
    source.raw
      .slice(to, to + 1500)
      .replace(/<(?:footer|nav|\/main)\b[\s\S]*$/i, '')
      .replace(/<[^<>]*$/, ''),
  );
  return {
    before: before.length > reach ? `…${before.slice(-reach).replace(/^\S*\s/, '')}` : before,
    after: after.length > reach ? `${after.slice(0, reach).replace(/\s\S*$/, '')}…` : after,
  };
}
