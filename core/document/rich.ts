/**
 * A text as an editor holds it: a tree of nodes in the JSON form of ProseMirror (https://prosemirror.net/docs/ref/#model), which says
 * nothing of how it is written in a file.
 */
export interface Mark {
  /** `wrap`: an element that an editor doesn't show, and keeps around the text. */
  type: 'bold' | 'italic' | 'underline' | 'strike' | 'code' | 'link' | 'wrap';
  attrs?: Record<string, unknown>;
}
export interface RichNode {
  type: string;
  attrs?: Record<string, unknown>;
  content?: RichNode[];
  marks?: Mark[];
  text?: string;
}

/** A part that an editor has no node for stays as it is written; it can be edited so. */
export const SOURCE = 'source';

/** A block, or something among letters, that an editor shows and can't change. */
export const KEPT_BLOCK = 'keptBlock';
export const KEPT_INLINE = 'keptInline';

/** By which block of the file a node came, so that an untouched one is written back as it was. */
export const ORIGIN = 'origin';

const words = (node: RichNode): string =>
  node.text ??
  (node.type === 'hardBreak'
    ? '\n'
    : (node.content ?? []).map(words).join(BLOCKS.has(node.type) ? '\n' : ''));
const BLOCKS = new Set(['doc', 'bulletList', 'orderedList', 'listItem', 'blockquote', 'table', 'tableRow']);

/** Words of a text, as a person counts them. */
export const wordCount = (node: RichNode): number =>
  words(node).match(/[\p{L}\p{N}]+(?:[’'.,:-][\p{L}\p{N}]+)*/gu)?.length ?? 0;

/** Whether two nodes say the same; where they came from, and what stands by itself (null, empty), does not count. */
export function sameRich(one: RichNode, other: RichNode): boolean {
  return JSON.stringify(plain(one)) === JSON.stringify(plain(other));
}

/** Without what an editor adds, in one order. */
function plain(node: RichNode): unknown {
  const attrs = Object.entries(node.attrs ?? {})
    .filter(
      ([name, value]) =>
        name !== ORIGIN && KEPT.has(name) && value !== null && value !== false && value !== '',
    )
    .sort(([a], [b]) => (a < b ? -1 : 1));
  const marks = (node.marks ?? [])
    .map(({ type, attrs: of }) => [type, of?.href ?? '', of?.title ?? '', of?.tag ?? ''])
    .sort(([a], [b]) => (String(a) < String(b) ? -1 : 1));
  return [node.type, attrs, marks, node.text ?? '', joined(node.content ?? []).map(plain)];
}
/** What tells one node from another of its kind. */
const KEPT = new Set('level start language align src alt title what loose key tag name'.split(' '));

/** Texts with the same marks that follow each other are one. */
function joined(nodes: readonly RichNode[]): RichNode[] {
  const all: RichNode[] = [];
  for (const node of nodes) {
    const last = all.at(-1);
    const marks = (of: RichNode) => JSON.stringify(plain({ type: '', marks: of.marks ?? [] }));
    if (node.type === 'text' && last?.type === 'text' && marks(node) === marks(last))
      all[all.length - 1] = { ...last, text: `${last.text}${node.text}` };
    else all.push(node);
  }
  return all;
}
