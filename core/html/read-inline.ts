/** Running text within an element of HTML, as an editor holds it; and its source in pieces, so that what stays is written as it was. */
import { decodeHTML } from 'entities';
import { KEPT_INLINE, type Mark, type RichNode } from '../document/rich.ts';
import { isBlank, isElement, isText, type PlacedElement, type PlacedNode } from './placed-tree.ts';

/** A word, a blank, a tag or something kept: `key` says what it is, `source` how it is written. */
export interface Token {
  key: string;
  source: string;
  /** Blanks after it that nobody sees. */
  unseen: string;
}
/** Start tags as they are written, and what is kept as it is: nodes and marks name them by their number. */
export interface Sources {
  tags: { source: string; end: string; depth: number }[];
  kept: string[];
}
export interface ReadInline {
  content: RichNode[];
  /** Blanks before the first of them. */
  head: string;
  tokens: Token[];
}

/** It isn't plain running text. */
export class NotPlain extends Error {}

const MARKS: Readonly<Record<string, Mark['type']>> = {
  strong: 'bold',
  b: 'bold',
  em: 'italic',
  i: 'italic',
  u: 'underline',
  s: 'strike',
  strike: 'strike',
  del: 'strike',
  code: 'code',
  a: 'link',
};
/** Elements of running text that are shown as the text in them, and stay around it. */
const WRAPS = new Set(
  'abbr acronym b bdi bdo big cite data dfn font ins kbd label mark nobr q ruby samp small span sub sup time tt var'.split(
    ' ',
  ),
);

/** What stands among letters and is one thing, in words. */
const ATOMS: Readonly<Record<string, string>> = {
  br: 'line break',
  img: 'image',
  wbr: 'place to break a word',
  picture: 'picture',
  svg: 'drawing',
  button: 'button',
  input: 'field',
  select: 'field',
};

/** Whether a node belongs to running text and not to a block of its own; an element around blocks does not. */
export const isInline = (node: PlacedNode): boolean =>
  !isElement(node) ||
  node.name in ATOMS ||
  ((node.name in MARKS || WRAPS.has(node.name)) && node.children.every(isInline));

export const startKey = (tag: number): string => `<${tag}`;
export const endKey = (tag: number): string => `</${tag}`;

/**
 * @param text of the file
 * @param sources to which those of this text are added
 * @throws NotPlain
 */
export function readInline(
  text: string,
  nodes: readonly PlacedNode[],
  from: number,
  to: number,
  sources: Sources,
): ReadInline {
  const content: RichNode[] = [];
  const tokens: Token[] = [];
  let head = '';
  /** A blank that has been read, and is written once something follows it. */
  let blank: { source: string; marks: readonly Mark[] } | undefined;
  let atStart = true;

  const add = (key: string, source: string) => tokens.push({ key, source, unseen: '' });
  /** What is not seen goes along with what stands before it. */
  const along = (source: string) => {
    const last = tokens.at(-1);
    if (last) last.unseen += source;
    else head += source;
  };
  const put = (node: RichNode, marks: readonly Mark[]) => {
    const last = content.at(-1);
    if (node.text !== undefined && last?.text !== undefined && last.marks === marks)
      content[content.length - 1] = { ...last, text: last.text + node.text };
    else content.push({ ...node, marks: marks as Mark[] });
  };
  const settleBlank = () => {
    if (!blank) return;
    put({ type: 'text', text: ' ' }, blank.marks);
    blank = undefined;
  };
  const words = (source: string, marks: readonly Mark[]) => {
    for (const piece of source.split(/([ \t\n\f\r]+|&nbsp;|\u00a0)/)) {
      if (piece === '') continue;
      if (isBlank(piece)) {
        if (atStart || blank) along(piece);
        else {
          add(' ', piece);
          blank = { source: piece, marks };
        }
        continue;
      }
      settleBlank();
      const word = decodeHTML(piece);
      add(word, piece);
      put({ type: 'text', text: word }, marks);
      atStart = false;
    }
  };
  const keep = (node: { from: number; to: number }, what: string, says: string, marks: readonly Mark[]) => {
    settleBlank();
    const source = text.slice(node.from, node.to);
    const key = sources.kept.push(source) - 1;
    add(`kept ${source}`, source);
    put({ type: KEPT_INLINE, attrs: { key, what, says } }, marks);
    atStart = false;
  };
  const walk = (all: readonly PlacedNode[], marks: readonly Mark[], depth: number) => {
    for (const node of all) {
      if (isText(node)) {
        const source = text.slice(node.from, node.to);
        if (decodeHTML(source) !== node.text) throw new NotPlain('A tag of nothing stands in it.');
        words(source, marks);
      } else if (!isElement(node)) keep(node, 'comment', '', marks);
      else element(node, marks, depth);
    }
  };
  const element = (node: PlacedElement, marks: readonly Mark[], depth: number) => {
    const { name, attributes } = node;
    if (name === 'br' && Object.keys(attributes).length === 0) {
      // A blank before the end of a line isn't seen.
      if (blank) dropLastBlank(tokens);
      blank = undefined;
      add('<br', text.slice(node.from, node.to));
      put({ type: 'hardBreak' }, marks);
      atStart = true;
      return;
    }
    if (name === 'img') {
      settleBlank();
      const source = text.slice(node.from, node.to);
      const tag = sources.tags.push({ source, end: '', depth }) - 1;
      add(startKey(tag), source);
      const { src = '', alt = '', title = null } = attributes;
      put({ type: 'image', attrs: { src, alt, title, tag } }, marks);
      atStart = false;
      return;
    }
    const isMark = !(name in ATOMS) && isInline(node) && node.sound;
    if (!isMark || !saysAnything(node)) {
      keep(node, whatOf(node), said(node), marks);
      return;
    }
    const source = text.slice(node.from, node.inner);
    const end = text.slice(node.innerEnd, node.to);
    const tag = sources.tags.push({ source, end, depth }) - 1;
    const type = name in MARKS && (name !== 'a' || 'href' in attributes) ? MARKS[name]! : 'wrap';
    const href = type === 'link' ? { href: attributes['href'], title: attributes['title'] ?? null } : {};
    add(startKey(tag), source);
    walk(node.children, [...marks, { type, attrs: { tag, ...href } }], depth + 1);
    add(endKey(tag), end);
  };
  walk(nodes, [], 0);
  if (blank) dropLastBlank(tokens);
  for (const [at, node] of content.entries()) {
    const { marks, ...bare } = node;
    content[at] = marks!.length > 0 ? { ...bare, marks: [...marks!] } : bare;
  }
  const whole = head + tokens.map(({ source, unseen }) => source + unseen).join('');
  if (whole !== text.slice(from, to)) throw new NotPlain('Something else stands in it.');
  return { content, head, tokens };
}

/** A blank at the end that isn't seen, within an element: it goes along with what stands before it. */
function dropLastBlank(tokens: Token[]): void {
  const at = tokens.findLastIndex(({ key }) => key === ' ');
  const [{ source, unseen }] = tokens.splice(at, 1) as [Token];
  tokens[at - 1]!.unseen += source + unseen;
}

const saysAnything = (node: PlacedNode): boolean =>
  isText(node)
    ? !isBlank(node.text)
    : isElement(node) && (node.name === 'img' || node.children.some(saysAnything));

const whatOf = ({ name, attributes }: PlacedElement): string =>
  ATOMS[name] ?? (name === 'a' && !('href' in attributes) ? 'anchor' : `“${name}”`);

/** What something kept says, for people. */
export const said = (node: PlacedNode): string =>
  (isText(node)
    ? node.text
    : !isElement(node) || ['script', 'style'].includes(node.name)
      ? ''
      : (node.attributes['alt'] ?? node.children.map(said).join(' '))
  )
    .replace(/\s+/g, ' ')
    .trim()
    .slice(0, 200);
