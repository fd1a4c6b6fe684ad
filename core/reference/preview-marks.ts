import { toHtml } from 'hast-util-to-html';
import { markdownTree } from './markdown-tree.ts';
import { toHast } from 'mdast-util-to-hast';
import type { SitePath } from '../address/path.ts';
import { isMarkdownPage, isHtmlPage, elementsOf } from './page-edit.ts';
import type { PageElement } from './page-element.ts';
import { readPage } from './read.ts';
import { decodeRaw, type Source } from './source.ts';

/**
 * Marks that a page gets when it is looked at, never on disk: the byte offsets of the references of each element, where a
 * new block can stand before or behind it, whether a background can be exchanged, and where a block begins that can get one.
 */
export const MARKS = {
  references: 'data-look-at',
  background: 'data-look-background',
  before: 'data-look-before',
  behind: 'data-look-behind',
  block: 'data-look-block',
} as const;

const BLOCKS = new Set(
  'p h1 h2 h3 h4 h5 h6 ul ol dl table figure blockquote section article div hr pre details aside header footer form picture video audio'.split(
    ' ',
  ),
);
/** Blocks that a background suits. */
const GROUNDS = new Set('section article div header footer aside main figure blockquote'.split(' '));
/** What blocks can stand between blocks in. */
const HOLDERS = new Set('body main article section div aside details blockquote header footer'.split(' '));

/** A page as it is looked at: HTML with marks, as text. Undefined: there is nothing to be drawn of it. */
export function markedPage(path: SitePath, source: Source): string | undefined {
  if (isHtmlPage(path)) return decodeRaw(source.encoding, markedHtml(path, source));
  if (isMarkdownPage(path)) return markedMarkdown(path, source);
  return undefined;
}

function markedHtml(path: SitePath, source: Source): string {
  const references = readPage(path, source, false).references;
  const inserts: { at: number; text: string }[] = [];
  const elements = elementsOf(source);
  const lastBlocks = new Map<unknown, PageElement['node']>();
  for (const { name, node } of elements) if (BLOCKS.has(name)) lastBlocks.set(node.parentNode, node);
  let next = 0;
  for (const element of elements) {
    const { start, end } = element.tag;
    while (next < references.length && references[next]!.start < start) next++;
    const within: number[] = [];
    let background = '';
    for (let at = next; at < references.length && references[at]!.start < end; at++) {
      const { start, writing } = references[at]!;
      within.push(start);
      if (background === '' && writing.startsWith('attribute-css'))
        background = ` ${MARKS.background}="${start}"`;
    }
    const marks = within.length > 0 ? ` ${MARKS.references}="${within.join(' ')}"${background}` : '';
    // A page that leads away by itself stays: of two attributes of one name, the first counts.
    const away =
      element.name === 'meta' &&
      element.attributes.some((one) => one.name === 'http-equiv' && /^\s*refresh\s*$/i.test(one.text));
    inserts.push({
      at: start + 1 + element.name.length,
      text:
        marks +
        (GROUNDS.has(element.name) && background === '' ? ` ${MARKS.block}="${start}"` : '') +
        spotsOf(element, source.bom, lastBlocks.get(element.node.parentNode) === element.node) +
        (away ? ' http-equiv="x-stay"' : ''),
    });
  }
  let html = '';
  let at = 0;
  for (const one of inserts) {
    html += source.raw.slice(at, one.at) + one.text;
    at = one.at;
  }
  return html + source.raw.slice(at);
}

/** Where a new block can stand: before each block, and behind the last one of its holder. */
function spotsOf({ name, parent, whole, node }: PageElement, bom: number, isLast: boolean): string {
  if (!BLOCKS.has(name) || !HOLDERS.has(parent)) return '';
  const location = node.sourceCodeLocation;
  if (!location) return '';
  const last = isLast && whole;
  return ` ${MARKS.before}="${location.startOffset + bom}"` + (last ? ` ${MARKS.behind}="${whole.end}"` : '');
}

function markedMarkdown(path: SitePath, source: Source): string {
  const { references, title } = readPage(path, source, false);
  const text = source.raw;
  const front = /^(?:\u00ef\u00bb\u00bf)?(?:(---|\+\+\+)[ \t]*\r?\n[\s\S]*?\r?\n\1[ \t]*(?:\r?\n|$))?/.exec(
    text,
  )![0].length;
  const tree = markdownTree(text.slice(front));
  const hast = toHast(tree, { allowDangerousHtml: true });
  const decode = (value: string) => decodeRaw(source.encoding, value);
  type Node = typeof hast;
  const visit = (node: Node, top: boolean) => {
    if ('value' in node && typeof node.value === 'string') node.value = decode(node.value);
    if (node.type === 'element') {
      for (const [name, value] of Object.entries(node.properties))
        if (typeof value === 'string') node.properties[name] = decode(value);
      const [start, end] = [node.position?.start.offset, node.position?.end.offset];
      if (start !== undefined && end !== undefined) {
        const within = references.filter((one) => one.start >= front + start && one.end <= front + end);
        if (within.length > 0 && ['img', 'a'].includes(node.tagName))
          node.properties['dataLookAt'] = within.map((one) => one.start).join(' ');
        if (top) {
          node.properties['dataLookBefore'] = String(front + start);
          node.properties['dataLookBehind'] = String(front + end);
        }
      }
    }
    if ('children' in node)
      for (const child of node.children) visit(child as Node, top && node.type === 'root');
  };
  visit(hast, true);
  const body = toHtml(hast, { allowDangerousHtml: true });
  return `<!doctype html><html><head><meta charset="utf-8"><title>${title.replace(/[<&]/g, '')}</title><style>body{max-width:44em;margin:2em auto;padding:0 1em;font:16px/1.5 sans-serif}img{max-width:100%;height:auto}</style></head><body>${body}</body></html>`;
}
