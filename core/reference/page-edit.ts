import { parse, type DefaultTreeAdapterTypes as Tree } from 'parse5';
import { extensionOf, type SitePath } from '../address/path.ts';
import {
  imageAttributes,
  placedHtml,
  placedMarkdown,
  sizeAttributes,
  type AddressStyle,
  type Placed,
  type Placing,
} from './markup.ts';
import type { Reference } from './model.ts';
import type { Attribute, PageElement } from './page-element.ts';
import { isPlacementEdit, placementChanges, styleChanges, type PlacementEdit } from './placement-edit.ts';
import { readPage } from './read.ts';
import { applyChanges, type SpanChange } from './rewrite.ts';
import { bytesOf, decodeRaw, lineAt, lineStarts, readSource, type Source } from './source.ts';

/** One change of a page beyond its addresses. Offsets are bytes of the page as it is. */
export type PageEdit =
  /** New lines of markup between two blocks. */
  | { do: 'insert'; at: number; lines: readonly string[]; what: string }
  /** An item where another image stands now: the element keeps its other attributes. `start`: of the old address. */
  | { do: 'exchange'; start: number; item: Placed; shownWidth: number | null }
  /** Smaller sizes for the browser to choose from, beside a image's address. `start`: of that. */
  | { do: 'offer'; start: number; sizes: readonly { path: SitePath; width: number }[]; shownWidth: number }
  /** Width and height written beside an image, where they are the old ones. */
  | { do: 'resize'; start: number; from: Size; to: Size }
  /** What must be seen where CSS crops: `object-position` in the element's style. `from`: only where that stands there now. */
  | { do: 'focus'; start: number; position: string; from?: string }
  | PlacementEdit
  /** Other markup in place of a whole element. */
  | { do: 'element'; start: number; end: number; lines: readonly string[]; what: string };

export interface Size {
  width: number;
  height: number;
}

export interface EditedPage {
  changes: SpanChange[];
  bytes: Uint8Array;
}

const HTML = new Set(['.html', '.htm', '.xhtml']);
export const isHtmlPage = (path: SitePath) => HTML.has(extensionOf(path));
export const isMarkdownPage = (path: SitePath) => ['.md', '.markdown'].includes(extensionOf(path));

/** The position that an element's own style gives; undefined: none, or it can't be told. */
function writtenPosition(element: PageElement): string | undefined {
  const style = element.attributes.find((one) => one.name === 'style')?.text;
  const found = style && /(?:^|;)\s*object-position\s*:([^;]*)/i.exec(style);
  return found ? found[1]!.trim().replace(/\s+/g, ' ') : undefined;
}

/** Lines of markup for an item in the language of a page. */
export function markupFor(page: SitePath, item: Placed, placing: Placing, style: AddressStyle): string[] {
  return isMarkdownPage(page) ? placedMarkdown(item, placing, style) : placedHtml(item, placing, style);
}

/**
 * Edits a page, changing only what is meant; encoding, line ends and byte order mark stay. Afterwards it is read again:
 * every reference outside the changed places is what it was.
 * @returns undefined when nothing changes; `refused` says why the page cannot be edited safely
 */
export function editPage(
  page: SitePath,
  bytes: Uint8Array,
  edits: readonly PageEdit[],
  style: AddressStyle,
): EditedPage | { refused: string } | undefined {
  const source = readSource(bytes);
  if ('unread' in source) return { refused: source.unread };
  const isSheet = extensionOf(page) === '.css';
  if (!isHtmlPage(page) && !isMarkdownPage(page) && !(isSheet && edits.every((one) => one.do === 'remove')))
    return { refused: 'Only HTML and Markdown can be edited this way.' };
  const lines = lineStarts(source.raw);
  const elements = isHtmlPage(page) ? elementsOf(source) : [];
  const changes: SpanChange[] = [];
  const change = (start: number, end: number, insert: string, place: string) => {
    const made: SpanChange = {
      start,
      end,
      insert,
      line: lineAt(lines, start),
      place,
      oldUrl: shown(source, source.raw.slice(start, end)),
      newUrl: shown(source, insert),
    };
    changes.push(made);
  };
  for (const edit of edits) {
    if (isPlacementEdit(edit)) {
      const made = placementChanges(isHtmlPage(page), source, elements, edit, style, (offset) =>
        lineAt(lines, offset),
      );
      if ('refused' in made) return { refused: made.refused };
      for (const { start, end, text, raw, place } of made.changes) {
        const insert = raw ?? encoded(source, text!, isMarkdownPage(page));
        if (insert === undefined) return { refused: NOT_IN_ENCODING };
        change(start, end, insert, place);
      }
      continue;
    }
    if (edit.do === 'insert' || edit.do === 'element') {
      const end = edit.do === 'element' ? edit.end : edit.at;
      const start = edit.do === 'element' ? edit.start : edit.at;
      const text =
        edit.do === 'element' ? block(source, start, edit.lines) : between(source, page, start, edit.lines);
      const raw = encoded(source, text, isMarkdownPage(page));
      if (raw === undefined) return { refused: NOT_IN_ENCODING };
      change(start, end, raw, edit.what);
      continue;
    }
    const element = elements.find(({ tag }) => tag.start <= edit.start && edit.start < tag.end);
    if (!element)
      return {
        refused: `Line ${lineAt(lines, edit.start)}: this placement stands in no element of its own, so it cannot be changed here.`,
      };
    const at = `line ${lineAt(lines, edit.start)}`;
    if (edit.do === 'exchange') {
      if (element.name !== 'img') return { refused: `At ${at} stands no picture.` };
      if (element.parent === 'picture')
        return {
          refused: `At ${at} the picture is one of several sources of a picture element. Replace the item itself instead.`,
        };
      const rest = element.attributes
        .filter((one) => !['src', 'srcset', 'sizes', 'alt', 'width', 'height'].includes(one.name))
        .map((one) => ` ${source.raw.slice(one.start, one.end)}`)
        .join('');
      const own = encoded(source, imageAttributes(edit.item, style, edit.shownWidth), false);
      if (own === undefined) return { refused: NOT_IN_ENCODING };
      const close = source.raw.slice(element.tag.start, element.tag.end).endsWith('/>') ? ' />' : '>';
      const name = source.raw.slice(element.tag.start, element.tag.start + 1 + element.name.length);
      change(element.tag.start, element.tag.end, `${name}${own}${rest}${close}`, 'img');
    } else if (edit.do === 'offer') {
      const address = element.attributes.find((one) => one.name === 'src');
      const has = (name: string) => element.attributes.some((one) => one.name === name);
      if (element.name !== 'img' || !address || element.parent === 'picture' || has('srcset') || has('sizes'))
        return { refused: `At ${at} a list of sizes is written already, or none can be.` };
      const own = encoded(source, sizeAttributes(edit.sizes, style, edit.shownWidth), false);
      if (own === undefined) return { refused: NOT_IN_ENCODING };
      change(address.end, address.end, own, 'img srcset');
    } else if (edit.do === 'resize') {
      const width = element.attributes.find((one) => one.name === 'width');
      const height = element.attributes.find((one) => one.name === 'height');
      // Where they are other ones, the page's author meant something else with them.
      if (width?.text !== String(edit.from.width) || height?.text !== String(edit.from.height)) continue;
      if (edit.to.width === edit.from.width && edit.to.height === edit.from.height) continue;
      change(width.valueStart, width.valueEnd, String(edit.to.width), 'img width');
      change(height.valueStart, height.valueEnd, String(edit.to.height), 'img height');
    } else {
      if (edit.from !== undefined && writtenPosition(element) !== edit.from) continue;
      const made = styleChanges(source, element, { 'object-position': edit.position }, at);
      if ('refused' in made) return { refused: made.refused };
      for (const { start, end, text, place } of made.changes) change(start, end, text!, place);
    }
  }
  if (changes.length === 0) return undefined;
  changes.sort((a, b) => a.start - b.start);
  for (const [at, one] of changes.entries())
    if (at > 0 && changes[at - 1]!.end > one.start)
      return { refused: `Line ${one.line}: two changes want the same place.` };
  const after = applyChanges(source, changes);
  const fault = otherwiseChanged(page, source, after, changes, edits.every(leadsNowhereElse));
  return fault ? { refused: fault } : { changes, bytes: after };
}

const NOT_IN_ENCODING = 'The page’s encoding has no room for these words.';

/**
 * Outside the changed places every reference and every element must be what it was, in its order; within them stand just
 * the references that the new markup has by itself.
 */
function otherwiseChanged(
  page: SitePath,
  before: Source,
  bytes: Uint8Array,
  changes: readonly SpanChange[],
  neutral: boolean,
): string | undefined {
  const after = readSource(bytes);
  if ('unread' in after) return after.unread;
  let shift = 0;
  const ranges = changes.map((one) => {
    const start = one.start + shift;
    shift += one.insert.length - (one.end - one.start);
    return { start, end: start + one.insert.length };
  });
  const inside = (one: Span, ranges: readonly Span[]) =>
    ranges.some((range) => range.start < range.end && range.start <= one.start && one.end <= range.end);
  const outside = <Thing extends Span>(things: readonly Thing[], ranges: readonly Span[]) =>
    things.filter((one) => !inside(one, ranges));
  const named = (one: Reference) => `${one.place} ${one.url}`;
  const was = readPage(page, before, true).references;
  const now = readPage(page, after, true).references;
  if (neutral && was.map(named).sort().join('\n') !== now.map(named).sort().join('\n')) return NOT_AS_IT_WAS;
  let same = outside(was, changes).map(named).join('\n') === outside(now, ranges).map(named).join('\n');
  if (isHtmlPage(page)) {
    /** New lines never stand inside a tag; other changes do, and their tag is known by its name only. */
    const isLines = changes.map((one) => one.insert.includes('\n'));
    const tags = (source: Source, ranges: readonly Span[]) =>
      outside(
        elementsOf(source).map(({ name, tag }) => ({ name, ...tag })),
        ranges,
      )
        .map(({ name, start, end }) =>
          ranges.some((range, at) => !isLines[at] && start < range.start && range.end < end)
            ? name
            : source.raw.slice(start, end),
        )
        .join('\n');
    same &&= tags(before, changes) === tags(after, ranges);
  }
  for (const [at, { insert, start, end }] of changes.entries()) {
    if (start !== end || !insert.includes('\n')) continue;
    const alone = readSource(bytesOf(insert));
    const own = 'raw' in alone ? readPage(page, { ...alone, encoding: after.encoding }, true).references : [];
    same &&= now.filter((one) => inside(one, [ranges[at]!])).length === own.length;
  }
  return same ? undefined : NOT_AS_IT_WAS;
}
const NOT_AS_IT_WAS =
  'After the change, the rest of the page would no longer be read as it was. The spot may lie inside a tag, a comment or code.';

/** Edits after which the page refers to just what it did. */
const leadsNowhereElse = (edit: PageEdit): boolean =>
  ['order', 'caption', 'add-caption', 'link-text', 'resize', 'focus'].includes(edit.do) ||
  (edit.do === 'attributes' &&
    !Object.keys(edit.set).some((name) => ['src', 'href', 'poster', 'srcset'].includes(name)));

type Span = { start: number; end: number };

function lineEnd(source: Source): string {
  return source.raw.includes('\r\n') ? '\r\n' : '\n';
}

/** White space at the beginning of the line that holds an offset. */
function indentAt(source: Source, offset: number): string {
  const from = source.raw.lastIndexOf('\n', offset - 1) + 1;
  return /^[ \t]*/.exec(source.raw.slice(from, offset))![0];
}

/** Lines as they stand from an offset on: the first there, the others below it. */
function block(source: Source, at: number, lines: readonly string[]): string {
  const indent = indentAt(source, at);
  return lines.map((line, i) => (i === 0 || line === '' ? line : indent + line)).join(lineEnd(source));
}

/** Lines between two blocks, each on its own line, as far in as its neighbours. */
function between(source: Source, page: SitePath, at: number, lines: readonly string[]): string {
  const end = lineEnd(source);
  if (isMarkdownPage(page)) {
    const before = source.raw.slice(0, at);
    const lead =
      before === '' || /\n[ \t]*\r?\n$|^\s*$/.test(before) ? '' : /\n$/.test(before) ? end : end + end;
    const rest = source.raw.slice(at);
    const tail =
      rest === '' ? end : /^\r?\n/.test(rest) ? (/^\r?\n[ \t]*\r?\n/.test(rest) ? '' : end) : end + end;
    return lead + lines.join(end) + tail;
  }
  const lineStart = source.raw.lastIndexOf('\n', at - 1) + 1;
  const onlyIndent = /^[ \t]*$/.test(source.raw.slice(lineStart, at));
  const indent = indentAt(source, at);
  const text = lines.map((line) => (line === '' ? line : indent + line)).join(end);
  // Before a block that begins its line: the block moves down a line. Behind one: a line of its own follows it.
  return onlyIndent ? `${text.slice(indent.length)}${end}${indent}` : `${end}${text}`;
}

/** Text in the page's encoding, as a raw string; in single-byte HTML, what it lacks becomes character references. */
function encoded(source: Source, text: string, markdown: boolean): string | undefined {
  if (source.encoding === 'utf-8') {
    let raw = '';
    for (const byte of new TextEncoder().encode(text)) raw += String.fromCharCode(byte);
    return raw;
  }
  if (markdown && /[^\u0000-\u007f\u00a0-\u00ff]/.test(text)) return undefined; // eslint-disable-line no-control-regex
  return Array.from(text, (char) =>
    char <= '\u007f' || (char >= '\u00a0' && char <= '\u00ff') ? char : `&#${char.codePointAt(0)!};`,
  ).join('');
}

export function shown(source: Source, raw: string): string {
  return decodeRaw(source.encoding, raw).trim();
}

/** Elements without an end (HTML standard, "void elements"). */
const VOID = new Set('area base br col embed hr img input link meta source track wbr'.split(' '));

/** All elements that have a start tag in the source, in order of place; those in templates too. */
export function elementsOf(source: Source): PageElement[] {
  const at = source.bom;
  const found: PageElement[] = [];
  const visit = (node: Tree.Node, parent: string) => {
    let name = parent;
    if ('tagName' in node) {
      name = node.tagName;
      const location = node.sourceCodeLocation;
      const tag = location && (location.startTag ?? location);
      if (tag)
        found.push({
          name,
          parent,
          tag: { start: tag.startOffset + at, end: tag.endOffset + at },
          whole:
            location.endTag || !location.startTag || VOID.has(name)
              ? { start: location.startOffset + at, end: location.endOffset + at }
              : undefined,
          attributes: Object.entries(location.attrs ?? {}).map(([attr, one]) =>
            attributeAt(source, attr, one.startOffset + at, one.endOffset + at),
          ),
          node,
        });
    }
    const children =
      'content' in node ? node.content.childNodes : 'childNodes' in node ? node.childNodes : [];
    for (const child of children) visit(child, name);
  };
  visit(parse(source.raw.slice(at), { sourceCodeLocationInfo: true }), '');
  return found.sort((a, b) => a.tag.start - b.tag.start);
}

function attributeAt(source: Source, name: string, start: number, end: number): Attribute {
  const whole = source.raw.slice(start, end);
  const lead = /^[^=]+=[\t\n\f\r ]*/.exec(whole)?.[0].length;
  if (lead === undefined)
    return { name, start, end, valueStart: end, valueEnd: end, quoted: false, text: '' };
  const quoted = /["']/.test(whole[lead] ?? '');
  const valueStart = start + lead + Number(quoted);
  const valueEnd = quoted ? Math.max(valueStart, end - 1) : end;
  return { name, start, end, valueStart, valueEnd, quoted, text: source.raw.slice(valueStart, valueEnd) };
}
