import { markdownTree } from './markdown-tree.ts';
import type { Nodes } from 'mdast';
import type { DefaultTreeAdapterTypes as Tree } from 'parse5';
import type { PageElement } from './page-element.ts';
import type { Source } from './source.ts';

/** Bytes of a page that are one thing: an image with its link and its figure, a link, a block. */
export interface Unit {
  start: number;
  end: number;
}

/** A placement as it stands in HTML: its own element, and the outermost one that holds nothing else. */
export interface HtmlPlacement {
  element: PageElement;
  /** Where the element has no end in the source, nothing around it can be changed. */
  unit: (Unit & { node: Tree.Element; name: string }) | undefined;
  /** The caption of the figure that it is in. */
  caption: PageElement | undefined;
  /** The link that it is alone in, or that it is. */
  link: PageElement | undefined;
  /** A link in running text: the words are not its own. */
  inText: boolean;
}

/** Elements that a placement may be alone in, so that they go and move with it. */
const AROUND = new Set(['picture', 'a', 'figure', 'p', 'li', 'center', 'span']);
/** What stands beside a placement in these and belongs to it. */
const BESIDE: Record<string, ReadonlySet<string>> = {
  picture: new Set(['source']),
  figure: new Set(['figcaption']),
};

const isBlank = (node: Tree.ChildNode) =>
  node.nodeName === '#comment' || (node.nodeName === '#text' && 'value' in node && node.value.trim() === '');

/** The placement whose address begins at a byte offset. @param elements of the whole page, in order of place */
export function htmlPlacement(elements: readonly PageElement[], start: number): HtmlPlacement | undefined {
  const holder = elements.find(({ tag }) => tag.start <= start && start < tag.end);
  if (!holder) return undefined;
  // A source of a video or an image is none by itself.
  const parent = elements.find((one) => one.node === holder.node.parentNode);
  const element =
    ['source', 'track'].includes(holder.name) && parent && ['video', 'audio', 'picture'].includes(parent.name)
      ? (elements.find((one) => one.name === 'img' && one.node.parentNode === parent.node) ?? parent)
      : holder;
  const byNode = new Map(elements.map((one) => [one.node as Tree.Node, one]));
  let unit = element;
  let caption: PageElement | undefined;
  let link = element.name === 'a' ? element : undefined;
  for (;;) {
    const above = unit.node.parentNode && byNode.get(unit.node.parentNode);
    if (!above || !AROUND.has(above.name)) break;
    const own = unit;
    const others = above.node.childNodes.filter((one) => one !== own.node && !isBlank(one));
    const beside = BESIDE[above.name] ?? new Set<string>();
    if (!others.every((one) => 'tagName' in one && beside.has(one.tagName))) break;
    if (above.name === 'figure')
      caption = others.map((one) => byNode.get(one)).find((one) => one !== undefined);
    if (above.name === 'a') link = above;
    unit = above;
  }
  const alone = unit !== element || !isInText(unit.node);
  return {
    element,
    unit: unit.whole && { ...unit.whole, node: unit.node, name: unit.name },
    caption,
    link,
    inText: element.name === 'a' && !alone,
  };
}

/** Words stand beside it in its block. */
function isInText(node: Tree.Element): boolean {
  const siblings = node.parentNode && 'childNodes' in node.parentNode ? node.parentNode.childNodes : [];
  return siblings.some((one) => one.nodeName === '#text' && !isBlank(one));
}

/** The unit before or after one, among the elements beside it; undefined: it is the first or the last. */
export function neighbourOf(
  elements: readonly PageElement[],
  unit: { node: Tree.Element },
  to: 'up' | 'down',
): Unit | undefined {
  const { parentNode } = unit.node;
  if (!parentNode || !('childNodes' in parentNode)) return undefined;
  const siblings = parentNode.childNodes.filter((one) => 'tagName' in one);
  const other = siblings[siblings.indexOf(unit.node) + (to === 'up' ? -1 : 1)];
  return other && elements.find((one) => one.node === other)?.whole;
}

/** What of a page goes with a unit: the line that it has for itself. */
export function withLine({ raw }: Pick<Source, 'raw'>, { start, end }: Unit): Unit {
  const from = raw.lastIndexOf('\n', start - 1) + 1;
  if (!/^[ \t]*$/.test(raw.slice(from, start))) return { start, end };
  const rest = /^[ \t]*(?:\r?\n|$)/.exec(raw.slice(end));
  return rest ? { start: from, end: end + rest[0].length } : { start, end };
}

/** A placement as it stands in Markdown. */
export interface MarkdownPlacement {
  kind: 'image' | 'link';
  /** The image or the link itself. */
  span: Unit;
  /** What a link shows: its words stay when it goes. */
  inner: Unit | undefined;
  /** The block that holds nothing else; undefined: it stands in a text. */
  block: Unit | undefined;
  up: Unit | undefined;
  down: Unit | undefined;
}

/** The placement of a Markdown file whose address begins at a byte offset; undefined: it stands in HTML or in the front matter. */
export function markdownPlacement(
  { raw }: Pick<Source, 'raw'>,
  start: number,
): MarkdownPlacement | undefined {
  const front = /^(?:\u00ef\u00bb\u00bf)?(?:(---|\+\+\+)[ \t]*\r?\n[\s\S]*?\r?\n\1[ \t]*(?:\r?\n|$))?/.exec(
    raw,
  )![0].length;
  if (start < front) return undefined;
  const tree = markdownTree(raw.slice(front));
  const spanOf = (node: Nodes): Unit => ({
    start: front + node.position!.start.offset!,
    end: front + node.position!.end.offset!,
  });
  const way: Nodes[] = [];
  const find = (node: Nodes): boolean => {
    const span = spanOf(node);
    if (node.type !== 'root' && (start < span.start || start >= span.end)) return false;
    way.push(node);
    if ('children' in node) for (const child of node.children) if (find(child as Nodes)) return true;
    return true;
  };
  find(tree);
  const at = way.findLastIndex((node) => node.type === 'image' || node.type === 'link');
  if (at < 0) return undefined;
  const node = way[at]!;
  const block = way.slice(0, at).findLast((one) => one.type === 'paragraph' || one.type === 'listItem');
  const outer = way.slice(0, at + 1);
  let top = at;
  // Alone in its link, in its paragraph, in its list item.
  while (
    top > 0 &&
    'children' in outer[top - 1]! &&
    (outer[top - 1] as { children: unknown[] }).children.length === 1
  ) {
    if (!['link', 'paragraph', 'listItem', 'emphasis', 'strong'].includes(outer[top - 1]!.type)) break;
    top--;
  }
  const alone = block !== undefined && ['paragraph', 'listItem'].includes(outer[top]!.type);
  const siblings = alone && top > 0 ? (outer[top - 1] as { children: Nodes[] }).children : [];
  const index = siblings.indexOf(outer[top]!);
  const [first, last] =
    node.type === 'link' && node.children.length > 0 ? [node.children[0]!, node.children.at(-1)!] : [];
  return {
    kind: node.type === 'image' ? 'image' : 'link',
    span: spanOf(node),
    inner: first && last && { start: spanOf(first).start, end: spanOf(last).end },
    block: alone ? spanOf(outer[top]!) : undefined,
    up: index > 0 ? spanOf(siblings[index - 1]!) : undefined,
    down: index >= 0 && index + 1 < siblings.length ? spanOf(siblings[index + 1]!) : undefined,
  };
}

/** The whole `url(…)` that holds an address; undefined: it is written otherwise. */
export function urlToken({ raw }: Pick<Source, 'raw'>, start: number, end: number): Unit | undefined {
  const before = /url\(\s*["']?$/i.exec(raw.slice(Math.max(0, start - 40), start));
  const after = /^["']?\s*\)/.exec(raw.slice(end, end + 40));
  return before && after ? { start: start - before[0].length, end: end + after[0].length } : undefined;
}
