import { trim } from '../text/cut.ts';
import { decodeHTML } from 'entities';
import { parse, type DefaultTreeAdapterTypes as Tree } from 'parse5';
import { attributeAtoms, charAtoms, textOf } from './atoms.ts';
import { NEAR, textAround } from './read.ts';
import { decodeRaw, type Source } from './source.ts';
import type { Place, Span } from './placed-text.ts';

const elementsOf = (node: Tree.Node): Tree.Element[] =>
  'childNodes' in node ? node.childNodes.filter((one): one is Tree.Element => 'tagName' in one) : [];

const childrenOf = (node: Tree.Node): Tree.ChildNode[] => {
  if ('content' in node) return node.content.childNodes;
  return 'childNodes' in node ? node.childNodes : [];
};

/** @param shift byte offset of the part that is read, for HTML in Markdown */
export function htmlPlaces(source: Source, wanted: readonly number[], shift: number): Place[] {
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
    const wide = textAround(source, start - shift, room, NEAR);
    const figcaption = caption ? plain(caption) : '';
    return {
      start,
      place: `${tagName} words`,
      takesAlt,
      alt: alt?.text ?? null,
      title: title?.text ?? null,
      linkText,
      heading,
      figcaption,
      near: `${wide.before} ${figcaption} ${wide.after}`,
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

/** The title at the end of an inline link or image (CommonMark 6.3), with its quotes: read from behind, in one pass. */
export function titleSpan(raw: string): { start: number; end: number } | undefined {
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
