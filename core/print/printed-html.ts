import { KEPT_BLOCK, KEPT_INLINE, ORIGIN, type Mark, type RichNode } from '../document/rich.ts';
import { BOX, readHtml, type ReadHtml } from '../html/read-html.ts';
import { valueOf } from '../html/start-tag.ts';

/** What CSS of an element makes of its text, as marks have it. */
const LOOKS: readonly [Mark['type'], RegExp][] = [
  ['bold', /font-weight:\s*(?:bold|[6-9]00)/i],
  ['italic', /font-style:\s*(?:italic|oblique)/i],
  ['underline', /text-decoration[\w-]*:[^;]*underline/i],
  ['strike', /text-decoration[\w-]*:[^;]*line-through/i],
];
/** Not seen on paper, and no loss there. */
const UNSEEN = new Set([
  'script',
  'style sheet',
  'template',
  'text for browsers without scripts',
  'comment',
  'anchor',
]);

/** HTML as it is put on paper: without the elements that only arrange it. */
export function printedHtml(html: string): { doc: RichNode; notes: string[] } {
  const read = readHtml(html, { merged: true });
  const content = (read.doc.content ?? []).flatMap((node) => onPaper(node, read));
  const lost = read.asItIs.filter(({ what }) => !UNSEEN.has(what) && !what.startsWith('“'));
  return { doc: { type: 'doc', content }, notes: lost.map(({ what }) => lostNote(what)) };
}

/** What of a document is not on paper as it is there. @param what of things, in the plural or without a number */
export const lostNote = (what: string): string =>
  `The document has this: ${what}. In the PDF it is plain text, or left out.`;

function onPaper(node: RichNode, read: ReadHtml): RichNode[] {
  const { what, says } = node.attrs ?? {};
  if (node.type === KEPT_BLOCK)
    return UNSEEN.has(String(what)) || says === ''
      ? []
      : [{ type: 'paragraph', content: [{ type: 'text', text: String(says) }] }];
  const content = (node.content ?? []).flatMap((one) => (isLetters(one) ? [one] : onPaper(one, read)));
  if (node.type === BOX) return content;
  const looks = marksOf(node, read);
  const letters = content.map((one) => (isLetters(one) ? inInk(one, looks, read) : one));
  return [{ ...node, content: letters }];
}

/** In place of a tab. */
const EM_SPACE = '\u2003';

const isLetters = ({ type }: RichNode): boolean => ['text', 'hardBreak', 'image', KEPT_INLINE].includes(type);

/** Letters with what elements around them say of their look. */
function inInk(node: RichNode, looks: readonly Mark[], read: ReadHtml): RichNode {
  const isTab =
    node.type === KEPT_INLINE && /\sclass="tab"/.test(read.kept[Number(node.attrs?.['key'])] ?? '');
  if (isTab) return { type: 'text', text: EM_SPACE };
  const marks = [
    ...looks,
    ...(node.marks ?? []).flatMap((mark) =>
      mark.type === 'wrap' ? styled(read.tags[Number(mark.attrs?.['tag'])]?.source) : [mark],
    ),
  ];
  return marks.length > 0 ? { ...node, marks } : node;
}

/** Of the element that a block was. */
function marksOf(node: RichNode, { parts, text }: ReadHtml): Mark[] {
  const part = parts[Number(node.attrs?.[ORIGIN])];
  return part && node.type === 'paragraph' && part.name !== ''
    ? styled(text.slice(part.from, part.inner))
    : [];
}

function styled(tag: string | undefined): Mark[] {
  if (!tag) return [];
  const css = valueOf(tag, 'style') ?? '';
  const marks: Mark[] = LOOKS.filter(([, says]) => says.test(css)).map(([type]) => ({ type }));
  // Where a link of a document leads is said, so that nobody follows it by mistake.
  const to = valueOf(tag, 'class') === 'link' ? valueOf(tag, 'title') : undefined;
  return to ? [...marks, { type: 'link', attrs: { href: to } }] : marks;
}
