/**
 * Markdown (CommonMark 0.31 with tables and strike-through of GitHub Flavored Markdown) as an editor holds it. What the editor has no
 * node for stays as source.
 */
import type { Nodes, PhrasingContent, RootContent } from 'mdast';
import { placedBlocks, type ReadSections } from './markdown-tree.ts';
import { ORIGIN, SOURCE, type Mark, type RichNode } from './rich.ts';

/** A block of a file. */
export interface Block {
  node: RichNode;
  /** As it is written. */
  source: string;
  /** What stands between it and the next one. */
  gap: string;
}
export interface ReadMarkdown {
  /** What stands before the first block. */
  head: string;
  blocks: Block[];
  doc: RichNode;
  /** What stays as source, each kind with how often. */
  asSource: { what: string; times: number }[];
  /** For reading it again, once it has changed. */
  sections: ReadSections;
}

/** @param text with line feeds @param sections of what was read before */
export function readMarkdown(text: string, sections: ReadSections = new Map()): ReadMarkdown {
  const front = /^---\n[\s\S]*?\n---(?=\n|$)/.exec(text)?.[0] ?? '';
  const placed = placedBlocks(text.slice(front.length), sections);
  const definitions = new Map<string, { url: string; title: string }>();
  for (const block of placed)
    visit(block.node, (node) => {
      if (node.type === 'definition' && !definitions.has(node.identifier))
        definitions.set(node.identifier, { url: node.url, title: node.title ?? '' });
    });
  const parts = placed.map(({ node, from, to }) => ({
    node: richOf(node, definitions),
    from: front.length + from,
    to: front.length + to,
    what: WHAT[node.type] ?? 'something else',
  }));
  const all = [
    ...(front === '' ? [] : [{ node: undefined, from: 0, to: front.length, what: 'front matter' }]),
    ...parts,
  ];
  const asSource = new Map<string, number>();
  const blocks = all.map(({ node, from, to, what }, at): Block => {
    const source = text.slice(from, to);
    if (!node) asSource.set(what, (asSource.get(what) ?? 0) + 1);
    const rich: RichNode = node ?? {
      type: SOURCE,
      attrs: { what },
      ...(source === '' ? {} : { content: [{ type: 'text', text: source }] }),
    };
    return {
      node: { ...rich, attrs: { ...rich.attrs, [ORIGIN]: at } },
      source,
      gap: text.slice(to, all[at + 1]?.from ?? text.length),
    };
  });
  const content = blocks.map(({ node }) => node);
  return {
    head: text.slice(0, all[0]?.from ?? text.length),
    blocks,
    doc: { type: 'doc', content: content.length > 0 ? content : [{ type: 'paragraph' }] },
    asSource: [...asSource].map(([what, times]) => ({ what, times })),
    sections,
  };
}

function visit(node: Nodes, act: (node: Nodes) => void): void {
  act(node);
  if ('children' in node) for (const child of node.children) visit(child, act);
}

/** What stays as source, in words. */
const WHAT: Partial<Record<RootContent['type'], string>> = {
  html: 'HTML',
  definition: 'link definition',
  footnoteDefinition: 'footnote',
  list: 'list with boxes to tick',
  paragraph: 'paragraph with HTML or footnotes',
  heading: 'heading with HTML or footnotes',
  blockquote: 'quotation with HTML or footnotes',
  table: 'table with HTML or footnotes',
};

type Definitions = ReadonlyMap<string, { url: string; title: string }>;

/** A block as a node; undefined: there is none for it. */
function richOf(node: RootContent, definitions: Definitions): RichNode | undefined {
  const children = (all: readonly RootContent[]) => {
    const rich = all.map((one) => richOf(one, definitions));
    return rich.every((one) => one !== undefined) ? rich : undefined;
  };
  const inline = (all: readonly PhrasingContent[]) => phrasing(all, [], definitions);
  const made = (type: string, content: RichNode[] | undefined, attrs?: Record<string, unknown>) =>
    content && { type, ...(attrs ? { attrs } : {}), ...(content.length > 0 ? { content } : {}) };
  switch (node.type) {
    case 'paragraph':
      return made('paragraph', inline(node.children));
    case 'heading':
      return made('heading', inline(node.children), { level: node.depth });
    case 'thematicBreak':
      return { type: 'horizontalRule' };
    case 'blockquote':
      return node.children.length > 0 ? made('blockquote', children(node.children)) : undefined;
    case 'code':
      return made('codeBlock', node.value === '' ? [] : [{ type: 'text', text: node.value }], {
        language: [node.lang, node.meta].filter(Boolean).join(' ') || null,
      });
    case 'list': {
      const items = node.children.map((item) => {
        if (item.checked !== null && item.checked !== undefined) return undefined;
        // An editor's list item begins with a paragraph.
        if (item.children.length > 0 && item.children[0]!.type !== 'paragraph') return undefined;
        const content = item.children.length > 0 ? children(item.children) : [{ type: 'paragraph' }];
        return made('listItem', content, { loose: item.spread ?? false });
      });
      if (!items.every((item) => item !== undefined)) return undefined;
      const loose = node.spread ?? false;
      return node.ordered
        ? made('orderedList', items, { start: node.start ?? 1, loose })
        : made('bulletList', items, { loose });
    }
    case 'table': {
      const rows = node.children.map((row, at) => {
        const cells = row.children.map((cell, column) => {
          const content = inline(cell.children);
          return (
            content &&
            made(at === 0 ? 'tableHeader' : 'tableCell', [made('paragraph', content)!], {
              align: node.align?.[column] ?? null,
            })
          );
        });
        return cells.every((cell) => cell !== undefined) ? made('tableRow', cells) : undefined;
      });
      return rows.every((row) => row !== undefined) ? made('table', rows) : undefined;
    }
    default:
      return undefined;
  }
}

function onOneLine(text: string): string {
  const lines = text.split('\n');
  return lines
    .map((line, at) => {
      const from = at > 0 ? line.trimStart() : line;
      return at < lines.length - 1 ? from.trimEnd() : from;
    })
    .join(' ');
}

function phrasing(
  nodes: readonly PhrasingContent[],
  marks: readonly Mark[],
  definitions: Definitions,
): RichNode[] | undefined {
  const all: RichNode[] = [];
  const within = (children: readonly PhrasingContent[], mark: Mark) => {
    const some = phrasing(children, [...marks, mark], definitions);
    if (some) all.push(...some);
    return some !== undefined;
  };
  const link = (url: string, title: string | null | undefined): Mark => ({
    type: 'link',
    attrs: { href: url, title: title ?? null },
  });
  const bear = marks.length > 0 ? { marks: [...marks] } : {};
  for (const node of nodes) {
    let done = true;
    switch (node.type) {
      case 'text': {
        // A line break within a paragraph is a blank.
        const text = onOneLine(node.value);
        if (text !== '') all.push({ type: 'text', text, ...bear });
        break;
      }
      case 'strong':
        done = within(node.children, { type: 'bold' });
        break;
      case 'emphasis':
        done = within(node.children, { type: 'italic' });
        break;
      case 'delete':
        done = within(node.children, { type: 'strike' });
        break;
      case 'inlineCode':
        if (node.value !== '')
          all.push({ type: 'text', text: node.value, marks: [...marks, { type: 'code' }] });
        break;
      case 'link':
        done = node.children.length > 0 && within(node.children, link(node.url, node.title));
        break;
      case 'linkReference': {
        const there = definitions.get(node.identifier);
        done = there !== undefined && within(node.children, link(there.url, there.title));
        break;
      }
      case 'image':
        all.push({
          type: 'image',
          attrs: { src: node.url, alt: node.alt ?? '', title: node.title ?? null },
          ...bear,
        });
        break;
      case 'break':
        all.push({ type: 'hardBreak', ...bear });
        break;
      default:
        done = false;
    }
    if (!done) return undefined;
  }
  return all;
}
