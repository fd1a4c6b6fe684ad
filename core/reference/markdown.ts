import { trim } from '../text/cut.ts';
import { markdownTree } from './markdown-tree.ts';
import type { Nodes } from 'mdast';
import { charAtoms, markdownAtoms, textOf } from './atoms.ts';
import { jsonReferences, tomlReferences, yamlReferences } from './data.ts';
import { htmlReferences } from './html.ts';
import type { Reference } from './model.ts';
import { decodeRaw, type Source } from './source.ts';

type Found = Omit<Reference, 'line'>;

/**
 * References in Markdown (CommonMark): images, links, reference definitions, autolinks, and HTML inline or in blocks.
 * Code is left out. Front matter (YAML between lines of ---, TOML between +++, JSON before an empty line) is data: its
 * title is read, and its values that are addresses. What any of them is relative to is its generator's secret.
 */
export function markdownReferences(source: Source): {
  title: string;
  references: Found[];
  canonical: string[];
} {
  const front = frontMatter(source);
  const start = source.bom + front.length;
  const found: Found[] = [...front.references];
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
        if (heading === '') heading = plainHeading(source.raw.slice(from, to));
        break;
    }
    if ('children' in node) for (const child of node.children) visit(child);
  };
  visit(markdownTree(source.raw.slice(start)));
  return {
    title: decodeRaw(source.encoding, front.title ?? heading).trim(),
    references: found.map((one) => (one.loose ? one : { ...one, loose: true })),
    canonical: [],
  };
}

/** What a heading says, without its marks. */
function plainHeading(raw: string): string {
  // Under a line of its own, or behind one to six signs that may stand at its end too.
  const [first = '', under] = raw.split(/\r?\n/).slice(-2);
  const lined = under !== undefined && /^[=-]/.test(under) && trim(under, '=- \t') === '';
  const text = lined ? raw.slice(0, raw.length - under.length) : raw;
  const said = text.trim().startsWith('#') ? trim(text.trim(), '#').trim() : text.trim();
  return (lined && first === '' ? '' : said).replace(/[*_`]/g, '');
}

/** The title in front matter of any form: `title: x`, `title = "x"`, `"title": "x",`. */
function titleIn(frontMatter: string): string | undefined {
  for (const line of frontMatter.split('\n')) {
    const key = /^\s*"?title"?[ \t]*[:=]/.exec(line);
    if (!key) continue;
    const value = line.slice(key[0].length).trim();
    const whole = value.endsWith(',') && value.startsWith('"') ? value.slice(0, -1).trim() : value;
    const [quote] = whole;
    return whole.length > 1 && (quote === '"' || quote === "'") && whole.endsWith(quote)
      ? whole.slice(1, -1)
      : whole;
  }
  return undefined;
}

function frontMatter(source: Source): { length: number; title: string | undefined; references: Found[] } {
  const text = source.raw.slice(source.bom);
  const fenced = /^(---|\+\+\+)[ \t]*\r?\n([\s\S]*?)\r?\n\1[ \t]*(?:\r?\n|$)/.exec(text);
  const json = fenced ? null : /^\{\s*"[\s\S]*?\n\}[ \t]*(?:\r?\n|$)/.exec(text);
  const whole = (fenced ?? json)?.[0] ?? '';
  if (whole === '') return { length: 0, title: undefined, references: [] };
  const from = source.bom + (fenced ? whole.indexOf(fenced[2]!, 3) : 0);
  const to = fenced ? from + fenced[2]!.length : source.bom + whole.length;
  const read = !fenced ? jsonReferences : fenced[1] === '---' ? yamlReferences : tomlReferences;
  return {
    length: whole.length,
    title: titleIn(whole),
    references: read(source, from, to, 'front matter'),
  };
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
  const span = colon === undefined ? undefined : destinationSpan(raw, colon, /^(?:$|[ \t\r\n])/);
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
