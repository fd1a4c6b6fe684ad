import { trim } from '../text/cut.ts';
import { decodeHTML } from 'entities';
import { markdownTree } from './markdown-tree.ts';
import type { Nodes } from 'mdast';
import { parse, type DefaultTreeAdapterTypes as Tree } from 'parse5';
import { extensionOf, type SitePath } from '../address/path.ts';
import { attributeAtoms, charAtoms, markdownAtoms, textOf } from './atoms.ts';
import { readPage, textAround } from './read.ts';
import { applyChanges, type SpanChange } from './rewrite.ts';
import { decodeRaw, lineAt, lineStarts, readSource, type Source } from './source.ts';

/** A text in a page and the bytes that hold it. */
interface Span {
  text: string;
  /** Byte offsets of what is replaced with it; end is exclusive. */
  start: number;
  end: number;
}

/** The words that stand with one reference, and around it. Null: there is no such attribute or text. */
export interface PlacedWords {
  /** Byte offset of the reference, by which it is known. */
  start: number;
  place: string;
  alt: string | null;
  /** False where there is no alt text by nature: a link, a film, a style sheet. */
  takesAlt: boolean;
  /** The hover text. */
  title: string | null;
  /** The whole text of a link to the item itself, when there is nothing else in the link. */
  linkText: string | null;
  heading: string;
  figcaption: string;
  before: string;
  after: string;
  neighbours: string[];
  link: { href: string; alone: boolean } | null;
}

/** What is written in place of the words with one reference. */
export interface WordChange {
  start: number;
  alt?: string;
  title?: string;
  linkText?: string;
}

/** How the words of a place are written. */
type Writing = 'attribute' | 'text' | 'md text' | 'md title';
interface Place extends PlacedWords {
  spans: Partial<
    Record<'alt' | 'title' | 'linkText', Span & { writing: Writing; quote?: string; name?: string }>
  >;
  /** Where an attribute can be added. */
  room?: number;
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

const elementsOf = (node: Tree.Node): Tree.Element[] =>
  'childNodes' in node ? node.childNodes.filter((one): one is Tree.Element => 'tagName' in one) : [];
const childrenOf = (node: Tree.Node): Tree.ChildNode[] => {
  if ('content' in node) return node.content.childNodes;
  return 'childNodes' in node ? node.childNodes : [];
};

/** @param shift byte offset of the part that is read, for HTML in Markdown */
function htmlPlaces(source: Source, wanted: readonly number[], shift: number): Place[] {
  const at = source.bom;
  const tree = parse(source.raw.slice(at), { sourceCodeLocationInfo: true });
  const textAt = (start: number, end: number) =>
    decodeHTML(decodeRaw(source.encoding, source.raw.slice(start, end)));
  const textIn = (node: Tree.Node): string => {
    if (node.nodeName === '#text' && 'value' in node) {
      const location = node.sourceCodeLocation;
      return location ? textAt(location.startOffset + at, location.endOffset + at) : '';
    }
    if (['script', 'style', 'noscript'].includes(node.nodeName)) return '';
    return childrenOf(node).map(textIn).join('');
  };
  const plain = (node: Tree.Node) => textIn(node).replace(/\s+/g, ' ').trim();
  const attribute = (
    element: Tree.Element,
    name: string,
  ): (Span & { quote: string; name: string }) | null => {
    const location = element.sourceCodeLocation?.attrs?.[name];
    if (!location) return null;
    const start = location.startOffset + at;
    const end = location.endOffset + at;
    const whole = source.raw.slice(start, end);
    const lead = /^[^=]+=[\t\n\f\r ]*/.exec(whole)?.[0].length;
    if (lead === undefined) return { text: '', start, end, quote: '', name };
    const quote = /["']/.test(whole[lead] ?? '') ? whole[lead]! : '';
    const value = quote
      ? { start: start + lead + 1, end: end - (whole.endsWith(quote) && whole.length > lead + 1 ? 1 : 0) }
      : { start: start + lead, end };
    const text = textOf(attributeAtoms(charAtoms(source, value.start, value.end)));
    // A value without quotes is replaced with its name and quotes.
    return quote ? { text, ...value, quote, name } : { text, start, end, quote: '', name };
  };
  const images = (node: Tree.Node): Tree.Element[] =>
    childrenOf(node).flatMap((child) =>
      'tagName' in child && child.tagName === 'img' ? [child] : images(child),
    );
  const altOf = (element: Tree.Element) => attribute(element, 'alt')?.text ?? null;

  const found: Place[] = [];
  let heading = '';
  const visit = (node: Tree.Node, above: Tree.Element[]) => {
    if ('tagName' in node) {
      if (/^h[1-6]$/.test(node.tagName)) heading = plain(node);
      const attrs = node.sourceCodeLocation?.attrs ?? {};
      for (const location of Object.values(attrs)) {
        const [from, to] = [location.startOffset + at + shift, location.endOffset + at + shift];
        for (const start of wanted)
          if (start >= from && start < to) found.push(placeOf(node, above, start, to - shift));
      }
      above = [...above, node];
    }
    for (const child of childrenOf(node)) visit(child, above);
  };

  function placeOf(element: Tree.Element, above: Tree.Element[], start: number, room: number): Place {
    const { tagName } = element;
    const takesAlt =
      tagName === 'img' || tagName === 'area' || (tagName === 'input' && altOf(element) !== null);
    const alt = takesAlt ? attribute(element, 'alt') : null;
    const title = attribute(element, 'title');
    const link = above.findLast((one) => one.tagName === 'a' && attribute(one, 'href'));
    const figure = above.findLast((one) => one.tagName === 'figure');
    const caption = figure && elementsOf(figure).find((one) => one.tagName === 'figcaption');
    const group = above
      .slice(-3)
      .reverse()
      .find((one) => images(one).length > 1);
    const spans: Place['spans'] = {};
    if (alt) spans.alt = { ...alt, writing: 'attribute' };
    if (title) spans.title = { ...title, writing: 'attribute' };
    let linkText: string | null = null;
    if (
      tagName === 'a' &&
      element.childNodes.length > 0 &&
      element.childNodes.every((one) => one.nodeName === '#text')
    ) {
      const first = element.childNodes[0]!.sourceCodeLocation;
      const last = element.childNodes.at(-1)!.sourceCodeLocation;
      linkText = plain(element);
      if (first && last) {
        const from = first.startOffset + at;
        const raw = source.raw.slice(from, last.endOffset + at);
        const lead = /^\s*/.exec(raw)![0].length;
        spans.linkText = {
          text: linkText,
          start: from + lead,
          end: from + Math.max(lead, raw.trimEnd().length),
          writing: 'text',
        };
      }
    }
    const around = textAround(source, start - shift, room);
    return {
      start,
      place: `${tagName} words`,
      takesAlt,
      alt: alt?.text ?? null,
      title: title?.text ?? null,
      linkText,
      heading,
      figcaption: caption ? plain(caption) : '',
      ...around,
      neighbours: group
        ? images(group)
            .flatMap((one) => (one === element ? [] : (altOf(one) ?? '')))
            .filter((text) => text !== '')
        : [],
      link: link
        ? {
            href: attribute(link, 'href')!.text,
            alone:
              plain(link) === '' &&
              !attribute(link, 'aria-label')?.text &&
              images(link).every((one) => one === element || !altOf(one)),
          }
        : null,
      spans,
      ...(takesAlt ? { room } : {}),
    };
  }
  visit(tree, []);
  if (shift === 0) return found;
  for (const place of found)
    for (const span of Object.values(place.spans)) {
      span.start += shift;
      span.end += shift;
    }
  for (const place of found) if (place.room !== undefined) place.room += shift;
  return found;
}

function markdownPlaces(source: Source, wanted: readonly number[]): Place[] {
  const front = /^---\r?\n[\s\S]*?\r?\n---[ \t]*(?:\r?\n|$)/.exec(source.raw.slice(source.bom))?.[0] ?? '';
  const base = source.bom + front.length;
  const found: Place[] = [];
  let heading = '';
  const text = (from: number, to: number) => textOf(markdownAtoms(charAtoms(source, from, to)));
  const plain = (node: Nodes): string =>
    'value' in node
      ? decodeRaw(source.encoding, node.value)
      : 'children' in node
        ? node.children.map(plain).join('')
        : '';
  const visit = (node: Nodes, above: Nodes[]) => {
    const from = base + (node.position?.start.offset ?? 0);
    const to = base + (node.position?.end.offset ?? 0);
    if (node.type === 'heading') heading = plain(node).trim();
    if (node.type === 'html') {
      const part: Source = {
        ...source,
        bom: 0,
        raw: source.raw.slice(from, to),
        bytes: source.bytes.subarray(from, to),
      };
      const inside = wanted.filter((start) => start >= from && start < to);
      if (inside.length > 0)
        found.push(
          ...htmlPlaces(part, inside, from).map((one) => ({ ...one, heading: one.heading || heading })),
        );
    }
    if (node.type === 'image' || node.type === 'link') {
      const start = wanted.find((one) => one > from && one < to);
      const inner =
        'children' in node && node.children.some((child) => child.type === 'image' && holds(child, start));
      if (start !== undefined && !inner) found.push(placeOf(node, from, to, start, above));
    }
    if ('children' in node) for (const child of node.children) visit(child, [...above, node]);
  };
  const holds = (node: Nodes, start: number | undefined) =>
    start !== undefined &&
    start >= base + (node.position?.start.offset ?? 0) &&
    start < base + (node.position?.end.offset ?? 0);

  function placeOf(node: Nodes, from: number, to: number, start: number, above: Nodes[]): Place {
    const isImage = node.type === 'image';
    const raw = source.raw.slice(from, to);
    const spans: Place['spans'] = {};
    // What stands in the brackets, up to the last ']' before the destination.
    const close = source.raw.lastIndexOf('](', start);
    const open = from + (isImage ? 2 : 1);
    const inBrackets = raw.startsWith('<') || close < open ? undefined : { start: open, end: close };
    let alt: string | null = null;
    let linkText: string | null = null;
    if (isImage && inBrackets) {
      alt = node.alt ? decodeRaw(source.encoding, node.alt) : '';
      spans.alt = { text: alt, ...inBrackets, writing: 'md text' };
    } else if (inBrackets && 'children' in node && node.children.every((one) => one.type === 'text')) {
      linkText = text(inBrackets.start, inBrackets.end).replace(/\s+/g, ' ').trim();
      spans.linkText = { text: linkText, ...inBrackets, writing: 'md text' };
    }
    const titled = titleSpan(raw);
    let title: string | null = null;
    if (titled && inBrackets) {
      const [at, end] = [from + titled.start, from + titled.end];
      title = text(at + 1, end - 1);
      spans.title = {
        text: title,
        start: at + 1,
        end: end - 1,
        writing: 'md title',
        quote: raw[titled.start]!,
      };
    }
    const link = isImage ? above.findLast((one) => one.type === 'link') : undefined;
    return {
      start,
      place: `${isImage ? 'md image' : 'md link'} words`,
      takesAlt: isImage,
      alt,
      title,
      linkText,
      heading,
      figcaption: '',
      ...textAround(source, from, to),
      neighbours: [],
      link: link && link.type === 'link' ? { href: link.url, alone: link.children.length === 1 } : null,
      spans,
    };
  }
  visit(markdownTree(source.raw.slice(base)), []);
  return found;
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

/** The title at the end of an inline link or image (CommonMark 6.3), with its quotes: read from behind, in one pass. */
function titleSpan(raw: string): { start: number; end: number } | undefined {
  if (!raw.endsWith(')')) return undefined;
  const end = trim(raw.slice(0, -1), ' \t\r\n', 'end').length;
  const quote = raw[end - 1];
  if (quote !== '"' && quote !== "'") return undefined;
  for (let start = end - 2; start > 0; start--) {
    if (raw[start] !== quote) continue;
    let slashes = 0;
    while (raw[start - 1 - slashes] === '\\') slashes++;
    if (slashes % 2 === 1) {
      start -= slashes;
      continue;
    }
    return ' \t\r\n'.includes(raw[start - 1]!) ? { start, end } : undefined;
  }
  return undefined;
}
