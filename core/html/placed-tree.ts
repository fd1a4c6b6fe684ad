/**
 * HTML as a tree whose nodes know where they stand in the text (WHATWG HTML, parsed by parse5). What the parser had to move, copy or make up
 * has no such place: it is told, so that nobody writes at a wrong one.
 */
import { defaultTreeAdapter, parse, parseFragment, type DefaultTreeAdapterTypes } from 'parse5';
import { trim } from '../text/cut.ts';

export interface PlacedElement {
  name: string;
  attributes: Readonly<Record<string, string>>;
  /** Offsets of the element, and of what is between its tags. An element whose end tag is left out ends where its content does. */
  from: number;
  inner: number;
  innerEnd: number;
  to: number;
  children: readonly PlacedNode[];
  /** Its content lies in the text as it does in the tree. */
  sound: boolean;
}
export type PlacedNode =
  PlacedElement | { text: string; from: number; to: number } | { comment: true; from: number; to: number };

export const isElement = (node: PlacedNode): node is PlacedElement => 'name' in node;
export const isText = (node: PlacedNode): node is Extract<PlacedNode, { text: string }> => 'text' in node;

/** What HTML takes for a blank (Infra standard, ASCII whitespace): others, such as one that must not break, are seen. */
export const BLANKS = ' \t\n\f\r';
export const isBlank = (text: string): boolean => trim(text, BLANKS, 'start') === '';

/** Elements within each other that are followed. */
const DEEPEST = 200;

type Node = DefaultTreeAdapterTypes.ChildNode;
type Parent = DefaultTreeAdapterTypes.ParentNode;

/** The part of a page that holds its text, or the whole of a fragment. */
export interface PlacedContent extends Omit<PlacedElement, 'name' | 'attributes'> {
  /** Of a page; `part`: the element whose content it is. Null: the text is a fragment. */
  part: string | null;
}

/** @param text with line feeds */
export function placedContent(text: string): PlacedContent {
  if (!isPage(text)) {
    const { childNodes } = parseFragment(text, { sourceCodeLocationInfo: true });
    return {
      part: null,
      ...content(childNodes, { from: 0, inner: 0, innerEnd: text.length, to: text.length }, 0),
    };
  }
  const page = parse(text, { sourceCodeLocationInfo: true });
  const found = ['main', 'article', 'body'].flatMap((name) => elementsIn(page, name).slice(0, 1))[0];
  const at = found?.sourceCodeLocation;
  if (found && at?.startTag) return { part: found.tagName, ...content(found.childNodes, spanOf(at), 0) };
  // A page whose `body` is left out: what stands from its first child to its last.
  const placed = (found?.childNodes ?? []).filter(({ sourceCodeLocation }) => sourceCodeLocation);
  const from = placed[0]?.sourceCodeLocation?.startOffset ?? text.length;
  const to = placed.at(-1)?.sourceCodeLocation?.endOffset ?? text.length;
  return { part: 'body', ...content(found?.childNodes ?? [], { from, inner: from, innerEnd: to, to }, 0) };
}

const isPage = (text: string): boolean => /<!doctype|<html[\s>]|<head[\s>]|<body[\s>]/i.test(text);

function elementsIn(node: Parent, name: string): DefaultTreeAdapterTypes.Element[] {
  return node.childNodes.flatMap((child) =>
    defaultTreeAdapter.isElementNode(child)
      ? [...(child.tagName === name ? [child] : []), ...elementsIn(child, name)]
      : [],
  );
}

type Span = Pick<PlacedElement, 'from' | 'inner' | 'innerEnd' | 'to'>;
type Location = NonNullable<DefaultTreeAdapterTypes.Element['sourceCodeLocation']>;
const spanOf = ({ startOffset, startTag, endTag, endOffset }: Location): Span => ({
  from: startOffset,
  inner: startTag!.endOffset,
  innerEnd: endTag?.startOffset ?? endOffset,
  to: endOffset,
});

function content(
  nodes: readonly Node[],
  span: Span,
  depth: number,
): Omit<PlacedElement, 'name' | 'attributes'> {
  let at = span.inner;
  let sound = depth < DEEPEST;
  const inPlace: PlacedNode[] = [];
  for (const node of sound ? nodes : []) {
    if (isMadeOfEnd(node)) continue;
    const child = placed(node, depth + 1);
    const isIn = child && child.from >= at && child.to <= span.innerEnd;
    if (isIn) inPlace.push(child);
    // Line ends after a page's end tags count as its body's.
    else if (!child || !isText(child) || !isBlank(child.text)) sound = false;
    at = isIn ? child.to : at;
  }
  return { ...span, children: sound ? inPlace : [], sound };
}

/** An end tag of a paragraph that is none makes an empty one, which nobody sees. */
const isMadeOfEnd = (node: Node): boolean =>
  defaultTreeAdapter.isElementNode(node) &&
  node.tagName === 'p' &&
  !node.sourceCodeLocation &&
  node.childNodes.length === 0;

/** Undefined: it has no place of its own. */
function placed(node: Node, depth: number): PlacedNode | undefined {
  const at = node.sourceCodeLocation;
  // The group of rows or columns that stand in none.
  if (!at && defaultTreeAdapter.isElementNode(node) && ['tbody', 'colgroup'].includes(node.tagName))
    return madeUp(node, depth);
  if (!at) return undefined;
  const { startOffset: from, endOffset: to } = at;
  if (defaultTreeAdapter.isTextNode(node)) return { text: node.value, from, to };
  if (defaultTreeAdapter.isCommentNode(node)) return { comment: true, from, to };
  if (!defaultTreeAdapter.isElementNode(node) || !('startTag' in at) || !at.startTag) return undefined;
  const attributes = Object.fromEntries(node.attrs.map(({ name, value }) => [name, value]));
  // What a `template` holds is no child of it.
  const nodes = 'content' in node ? [] : node.childNodes;
  return { name: node.tagName, attributes, ...content(nodes, spanOf(at), depth) };
}

function madeUp(
  { tagName: name, childNodes }: DefaultTreeAdapterTypes.Element,
  depth: number,
): PlacedElement | undefined {
  const from = childNodes[0]?.sourceCodeLocation?.startOffset;
  const to = childNodes.at(-1)?.sourceCodeLocation?.endOffset;
  if (from === undefined || to === undefined) return undefined;
  return { name, attributes: {}, ...content(childNodes, { from, inner: from, innerEnd: to, to }, depth) };
}
