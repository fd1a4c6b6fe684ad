/**
 * A text in HTML as an editor holds it: a fragment, or of a page what its `main` holds. What the editor has no node for stays as it is, in its
 * place. Every node knows of which part of the file it came.
 */
import { trim } from '../text/cut.ts';
import { KEPT_BLOCK, KEPT_INLINE, ORIGIN, type RichNode } from '../document/rich.ts';
import {
  BLANKS,
  isBlank,
  isElement,
  isText,
  placedContent,
  type PlacedElement,
  type PlacedNode,
} from './placed-tree.ts';
import { isInline, NotPlain, readInline, said, type ReadInline, type Sources } from './read-inline.ts';

/** A part of the file that a node came from. */
export interface Part {
  node: RichNode;
  /** Of its element; '': running text that stands in none of its own. */
  name: string;
  from: number;
  inner: number;
  innerEnd: number;
  to: number;
  /** Numbers of the parts in it, in order. */
  parts: number[];
  /** The running text that it holds. */
  inline?: ReadInline;
}
export interface ReadHtml extends Sources {
  text: string;
  /** The first is the whole. */
  parts: Part[];
  doc: RichNode;
  /** What the editor can't change, each kind with how often. */
  asItIs: { what: string; times: number }[];
  /** The element of a page whose content it is; null: the text is a fragment, and all of it. */
  part: string | null;
}

/** An element around blocks that the editor shows as a box; what it is is kept. */
export const BOX = 'box';

const BOXES = new Set(
  'div section article header footer main aside nav address hgroup figure figcaption details summary dl dt dd center a'.split(
    ' ',
  ),
);
const HEADING = /^h([1-6])$/;

/** @param text with line feeds @param options `merged`: tables with merged cells are read too, to be shown and not to be written */
export function readHtml(text: string, { merged = false } = {}): ReadHtml {
  const root = placedContent(text);
  const read: ReadHtml = {
    text,
    parts: [],
    tags: [],
    kept: [],
    doc: { type: 'doc' },
    asItIs: [],
    part: root.part,
  };
  new Reader(read, merged).whole(root);
  const kept = new Map<string, number>();
  const count = (node: RichNode) => {
    const { what } = node.attrs ?? {};
    if (node.type === KEPT_BLOCK || node.type === KEPT_INLINE)
      kept.set(String(what), (kept.get(String(what)) ?? 0) + 1);
    node.content?.forEach(count);
  };
  count(read.doc);
  read.asItIs = [...kept].map(([what, times]) => ({ what, times }));
  return read;
}

class Reader {
  private readonly read: ReadHtml;
  private readonly merged: boolean;
  constructor(read: ReadHtml, merged: boolean) {
    this.read = read;
    this.merged = merged;
  }

  whole(root: Omit<PlacedElement, 'name' | 'attributes'>): void {
    const number = this.begin('', root);
    const content = root.sound
      ? this.flow(root, number)
      : [
          this.keep(
            { ...root, from: root.inner, to: root.innerEnd },
            number,
            'HTML that a browser has to mend',
            '',
          ),
        ];
    this.read.doc = this.end(number, {
      type: 'doc',
      content: content.length > 0 ? content : [{ type: 'paragraph' }],
    });
  }

  /** A part begins; it gets its node when all in it is read. */
  private begin(
    name: string,
    { from, inner, innerEnd, to }: Pick<Part, 'from' | 'inner' | 'innerEnd' | 'to'>,
    parent?: number,
  ): number {
    const number =
      this.read.parts.push({ node: { type: '' }, name, from, inner, innerEnd, to, parts: [] }) - 1;
    if (parent !== undefined) this.read.parts[parent]!.parts.push(number);
    return number;
  }
  private end(number: number, node: RichNode): RichNode {
    const made = number === 0 ? node : { ...node, attrs: { ...node.attrs, [ORIGIN]: number } };
    this.read.parts[number]!.node = made;
    return made;
  }

  private keep(
    { from, to }: Pick<Part, 'from' | 'to'>,
    parent: number,
    what: string,
    says: string,
  ): RichNode {
    const number = this.begin('', { from, inner: from, innerEnd: to, to }, parent);
    return this.end(number, { type: KEPT_BLOCK, attrs: { what, says } });
  }

  /** Blocks, and the running text between them. */
  private flow({ children }: Pick<PlacedElement, 'children'>, parent: number): RichNode[] {
    const content: RichNode[] = [];
    let run: PlacedNode[] = [];
    const settle = () => {
      const isGap = (node: PlacedNode) => (isText(node) ? isBlank(node.text) : !isElement(node));
      const first = run.findIndex((node) => !isGap(node));
      const last = run.findLastIndex((node) => !isGap(node));
      if (first >= 0) content.push(this.bare(run.slice(first, last + 1), parent));
      run = [];
    };
    for (const node of children) {
      if (isInline(node)) run.push(node);
      else {
        settle();
        if (isElement(node)) content.push(this.block(node, parent));
      }
    }
    settle();
    return content;
  }

  /** Running text that stands in no paragraph of its own. */
  private bare(run: readonly PlacedNode[], parent: number): RichNode {
    let [from, to] = [run[0]!.from, run.at(-1)!.to];
    const { text } = this.read;
    const [first, last] = [run[0]!, run.at(-1)!];
    if (isText(first)) from = first.to - trim(text.slice(from, first.to), BLANKS, 'start').length;
    if (isText(last)) {
      const start = Math.max(last.from, from);
      to = start + trim(text.slice(start, to), BLANKS, 'end').length;
    }
    const within = run.map((node) =>
      isText(node) ? cut(node, Math.max(node.from, from), Math.min(node.to, to), text) : node,
    );
    return this.running('', { type: 'paragraph' }, { from, inner: from, innerEnd: to, to }, within, parent);
  }

  private running(
    name: string,
    node: RichNode,
    span: Pick<Part, 'from' | 'inner' | 'innerEnd' | 'to'>,
    nodes: readonly PlacedNode[],
    parent: number,
  ): RichNode {
    const [tags, kept] = [this.read.tags.length, this.read.kept.length];
    try {
      const inline = readInline(this.read.text, nodes, span.inner, span.innerEnd, this.read);
      const number = this.begin(name, span, parent);
      this.read.parts[number]!.inline = inline;
      const { content } = inline;
      return this.end(number, content.length > 0 ? { ...node, content } : node);
    } catch (error) {
      if (!(error instanceof NotPlain)) throw error;
      this.read.tags.length = tags;
      this.read.kept.length = kept;
      return this.keep(span, parent, 'HTML that a browser has to mend', nodes.map(said).join(' '));
    }
  }

  private block(node: PlacedElement, parent: number): RichNode {
    const { name, children } = node;
    const asIs = (what: string) => this.keep(node, parent, what, said(node));
    if (!node.sound) return asIs('HTML that a browser has to mend');
    const heading = HEADING.exec(name)?.[1];
    if ((name === 'p' || heading) && children.every(isInline)) {
      const shown: RichNode = heading
        ? { type: 'heading', attrs: { level: Number(heading) } }
        : { type: 'paragraph' };
      return this.running(name, shown, node, children, parent);
    }
    if (name === 'hr') return this.end(this.begin(name, node, parent), { type: 'horizontalRule' });
    if (name === 'ul' || name === 'ol')
      return this.list(node, parent) ?? asIs('list with other things in it');
    if (name === 'table') return this.table(node, parent) ?? asIs('table with merged cells');
    if (name === 'blockquote') return this.around(node, parent, 'blockquote');
    if (BOXES.has(name)) return this.around(node, parent, BOX, { name });
    return asIs(WHAT[name] ?? `“${name}”`);
  }

  private around(
    node: PlacedElement,
    parent: number,
    type: string,
    attrs: Record<string, unknown> = {},
  ): RichNode {
    const number = this.begin(node.name, node, parent);
    const content = this.flow(node, number);
    return this.end(number, {
      type,
      ...(Object.keys(attrs).length > 0 ? { attrs } : {}),
      content: content.length > 0 ? content : [{ type: 'paragraph' }],
    });
  }

  private list(node: PlacedElement, parent: number): RichNode | undefined {
    if (!onlyElements(node, ['li']) || 'reversed' in node.attributes) return undefined;
    const number = this.begin(node.name, node, parent);
    const items = node.children.filter(isElement).map((item) => this.around(item, number, 'listItem'));
    if (node.name === 'ul') return this.end(number, { type: 'bulletList', content: items });
    const start = firstNumber(node.attributes['start']);
    return this.end(number, { type: 'orderedList', attrs: { start }, content: items });
  }

  private table(node: PlacedElement, parent: number): RichNode | undefined {
    const groups = node.children.filter(isElement).flatMap((one) => (GROUPS.has(one.name) ? [one] : []));
    const isWhole =
      onlyElements(node, ['caption', 'colgroup', ...GROUPS]) &&
      groups.every((group) => onlyElements(group, ['tr']));
    const rows = groups.flatMap((group) => group.children.filter(isElement));
    const cellsOf = (row: PlacedElement) => row.children.filter(isElement);
    const isGrid = rows.every((row) => onlyElements(row, ['td', 'th']));
    if (!isWhole || !isGrid || rows.length === 0 || cellsOf(rows[0]!).length === 0) return undefined;
    const isPlain = rows.every(
      (row) =>
        cellsOf(row).length === cellsOf(rows[0]!).length &&
        cellsOf(row).every((cell) => spanOf(cell, 'colspan') === 1 && spanOf(cell, 'rowspan') === 1),
    );
    if (!isPlain && !this.merged) return undefined;
    const number = this.begin(node.name, node, parent);
    const content = rows.map((row) => {
      const at = this.begin(row.name, row, number);
      const cells = cellsOf(row).map((cell) =>
        this.around(cell, at, cell.name === 'th' ? 'tableHeader' : 'tableCell'),
      );
      return this.end(at, { type: 'tableRow', content: cells });
    });
    if (!isPlain) spread(content, rows.map(cellsOf));
    return this.end(number, { type: 'table', content });
  }
}

/** Columns and rows that a merged cell is spread over at most. */
const MOST_SPREAD = 100;
function spanOf({ attributes }: PlacedElement, side: 'colspan' | 'rowspan'): number {
  const said = Number.parseInt(attributes[side] ?? '1', 10);
  return said >= 1 ? Math.min(said, MOST_SPREAD) : 1;
}

/** Gives each row as many cells: in place of a merged one, and at the ends of shorter rows, empty ones stand. */
function spread(rows: readonly RichNode[], cells: readonly (readonly PlacedElement[])[]): void {
  /** Of each column, rows that a cell above still takes. */
  const taken: number[] = [];
  for (const [at, row] of rows.entries()) {
    const content: RichNode[] = [];
    const free = () => {
      while ((taken[content.length] ?? 0) > 0) {
        taken[content.length]!--;
        content.push(EMPTY_CELL);
      }
    };
    for (const [order, cell] of cells[at]!.entries()) {
      free();
      const below = spanOf(cell, 'rowspan') - 1;
      const wide = spanOf(cell, 'colspan');
      for (let column = 0; column < wide; column++) {
        taken[content.length] = below;
        content.push(column === 0 ? row.content![order]! : EMPTY_CELL);
      }
    }
    free();
    row.content = content;
  }
  const width = Math.max(...rows.map(({ content }) => content!.length));
  for (const row of rows)
    row.content!.push(...Array.from({ length: width - row.content!.length }, () => EMPTY_CELL));
}
const EMPTY_CELL: RichNode = { type: 'tableCell', content: [{ type: 'paragraph' }] };

/** The number that a list begins with. */
export function firstNumber(start: string | undefined): number {
  const number = Number.parseInt(start ?? '', 10);
  return Number.isNaN(number) ? 1 : number;
}

const GROUPS = new Set(['thead', 'tbody', 'tfoot']);

/** What isn't seen may stand between them. */
const onlyElements = ({ sound, children }: PlacedElement, names: readonly string[]): boolean =>
  sound &&
  children.every((child) =>
    isText(child) ? isBlank(child.text) : !isElement(child) || (names.includes(child.name) && child.sound),
  );

/** What is kept as it is, in words. */
const WHAT: Readonly<Record<string, string>> = {
  script: 'script',
  style: 'style sheet',
  form: 'form',
  iframe: 'embedded page',
  video: 'video',
  audio: 'audio',
  object: 'embedded object',
  embed: 'embedded object',
  pre: 'preformatted text',
  template: 'template',
  noscript: 'text for browsers without scripts',
  canvas: 'drawing area',
  map: 'image map',
};

/** A piece of a text; blanks and words stand in it as they are written. */
function cut(
  node: Extract<PlacedNode, { text: string }>,
  from: number,
  to: number,
  text: string,
): PlacedNode {
  if (from === node.from && to === node.to) return node;
  const lead = text.slice(node.from, from).length;
  const rest = text.slice(to, node.to).length;
  return { text: node.text.slice(lead, node.text.length - rest), from, to };
}
