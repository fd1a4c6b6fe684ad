/**
 * What an editor holds, as Markdown. Every block that is as it was is written as it was, byte for byte; a changed paragraph keeps its line
 * breaks where its words stayed, a changed table and list the rows and items that nobody touched.
 */
import { diffArrays } from 'diff';
import type { AlignType, PhrasingContent, RootContent, TableCell } from 'mdast';
import { gfmToMarkdown } from 'mdast-util-gfm';
import { toMarkdown, type Options } from 'mdast-util-to-markdown';
import { treeOf } from './markdown-tree.ts';
import { readMarkdown, type Block, type ReadMarkdown } from './read-markdown.ts';
import { ORIGIN, sameRich, SOURCE, type RichNode } from './rich.ts';

/**
 * An edited text as it is to be written.
 * @param read what it was read as
 * @param doc what the editor holds now
 * @returns `differs`: read again, it says something else than the editor holds; what, in words
 */
export function writeMarkdown(
  read: ReadMarkdown,
  doc: RichNode,
): { text: string; differs: string | undefined } {
  const options = optionsOf(read);
  const used = new Set<number>();
  const nodes = (doc.content ?? []).filter(
    // An empty paragraph is what an editor shows for nothing.
    (node) => !(node.type === 'paragraph' && (node.content ?? []).length === 0),
  );
  const written = nodes.map((node) => {
    const origin = node.attrs?.[ORIGIN];
    const block = typeof origin === 'number' && !used.has(origin) ? read.blocks[origin] : undefined;
    if (!block) return { at: undefined, text: sourceOf(node, options) };
    used.add(origin as number);
    if (sameRich(block.node, node)) return { at: origin as number, text: block.source };
    return { at: origin as number, text: renewed(block, node, options) };
  });
  let text = read.head;
  for (const [at, one] of written.entries()) {
    text += one.text;
    const next = written[at + 1];
    const gap = one.at === undefined ? undefined : read.blocks[one.at]?.gap;
    if (next) text += gap !== undefined && next.at === one.at! + 1 ? gap : '\n\n';
  }
  const end = read.blocks.at(-1)?.gap;
  text += written.length === 0 ? '' : (end ?? '\n');
  const again = readMarkdown(text, read.sections).blocks.map(({ node }) => node);
  const other = nodes.find((node, at) => !again[at] || !sameRich(tidy(node), tidy(again[at])));
  const differs =
    other === undefined && again.length === nodes.length ? undefined : start(other ?? nodes.at(-1));
  return { text, differs };
}

const start = (node: RichNode | undefined): string => {
  const said = (one: RichNode): string => one.text ?? (one.content ?? []).map(said).join(' ');
  return node ? said(node).slice(0, 60).trim() : '';
};

/** Without what Markdown has no way to say: blanks at the ends of lines. */
function tidy(node: RichNode): RichNode {
  const content = (node.content ?? []).map(tidy);
  const [first, last] = [content[0], content.at(-1)];
  if (node.type !== 'paragraph' && node.type !== 'heading') return { ...node, content };
  if (first?.text !== undefined) content[0] = { ...first, text: first.text.replace(/^[ \t]+/, '') };
  if (last?.text !== undefined) {
    const trimmed = content.at(-1)!;
    content[content.length - 1] = { ...trimmed, text: trimmed.text!.trimEnd() };
  }
  return { ...node, content: content.filter(({ type, text }) => type !== 'text' || text !== '') };
}

/** A node as it is written. */
function sourceOf(node: RichNode, options: Options): string {
  if (node.type === SOURCE) return (node.content ?? []).map(({ text }) => text ?? '').join('');
  return toMarkdown({ type: 'root', children: [blockOf(node)] }, options).replace(/\n$/, '');
}

function blockOf(node: RichNode): RootContent {
  const blocks = () => (node.content ?? []).map(blockOf) as never[];
  const { attrs = {} } = node;
  switch (node.type) {
    case 'heading':
      return { type: 'heading', depth: Number(attrs.level) as 1, children: inlineOf(node) };
    case 'horizontalRule':
      return { type: 'thematicBreak' };
    case 'blockquote':
      return { type: 'blockquote', children: blocks() };
    case 'codeBlock': {
      const [lang, ...meta] = ((attrs.language as string | null) ?? '').split(' ');
      return {
        type: 'code',
        lang: lang || null,
        meta: meta.join(' ') || null,
        value: (node.content ?? []).map(({ text }) => text).join(''),
      };
    }
    case 'bulletList':
    case 'orderedList': {
      return {
        type: 'list',
        ordered: node.type === 'orderedList',
        start: node.type === 'orderedList' ? Number(attrs.start ?? 1) : null,
        spread: attrs.loose === true,
        children: (node.content ?? []).map((item) => ({
          type: 'listItem' as const,
          spread: item.attrs?.loose === true,
          children: (item.content ?? []).map(blockOf) as never[],
        })),
      };
    }
    case 'table':
      return {
        type: 'table',
        align: (node.content?.[0]?.content ?? []).map((cell) => (cell.attrs?.align ?? null) as AlignType),
        children: (node.content ?? []).map((row) => ({
          type: 'tableRow' as const,
          children: (row.content ?? []).map((cell): TableCell => ({
            type: 'tableCell',
            children: (cell.content ?? []).flatMap(inlineOf),
          })),
        })),
      };
    case SOURCE:
      return { type: 'html', value: sourceOf(node, {}) };
    default:
      return { type: 'paragraph', children: inlineOf(node) };
  }
}

/** Marks from the outermost in, as Markdown nests them; it has no others. */
const NESTING = ['link', 'bold', 'italic', 'strike', 'code'] as const;

function inlineOf(node: RichNode): PhrasingContent[] {
  return nested(node.content ?? [], 0);
}

function nested(nodes: readonly RichNode[], depth: number): PhrasingContent[] {
  const type = NESTING[depth];
  if (type === undefined) return nodes.map(leafOf);
  const all: PhrasingContent[] = [];
  const key = (one: RichNode) => {
    const mark = one.marks?.find((some) => some.type === type);
    return mark && JSON.stringify([mark.attrs?.href ?? '', mark.attrs?.title ?? '']);
  };
  for (let at = 0; at < nodes.length;) {
    const mine = key(nodes[at]!);
    let end = at + 1;
    while (end < nodes.length && key(nodes[end]!) === mine) end++;
    const some = nodes.slice(at, end);
    if (mine === undefined) all.push(...nested(some, depth + 1));
    else {
      const { attrs } = some[0]!.marks!.find((mark) => mark.type === type)!;
      const children = type === 'code' ? [] : nested(some, depth + 1);
      if (type === 'code') all.push({ type: 'inlineCode', value: some.map(({ text }) => text).join('') });
      else if (type === 'link')
        all.push({
          type: 'link',
          url: String(attrs?.href ?? ''),
          title: (attrs?.title as string | null) ?? null,
          children: children as never[],
        });
      else all.push({ type: MDAST[type], children: children as never[] });
    }
    at = end;
  }
  return all;
}
const MDAST = { bold: 'strong', italic: 'emphasis', strike: 'delete' } as const;

function leafOf(node: RichNode): PhrasingContent {
  if (node.type === 'hardBreak') return { type: 'break' };
  if (node.type !== 'image') return { type: 'text', value: node.text ?? '' };
  const { src, alt, title } = (node.attrs ?? {}) as { src: string; alt?: string; title?: string | null };
  return { type: 'image', url: src, alt: alt ?? '', title: title ?? null };
}

/** Written as the file writes. */
function optionsOf({ blocks }: ReadMarkdown): Options {
  const text = blocks.map(({ source }) => source).join('\n\n');
  const bullet = /^ {0,3}([-*+]) /m.exec(text)?.[1] as '-' | '*' | '+' | undefined;
  const emphasis = /(?<![\w*])\*(?![\s*])[^*\n]+\*(?!\*)/.test(text)
    ? '*'
    : /(?<!\w)_[^_\n]+_/.test(text)
      ? '_'
      : '*';
  return {
    extensions: [gfmToMarkdown({ tablePipeAlign: false })],
    bullet: bullet ?? '-',
    bulletOrdered: /^ {0,3}\d{1,9}\) /m.test(text) ? ')' : '.',
    bulletOther: bullet === '*' ? '-' : '*',
    emphasis,
    strong: /__[^_\n]+__/.test(text) && !text.includes('**') ? '_' : '*',
    rule: (/^ {0,3}([-*_])(?: *\1){2,} *$/m.exec(text)?.[1] as '-' | undefined) ?? '-',
    listItemIndent: 'one',
    fence: /^~~~/m.test(text) ? '~' : '`',
    resourceLink: true,
  };
}

/** A changed block as it is written, with what of it stayed as it was. */
function renewed(block: Block, node: RichNode, options: Options): string {
  const text = sourceOf(node, options);
  if (node.type !== block.node.type) return text;
  switch (node.type) {
    case 'table':
      return withRows(block, node, text);
    case 'bulletList':
    case 'orderedList':
      return withItems(block, node, options) ?? text;
    default:
      return rebroken(block, text);
  }
}

/** A changed list with those items as they were written that nobody has touched. Undefined: it has to be written anew. */
function withItems({ node: before, source }: Block, node: RichNode, options: Options): string | undefined {
  const [list] = treeOf(source).children;
  const [old, now] = [before.content ?? [], node.content ?? []];
  const numbered = node.type === 'orderedList';
  if (list?.type !== 'list' || list.children.length !== old.length) return undefined;
  if (before.attrs?.loose !== node.attrs?.loose) return undefined;
  // Numbers that follow would be others.
  if (numbered && (old.length !== now.length || before.attrs?.start !== node.attrs?.start)) return undefined;
  const ends = list.children.map(({ position }) => [position!.start.offset!, position!.end.offset!] as const);
  const gaps = ends.slice(1).map(([from], at) => source.slice(ends[at]![1], from));
  const usual = node.attrs?.loose === true ? '\n\n' : '\n';
  // Items that stand further in.
  if (gaps.some((gap) => gap.replace(/\n/g, '') !== '')) return undefined;
  // A list has one sign throughout.
  const sign = /^(?:\d+([.)])|([-*+]))/.exec(source);
  const own: Options = {
    ...options,
    ...(sign?.[2] ? { bullet: sign[2] as '-', bulletOther: sign[2] === '*' ? '-' : '*' } : {}),
    ...(sign?.[1] ? { bulletOrdered: sign[1] as '.' } : {}),
  };
  let text = '';
  let [from, to] = [0, 0];
  let last: number | undefined;
  /** Places of those that others have come for. */
  let gone: number[] = [];
  const add = (item: string, at?: number) => {
    if (text !== '') text += last !== undefined && at === last + 1 ? gaps[last]! : usual;
    text += item;
    last = at;
  };
  for (const { added, removed, value } of diffArrays(old, now, { comparator: sameRich })) {
    if (removed) {
      gone = value.map((_, at) => from + at);
      from += value.length;
      continue;
    }
    for (const item of value) {
      if (added) {
        const attrs = { ...node.attrs, start: Number(node.attrs?.start ?? 1) + to };
        add(sourceOf({ ...node, attrs, content: [item] }, own), gone.shift());
      } else {
        add(source.slice(...ends[from]!), from);
        from++;
      }
      to++;
    }
    gone = [];
  }
  return text;
}

/** A changed table with those rows as they were written that nobody has touched, and the line below its head. */
function withRows({ node: before, source }: Block, node: RichNode, text: string): string {
  const [old, now] = [before.content ?? [], node.content ?? []];
  const [written, lines] = [source.split('\n'), text.split('\n')];
  const widths = [...old, ...now].map((row) => row.content?.length);
  if (written.length !== old.length + 1 || lines.length !== now.length + 1) return text;
  if (new Set(widths).size > 1 || !sameRich(heads(before), heads(node))) return text;
  // The second line stands below the head.
  const lineOf = (all: readonly string[], row: number) => all[row === 0 ? 0 : row + 1]!;
  const kept: string[] = [];
  let [from, to] = [0, 0];
  for (const { added, removed, value } of diffArrays(old, now, { comparator: sameRich })) {
    if (removed) from += value.length;
    else
      for (let row = 0; row < value.length; row++, to++)
        kept.push(added ? lineOf(lines, to) : lineOf(written, from++));
  }
  return [kept[0]!, written[1]!, ...kept.slice(1)].join('\n');
}

/** What a table says of its columns. */
const heads = ({ content }: RichNode): RichNode => ({
  type: 'tableRow',
  content: (content?.[0]?.content ?? []).map(({ type, attrs }) => ({ type, attrs: attrs ?? {} })),
});

/** A changed paragraph with its line breaks where they were, as far as the words beside them stayed. */
function rebroken({ node, source }: Block, text: string): string {
  if (node.type !== 'paragraph' || !source.includes('\n') || /\\\n| {2}\n/.test(text)) return text;
  const split = (of: string) => of.match(/\S+\s*/g) ?? [];
  const word = (of: string) => of.trimEnd();
  const [before, after] = [split(source), split(text)];
  const lines: string[] = [];
  let at = 0;
  for (const { added, removed, value } of diffArrays(before, after, {
    comparator: (a, b) => word(a) === word(b),
  })) {
    if (removed) at += value.length;
    else if (added) lines.push(...value);
    else
      for (const one of value) {
        const old = before[at++]!;
        lines.push(old.includes('\n') ? `${word(one)}${old.slice(word(old).length)}` : one);
      }
  }
  return lines.join('').trimEnd();
}
