import { Extension, mergeAttributes, Node } from '@tiptap/core';
import Image from '@tiptap/extension-image';
import { Table, TableCell, TableHeader, TableRow } from '@tiptap/extension-table';
import StarterKit from '@tiptap/starter-kit';
import { ORIGIN, SOURCE } from '../../../core/document/rich.ts';

const plainAttribute = (value: unknown = null) => ({ default: value, rendered: false });

/** By which block of the file a node came; and how lists and cells are written. */
const Written = Extension.create({
  name: 'written',
  addGlobalAttributes: () => [
    {
      types: [
        'paragraph',
        'heading',
        'blockquote',
        'codeBlock',
        'bulletList',
        'orderedList',
        'horizontalRule',
        'table',
        SOURCE,
      ],
      attributes: { [ORIGIN]: plainAttribute() },
    },
    { types: ['bulletList', 'orderedList', 'listItem'], attributes: { loose: plainAttribute(false) } },
  ],
});

/** What the editor has no form for: it stays as it is written, and can be edited so. */
const Source = Node.create({
  name: SOURCE,
  group: 'block',
  content: 'text*',
  marks: '',
  code: true,
  defining: true,
  addAttributes: () => ({ what: { default: '' } }),
  parseHTML: () => [{ tag: 'pre.source', preserveWhitespace: 'full' as const }],
  renderHTML: ({ node, HTMLAttributes }) => [
    'pre',
    mergeAttributes(HTMLAttributes, { class: 'source', 'data-what': node.attrs['what'] as string }),
    ['code', 0],
  ],
});

/** No cell spans others; what works on rows and columns asks each of them. */
export const oneCell = () => {
  const one = { ...plainAttribute(1), parseHTML: () => 1 };
  return { colspan: one, rowspan: one, colwidth: plainAttribute() };
};
/** Cells hold one line, as Markdown has it. */
const align = () => ({
  ...oneCell(),
  align: {
    default: null,
    renderHTML: (of: Record<string, unknown>) =>
      of['align'] ? { style: `text-align: ${String(of['align'])}` } : {},
  },
});

/** Everything that can be in a Markdown text. @param addressOf where an image is shown from, by its address in the text */
export const markdownNodes = (addressOf: (src: string) => string) => [
  StarterKit.configure({ underline: false, link: { openOnClick: false, autolink: false } }),
  Table.configure({ resizable: false }),
  TableRow,
  TableHeader.extend({ content: 'paragraph', addAttributes: align }),
  TableCell.extend({ content: 'paragraph', addAttributes: align }),
  Image.extend({
    renderHTML: ({ HTMLAttributes }) => [
      'img',
      { ...HTMLAttributes, src: addressOf(String(HTMLAttributes['src'] ?? '')) },
    ],
  }).configure({ inline: true }),
  Source,
  Written,
];
