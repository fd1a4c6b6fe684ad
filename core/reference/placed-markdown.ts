import { markdownTree } from './markdown-tree.ts';
import type { Nodes } from 'mdast';
import { charAtoms, markdownAtoms, textOf } from './atoms.ts';
import { NEAR, textAround } from './read.ts';
import { decodeRaw, type Source } from './source.ts';
import { htmlPlaces, titleSpan } from './placed-html.ts';
import type { Place } from './placed-text.ts';

export function markdownPlaces(source: Source, wanted: readonly number[]): Place[] {
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
      near: Object.values(textAround(source, from, to, NEAR)).join(' '),
      neighbours: [],
      link: link && link.type === 'link' ? { href: link.url, alone: link.children.length === 1 } : null,
      spans,
    };
  }
  visit(markdownTree(source.raw.slice(base)), []);
  return found;
}
