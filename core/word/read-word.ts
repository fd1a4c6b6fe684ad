/**
 * A WordprocessingML document (ECMA-376, part 1) as an editor holds it. What the editor has no node for is kept as it is: among letters, or as a
 * block of its own.
 */
import { KEPT_BLOCK, KEPT_INLINE, ORIGIN, type Mark, type RichNode } from '../document/rich.ts';
import {
  KeptWhole,
  LOOK_NAMES,
  readParagraph,
  shownIn,
  type Letter,
  type ReadParagraph,
} from './paragraph.ts';
import { childOf, tagOf, within, type Placed } from './tree.ts';
import { listIn, openWord, valueOf, type WordParts } from './word-parts.ts';
import { attributeOf } from '../office/xml-tags.ts';

/** How an image of the document is named in the editor: by its part. */
export const PART = 'part:';

export type ListKind = 'bulletList' | 'orderedList';
/** Where a node came from. */
export interface Source {
  element: Placed;
  /** What it was read as. */
  node: RichNode;
  paragraph?: ReadParagraph;
  /** What it is among headings and lists. */
  is?: ParagraphKind;
}
/** Where an item stands: how many lists it lies in, from 0, and the list and the level that the document says. */
export interface ListPlace {
  kind: ListKind;
  depth: number;
  id: string;
  level: number;
}
export interface ParagraphKind {
  /** 0: no heading. */
  level: number;
  list: ListPlace | undefined;
}

export interface ReadWord {
  parts: WordParts;
  doc: RichNode;
  /** By ORIGIN of the nodes. */
  sources: readonly Source[];
  /** What the editor can't change, each kind with how often. */
  kept: { what: string; times: number }[];
}

/** @throws UnreadableOffice */
export function readWord(packed: Uint8Array): ReadWord {
  const parts = openWord(packed);
  const body = childOf(childOf(parts.tree, 'w:document'), 'w:body')!;
  const reader = new Reader(parts);
  const content = reader.blocks(body.children);
  const first = content[0] ?? { type: 'paragraph' };
  return {
    parts,
    doc: { type: 'doc', content: content.length > 0 ? content : [first] },
    sources: reader.sources,
    kept: [...reader.kept].map(([what, times]) => ({ what, times })),
  };
}

/** Elements between blocks that show nothing: they stay where they are. */
const UNSEEN = new Set([
  'w:sectPr',
  'w:bookmarkStart',
  'w:bookmarkEnd',
  'w:commentRangeStart',
  'w:commentRangeEnd',
  'w:permStart',
  'w:permEnd',
  'w:proofErr',
]);
const WHOLE: Readonly<Record<string, string>> = {
  'w:tbl': 'tables with merged cells',
  'w:sdt': 'content controls',
  'w:altChunk': 'parts in another form',
  'm:oMathPara': 'formulas',
  'w:ins': 'tracked changes',
  'w:del': 'tracked changes',
};

class Reader {
  readonly sources: Source[] = [];
  readonly kept = new Map<string, number>();
  /** On which level the items of a list stand. */
  private readonly levels = new WeakMap<RichNode, number>();
  /** How many fields have begun in an earlier paragraph and not ended. */
  private open = 0;

  constructor(private readonly parts: WordParts) {}

  blocks(children: readonly Placed[]): RichNode[] {
    const found: RichNode[] = [];
    for (const one of children) {
      if (UNSEEN.has(one.name)) continue;
      const node = this.block(one);
      const at = this.sources[node.attrs![ORIGIN] as number]!.is?.list;
      if (at) addToList(found, node, at, this.levels);
      else found.push(node);
    }
    return found;
  }

  private block(one: Placed): RichNode {
    if (one.name === 'w:p') return this.paragraph(one);
    if (one.name === 'w:tbl' && this.isPlain(one)) return this.table(one);
    return this.whole(one, WHOLE[one.name] ?? 'other elements');
  }
  /** A node that knows where it came from. */
  private from(node: RichNode, source: Omit<Source, 'node'>): RichNode {
    const made = { ...node, attrs: { ...node.attrs, [ORIGIN]: this.sources.length } };
    this.sources.push({ ...source, node: made });
    return made;
  }
  private count(what: string) {
    this.kept.set(what, (this.kept.get(what) ?? 0) + 1);
  }
  private whole(one: Placed, what: string): RichNode {
    this.count(what);
    const says = [...within(one, 'w:p')].map((line) => shownIn(this.parts.xml, line)).join('\n');
    const attrs = { what, says: says || shownIn(this.parts.xml, one) };
    return this.from({ type: KEPT_BLOCK, attrs }, { element: one });
  }

  private paragraph(one: Placed): RichNode {
    const { xml } = this.parts;
    const before = this.open;
    for (const field of within(one, 'w:fldChar')) {
      const type = attributeOf(tagOf(xml, field), 'w:fldCharType');
      this.open += type === 'begin' ? 1 : type === 'end' ? -1 : 0;
    }
    if (before > 0 || this.open > 0) return this.whole(one, 'fields');
    let paragraph: ReadParagraph;
    try {
      paragraph = readParagraph(this.parts, one);
    } catch (error) {
      if (error instanceof KeptWhole) return this.whole(one, error.message);
      throw error;
    }
    const is = this.kindOf(childOf(one, 'w:pPr'));
    for (const { kept } of paragraph.letters) if (kept && !kept.image) this.count(`${kept.what}s`);
    const content = inlineOf(paragraph.letters, this.sources.length);
    const node: RichNode = {
      ...(is.level > 0
        ? { type: 'heading', attrs: { level: Math.min(is.level, 6) } }
        : { type: 'paragraph' }),
      ...(content.length > 0 ? { content } : {}),
    };
    return this.from(node, { element: one, paragraph, is });
  }

  private kindOf(properties: Placed | undefined): ParagraphKind {
    const { xml, styles } = this.parts;
    const style = styles.get(valueOf(xml, childOf(properties, 'w:pStyle')) ?? '');
    const outline = valueOf(xml, childOf(properties, 'w:outlineLvl'));
    const level = outline === undefined ? (style?.level ?? 0) : (Number(outline) + 1) % 10;
    const at = listIn(xml, properties) ?? style?.list;
    // Headings with numbers are headings.
    const list = at && at.id !== '0' && level === 0 ? at : undefined;
    return {
      level,
      list: list && {
        kind: this.parts.isOrdered(list.id, list.level) ? 'orderedList' : 'bulletList',
        // Known once it is put into its list.
        depth: 0,
        ...list,
      },
    };
  }

  /** Whether every cell stands by itself, and holds paragraphs only. */
  private isPlain(table: Placed): boolean {
    const names = (of: Placed) => of.children.map(({ name }) => name);
    if (names(table).some((name) => !['w:tblPr', 'w:tblGrid', 'w:tr'].includes(name))) return false;
    const rows = table.children.filter(({ name }) => name === 'w:tr');
    return (
      rows.length > 0 &&
      rows.every(
        (row) =>
          names(row).every((name) => ['w:trPr', 'w:tblPrEx', 'w:tc'].includes(name)) &&
          names(row).includes('w:tc') &&
          [...within(row, 'w:trPr')].every(
            (one) => !/<w:(?:ins|del|gridBefore|gridAfter)\b/.test(this.slice(one)),
          ) &&
          row.children.every(
            (cell) =>
              cell.name !== 'w:tc' ||
              (names(cell).every((name) => ['w:tcPr', 'w:p'].includes(name)) &&
                !/<w:(?:vMerge|hMerge|gridSpan|cellIns|cellDel)\b/.test(this.slice(childOf(cell, 'w:tcPr')))),
          ),
      )
    );
  }
  private slice(of: Placed | undefined): string {
    return of ? this.parts.xml.slice(of.from, of.to) : '';
  }

  private table(one: Placed): RichNode {
    const rows = one.children.filter(({ name }) => name === 'w:tr');
    const content = rows.map((row) => {
      const isHead = /<w:tblHeader(?:\s*\/>|\s+w:val="(?:1|true|on)")/.test(
        this.slice(childOf(row, 'w:trPr')),
      );
      const cells = row.children.filter(({ name }) => name === 'w:tc');
      const read = cells.map((cell) => {
        const within = this.blocks(cell.children.filter(({ name }) => name === 'w:p'));
        return this.from({ type: isHead ? 'tableHeader' : 'tableCell', content: within }, { element: cell });
      });
      return this.from({ type: 'tableRow', content: read }, { element: row });
    });
    const grid = childOf(one, 'w:tblGrid')?.children ?? [];
    const widths = grid.map((column) => attributeOf(tagOf(this.parts.xml, column), 'w:w') ?? '');
    return this.from({ type: 'table', attrs: { widths: widths.join(' ') }, content }, { element: one });
  }
}

/** Puts an item where it belongs: into the list before it, on its level, or into one of its own. */
function addToList(
  blocks: RichNode[],
  node: RichNode,
  place: ListPlace,
  levels: WeakMap<RichNode, number>,
): void {
  let siblings = blocks;
  for (; ; place.depth++) {
    const last = siblings.at(-1);
    const isList = last?.type === 'bulletList' || last?.type === 'orderedList';
    const level = isList ? levels.get(last)! : 0;
    if (isList && level < place.level) {
      siblings = last.content!.at(-1)!.content!;
      continue;
    }
    const item: RichNode = { type: 'listItem', content: [node] };
    if (isList && last.type === place.kind && level === place.level) return void last.content!.push(item);
    const list: RichNode = { type: place.kind, content: [item] };
    levels.set(list, place.level);
    return void siblings.push(list);
  }
}

/** Letters as nodes: those that look the same are one text. */
function inlineOf(letters: readonly Letter[], origin: number): RichNode[] {
  const content: RichNode[] = [];
  letters.forEach(({ sign, run, link, kept }, at) => {
    if (kept) return void content.push(keptNode(kept, `${origin}.${at}`));
    if (sign === '\n') return void content.push({ type: 'hardBreak' });
    const marks = marksOf(run?.looks ?? [], link?.href);
    const last = content.at(-1);
    if (last?.type === 'text' && JSON.stringify(last.marks ?? []) === JSON.stringify(marks))
      last.text += sign;
    else content.push({ type: 'text', text: sign, ...(marks.length > 0 ? { marks } : {}) });
  });
  return content;
}

function keptNode({ what, says, image }: NonNullable<Letter['kept']>, key: string): RichNode {
  if (!image) return { type: KEPT_INLINE, attrs: { key, what, says } };
  const { part, alt, width, height } = image;
  return { type: 'image', attrs: { key, src: `${PART}${part}`, alt, width, height } };
}

const marksOf = (looks: readonly string[], href: string | undefined): Mark[] => [
  ...LOOK_NAMES.filter((look) => looks.includes(look)).map((type) => ({ type })),
  ...(href ? [{ type: 'link' as const, attrs: { href } }] : []),
];

/** What a document says, a line for each paragraph and each row of a table, to be compared. @throws UnreadableOffice */
export function wordAsText(packed: Uint8Array): string {
  const lines: string[] = [];
  const said = (node: RichNode): string =>
    node.text ??
    (node.type === 'hardBreak'
      ? ' '
      : node.type === KEPT_INLINE
        ? String(node.attrs!['says'] || `[${String(node.attrs!['what'])}]`)
        : node.type === 'image'
          ? `[image: ${String(node.attrs!['alt'] ?? '')}]`
          : (node.content ?? []).map(said).join(''));
  const walk = (node: RichNode) => {
    if (node.type === KEPT_BLOCK) lines.push(...String(node.attrs!['says']).split('\n'));
    else if (node.type === 'tableRow') lines.push((node.content ?? []).map(said).join(' | '));
    else if (node.type === 'paragraph' || node.type === 'heading') lines.push(said(node));
    else node.content?.forEach(walk);
  };
  walk(readWord(packed).doc);
  return lines.map((line) => `${line}\n`).join('');
}
