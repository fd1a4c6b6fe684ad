import { fromMarkdown } from 'mdast-util-from-markdown';
import type { Nodes } from 'mdast';
import { charAtoms, markdownAtoms, textOf } from './atoms.ts';
import { htmlReferences } from './html.ts';
import type { Reference } from './model.ts';
import { decodeRaw, type Source } from './source.ts';

type Found = Omit<Reference, 'line'>;

/**
 * References in Markdown (CommonMark): images, links, reference definitions, autolinks, and HTML inline or in blocks.
 * Code is left out. Front matter is no Markdown: only the title is read from it.
 */
export function markdownReferences(source: Source): {
  title: string;
  references: Found[];
  canonical: string[];
} {
  const front = /^---\r?\n[\s\S]*?\r?\n---[ \t]*(?:\r?\n|$)/.exec(source.raw.slice(source.bom))?.[0] ?? '';
  const start = source.bom + front.length;
  const found: Found[] = [];
  let heading = '';
  const visit = (node: Nodes) => {
    const from = start + (node.position?.start.offset ?? 0);
    const to = start + (node.position?.end.offset ?? 0);
    switch (node.type) {
      case 'image':
      case 'link':
        found.push(...destination(source, from, to, node.type === 'image' ? 'md image' : 'md link'));
        break;
      case 'definition':
        found.push(...definition(source, from, to));
        break;
      case 'html':
        found.push(...insideHtml(source, from, to));
        break;
      case 'heading':
        if (heading === '')
          heading = source.raw.slice(from, to).replace(/^#+\s*|[*_`]|\s*#+\s*$|\r?\n[=-]+\s*$/g, '');
        break;
    }
    if ('children' in node) for (const child of node.children) visit(child);
  };
  visit(fromMarkdown(source.raw.slice(start)));
  const titled = /^title:[ \t]*(["']?)(.*?)\1[ \t]*\r?$/m.exec(front)?.[2];
  return { title: decodeRaw(source.encoding, titled ?? heading).trim(), references: found, canonical: [] };
}

/** The destination of an inline link or image: what stands between the last fitting `](` and the closing parenthesis. */
function destination(source: Source, from: number, to: number, place: string): Found[] {
  const raw = source.raw.slice(from, to);
  if (raw.startsWith('<')) return [found(source, from + 1, to - 1, place)];
  for (let at = raw.lastIndexOf(']('); at >= 0; at = raw.lastIndexOf('](', at - 1)) {
    const span = destinationSpan(raw, at + 2, /^[ \t\r\n]*(?:(?:"[^]*"|'[^]*'|\([^]*\))[ \t\r\n]*)?\)$/);
    if (span) return [found(source, from + span.start, from + span.end, place)];
    if (at === 0) break;
  }
  return [];
}

function definition(source: Source, from: number, to: number): Found[] {
  const raw = source.raw.slice(from, to);
  const colon = /^\[(?:\\[^]|[^\\\]])*\]:/.exec(raw)?.[0].length;
  const span = colon === undefined ? undefined : destinationSpan(raw, colon, /^(?:[ \t\r\n]+[^]*)?$/);
  return span ? [found(source, from + span.start, from + span.end, 'md definition')] : [];
}

/** A destination at an offset (CommonMark 6.3): in angle brackets, or bare with balanced parentheses; then `rest`. */
function destinationSpan(raw: string, at: number, rest: RegExp): { start: number; end: number } | undefined {
  const start = at + /^[ \t\r\n]*/.exec(raw.slice(at))![0].length;
  if (raw[start] === '<') {
    const close = /^<(?:\\[^]|[^\\<>\r\n])*>/.exec(raw.slice(start))?.[0].length;
    return close !== undefined && rest.test(raw.slice(start + close))
      ? { start: start + 1, end: start + close - 1 }
      : undefined;
  }
  let depth = 0;
  let end = start;
  for (; end < raw.length && raw.charCodeAt(end) > 0x20; end++) {
    if (raw[end] === '\\') end++;
    else if (raw[end] === '(') depth++;
    else if (raw[end] === ')' && depth-- === 0) break;
  }
  return end > start && rest.test(raw.slice(end)) ? { start, end } : undefined;
}

function found(source: Source, start: number, end: number, place: string): Found {
  return {
    start,
    end,
    place,
    writing: 'markdown',
    url: textOf(markdownAtoms(charAtoms(source, start, end))),
  };
}

/** Raw HTML in Markdown: read as its own source, its offsets moved to where it stands. */
function insideHtml(source: Source, from: number, to: number): Found[] {
  const part: Source = {
    ...source,
    bom: 0,
    raw: source.raw.slice(from, to),
    bytes: source.bytes.subarray(from, to),
  };
  return htmlReferences(part, false).references.map((one) => ({
    ...one,
    start: one.start + from,
    end: one.end + from,
  }));
}
