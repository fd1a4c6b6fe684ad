/**
 * What an editor holds, as HTML. A block that is as it was is written as it was, byte for byte; of a changed one, its tags, the blocks in it
 * that nobody touched, what stands between them, and each word that stayed.
 */
import { KEPT_BLOCK, ORIGIN, sameRich, type RichNode } from '../document/rich.ts';
import { firstNumber, readHtml, type Part, type ReadHtml } from './read-html.ts';
import { isBlank } from './placed-tree.ts';
import { renamed, valueOf, withAttribute, withoutId } from './start-tag.ts';
import { InlineWriter, trimmed } from './write-inline.ts';

/**
 * @param read what it was read as
 * @param doc what the editor holds now
 * @returns `differs`: read again, it says something else than the editor holds; what, in words
 */
export function writeHtml(read: ReadHtml, doc: RichNode): { text: string; differs: string | undefined } {
  const root = read.parts[0]!;
  const writer = new Writer(read, doc);
  const inner = sameRich(root.node, doc)
    ? read.text.slice(root.inner, root.innerEnd)
    : writer.within(root, doc, '\n');
  const text = read.text.slice(0, root.inner) + inner + read.text.slice(root.innerEnd);
  const again = readHtml(text);
  const [now, then] = [told(doc, read), told(again.doc, again)];
  if (sameRich(now, then)) return { text, differs: undefined };
  const other = (now.content ?? []).find(
    (node, at) => !then.content?.[at] || !sameRich(node, then.content[at]),
  );
  return { text, differs: wordsOf(other ?? now.content?.at(-1)) };
}

const wordsOf = (node: RichNode | undefined): string => {
  const said = (one: RichNode): string => one.text ?? (one.content ?? []).map(said).join(' ');
  return node ? said(node).slice(0, 60).trim() : '';
};

/** As it is compared: without where it came from, and without what nobody sees. */
function told(node: RichNode, read: ReadHtml): RichNode {
  const attrs = (of: Record<string, unknown> = {}) => {
    const { tag, key, [ORIGIN]: _, ...others } = of;
    return { ...others, ...(typeof key === 'number' ? { key: read.kept[key] } : {}) };
  };
  const content = (INLINE.has(node.type) ? trimmed(node.content ?? []) : (node.content ?? [])).map((one) =>
    told(one, read),
  );
  return {
    ...node,
    attrs: attrs(node.attrs),
    ...(node.marks ? { marks: node.marks.map((mark) => ({ ...mark, attrs: attrs(mark.attrs) })) } : {}),
    content: content.filter((one) => !isNothing(one)),
  };
}
const INLINE = new Set(['paragraph', 'heading']);

/** An empty paragraph is what an editor shows for nothing. */
const isNothing = (node: RichNode): boolean =>
  node.type === 'paragraph' && trimmed(node.content ?? []).length === 0;

const TAGS: Readonly<Record<string, string>> = {
  paragraph: 'p',
  bulletList: 'ul',
  orderedList: 'ol',
  listItem: 'li',
  blockquote: 'blockquote',
  horizontalRule: 'hr',
  table: 'table',
  tableRow: 'tr',
  tableHeader: 'th',
  tableCell: 'td',
  box: 'div',
};

interface Gaps {
  head: string;
  gaps: string[];
  tail: string;
}
/** What a block stands in; of a new element there is no part. */
interface Around {
  part: Part | undefined;
  node: RichNode;
}
interface Piece {
  text: string;
  /** Its place among the parts of what it stands in; undefined: it is new there. */
  at: number | undefined;
  isBare: boolean;
}

class Writer {
  private readonly read: ReadHtml;
  /** Of each part, the node that it became: of several, such as the two of a split paragraph, the one that is most like it. */
  private readonly became = new Map<number, RichNode>();
  private readonly inline: InlineWriter;
  constructor(read: ReadHtml, doc: RichNode) {
    this.read = read;
    this.inline = new InlineWriter(read);
    this.trace(doc);
  }

  private trace(node: RichNode): void {
    for (const one of node.content ?? []) {
      const origin = one.attrs?.[ORIGIN];
      const part = typeof origin === 'number' && origin > 0 ? this.read.parts[origin] : undefined;
      const other = this.became.get(Number(origin));
      const isMore =
        !other ||
        (sameRich(part!.node, one) && !sameRich(part!.node, other)) ||
        (isNothing(other) && !isNothing(one));
      if (part && isMore) this.became.set(Number(origin), one);
      this.trace(one);
    }
  }

  /**
   * What stands between the tags of a part, or of a new element.
   * @param line what stands between two blocks where nothing else is known
   * @param model one of its kind beside a new one: it is laid out like that
   */
  within(part: Part | undefined, node: RichNode, line: string, model?: Part): string {
    const nodes = (node.content ?? []).filter((one) => !isNothing(one) || this.wasNothing(one));
    const { head, gaps, tail } = part ? this.gapsOf(part) : this.laidOut(node, line, model);
    const usual = usualOf(gaps, head, line);
    const pieces: Piece[] = [];
    for (const one of nodes) pieces.push(this.piece(one, { part, node }, usual, pieces.at(-1)));
    return joined(pieces, head, part ? gaps : [], tail, usual);
  }

  private partOf(node: RichNode): number | undefined {
    const origin = node.attrs?.[ORIGIN];
    return typeof origin === 'number' && this.became.get(origin) === node ? origin : undefined;
  }

  /** An empty paragraph that stood in the file. */
  private wasNothing(node: RichNode): boolean {
    const number = this.partOf(node);
    return number !== undefined && isNothing(this.read.parts[number]!.node);
  }

  private piece(node: RichNode, around: Around, line: string, before: Piece | undefined): Piece {
    const number = this.partOf(node);
    const part = number === undefined ? undefined : this.read.parts[number]!;
    const place = number === undefined ? -1 : (around.part?.parts.indexOf(number) ?? -1);
    const at = place < 0 ? undefined : place;
    const isBare = node.type === 'paragraph' && this.isBare(part, at, around, before);
    if (part && sameRich(part.node, node) && (node.type !== 'paragraph' || isBare === (part.name === ''))) {
      this.inline.seen(node);
      return { at, text: this.read.text.slice(part.from, part.to), isBare };
    }
    if (node.type === KEPT_BLOCK) return { at, text: this.keptOf(node), isBare };
    if (INLINE.has(node.type)) {
      const text = this.inline.write(node, part?.inline);
      return { at, text: isBare ? text : this.wrapped(part, node, text), isBare };
    }
    const beside = around.part?.parts.map((one) => this.read.parts[one]!);
    const model = beside?.find((one) => one.node.type === node.type && one.parts.length > 0);
    return { at, text: this.wrapped(part, node, this.within(part, node, line, model)), isBare };
  }

  /** Whether a paragraph stands without tags of its own: as it did, or as one in an item or a cell does. Two of them would be one. */
  private isBare(
    part: Part | undefined,
    at: number | undefined,
    around: Around,
    before: Piece | undefined,
  ): boolean {
    if (before?.isBare) return false;
    if (part?.name === '' && at !== undefined) return true;
    if (before || !(ITEMS.has(around.node.type) || LIKE_ITEMS.has(around.part?.name ?? ''))) return false;
    if (part)
      return at === undefined && (part.name === '' || this.read.text.slice(part.from, part.inner) === '<p>');
    return !around.part?.parts.some((one) => this.read.parts[one]!.name === 'p');
  }
  /** One that stands twice has come from the same part. */
  private keptOf(node: RichNode): string {
    const part = this.read.parts[Number(node.attrs?.[ORIGIN])];
    return part ? this.read.text.slice(part.from, part.to) : '';
  }

  private wrapped(part: Part | undefined, node: RichNode, inner: string): string {
    const name = node.type === 'heading' ? `h${Number(node.attrs?.['level'])}` : (TAGS[node.type] ?? 'div');
    const from = this.read.parts[Number(node.attrs?.[ORIGIN])];
    // What came from one that is there already looks like it.
    const like =
      part ??
      (from && from.name !== '' && INLINE.has(from.node.type) && INLINE.has(node.type) ? from : undefined);
    if (name === 'hr' && !part) return '<hr>';
    if (!like || like.name === '') return `${numbered(`<${name}>`, node)}${inner}</${name}>`;
    const tag = this.read.text.slice(like.from, like.inner);
    const start = numbered(part ? tag : withoutId(tag), node);
    const stays = like.node.type === node.type && like.node.attrs?.['level'] === node.attrs?.['level'];
    if (!stays) return `${renamed(start, name)}${inner}</${name}>`;
    return start + inner + (part ? this.read.text.slice(part.innerEnd, part.to) : `</${like.name}>`);
  }

  /** What stands around the blocks of a new element. */
  private laidOut(node: RichNode, line: string, model: Part | undefined): Gaps {
    if (!model)
      return LINES.has(node.type)
        ? { head: line, gaps: [line], tail: line }
        : { head: '', gaps: [], tail: '' };
    const { head, gaps, tail } = this.gapsOf(model);
    const blank = (gap: string) => (isBlank(gap) ? gap : '');
    return { head: blank(head), gaps: gaps.filter(isBlank), tail: blank(tail) };
  }

  private gapsOf(part: Part): Gaps {
    const { text, parts } = this.read;
    const all = part.parts.map((number) => parts[number]!);
    if (all.length === 0) return { head: text.slice(part.inner, part.innerEnd), gaps: [], tail: '' };
    return {
      head: text.slice(part.inner, all[0]!.from),
      gaps: all.slice(1).map(({ from }, at) => text.slice(all[at]!.to, from)),
      tail: text.slice(all.at(-1)!.to, part.innerEnd),
    };
  }
}

/** The start tag of a numbered list says what it begins with. */
function numbered(tag: string, { type, attrs }: RichNode): string {
  if (type !== 'orderedList') return tag;
  const start = Number(attrs?.['start'] ?? 1);
  return firstNumber(valueOf(tag, 'start')) === start
    ? tag
    : withAttribute(tag, 'start', start === 1 ? null : String(start));
}

/** In which a new paragraph needs no tags of its own. */
const ITEMS = new Set(['listItem', 'tableHeader', 'tableCell']);
const LIKE_ITEMS = new Set(['dt', 'dd', 'figcaption', 'summary']);
/** Whose blocks stand on lines of their own. */
const LINES = new Set(['bulletList', 'orderedList', 'table', 'blockquote', 'box']);

/** What stands between two blocks as a rule. */
function usualOf(gaps: readonly string[], head: string, line: string): string {
  const plain = gaps.filter(isBlank);
  const often = new Map<string, number>();
  for (const gap of plain) often.set(gap, (often.get(gap) ?? 0) + 1);
  const [most] = [...often].sort(([, a], [, b]) => b - a);
  if (most) return most[0];
  return isBlank(head) && head.includes('\n') ? head : line;
}

/** Blocks with what stands between them. What is more than blanks there, such as where a table's body begins, stands once, and in its order. */
function joined(
  pieces: readonly Piece[],
  head: string,
  gaps: readonly string[],
  tail: string,
  usual: string,
): string {
  let text = head;
  let next = 0;
  /** What has to stand before the part of this number. */
  const upTo = (at: number): string => {
    const passed = gaps.slice(next, at).filter((gap) => !isBlank(gap));
    next = Math.max(next, at);
    return passed.join('');
  };
  let last: number | undefined;
  for (const [order, { text: written, at }] of pieces.entries()) {
    if (at !== undefined && at === next + 1 && last === next) {
      text += gaps[next]!;
      next = at;
    } else if (at !== undefined) {
      const between = upTo(at);
      text += between || (order > 0 ? usual : '');
    } else if (last !== undefined && next === last && /<\/thead/i.test(gaps[last] ?? '')) {
      text += gaps[last]!;
      next = last + 1;
    } else if (order > 0) text += usual;
    text += written;
    last = at;
  }
  return text + upTo(gaps.length) + tail;
}
