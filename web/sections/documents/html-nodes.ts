import { Extension, Mark, mergeAttributes, Node } from '@tiptap/core';
import { ListItem } from '@tiptap/extension-list';
import { Table, TableCell, TableHeader, TableRow } from '@tiptap/extension-table';
import StarterKit from '@tiptap/starter-kit';
import { KEPT_BLOCK, KEPT_INLINE, ORIGIN } from '../../../core/document/rich.ts';
import { BOX } from '../../../core/html/read-html.ts';
import { cameFrom, keptNodes, shownImage } from './kept-nodes.ts';
import { oneCell } from './rich-nodes.ts';

/** Boxes by what they are for people. */
const LABELS: Readonly<Record<string, string>> = {
  div: 'group',
  figcaption: 'caption',
  nav: 'navigation',
  aside: 'side note',
  hgroup: 'heading',
  dl: 'terms',
  dt: 'term',
  dd: 'description',
  a: 'link',
};

/** Everything that can be in a text in HTML. @param id of the version @param addressOf where an image is shown from, by its address in the text */
export const htmlNodes = (id: string, addressOf: (src: string) => string) => {
  const from = cameFrom(id);
  const Origins = Extension.create({
    name: 'origins',
    addGlobalAttributes: () => [
      {
        types: [
          'paragraph',
          'heading',
          'blockquote',
          'bulletList',
          'orderedList',
          'listItem',
          'horizontalRule',
          'table',
          'tableRow',
          'tableCell',
          'tableHeader',
          BOX,
          KEPT_BLOCK,
        ],
        attributes: { [ORIGIN]: from(ORIGIN, true) },
      },
      {
        types: ['bold', 'italic', 'underline', 'strike', 'code', 'link', 'wrap', 'image'],
        attributes: { tag: from('tag', true) },
      },
      { types: [KEPT_INLINE], attributes: { key: from('key', true) } },
    ],
  });
  const cells = { content: 'block+', addAttributes: oneCell };
  return [
    StarterKit.configure({
      codeBlock: false,
      listItem: false,
      link: { openOnClick: false, autolink: false },
    }),
    ListItem.extend({ content: 'block+' }),
    Table.configure({ resizable: false }),
    TableRow,
    TableHeader.extend(cells),
    TableCell.extend(cells),
    shownImage(addressOf),
    // An element around blocks; it can be emptied, and goes with what is in it.
    Node.create({
      name: BOX,
      group: 'block',
      content: 'block+',
      addAttributes: () => ({
        name: {
          default: 'div',
          renderHTML: ({ name }) => ({ 'data-name': name as string }),
          parseHTML: (element) => element.getAttribute('data-name'),
        },
      }),
      parseHTML: () => [{ tag: 'div[data-name]' }],
      renderHTML: ({ node, HTMLAttributes }) => [
        'div',
        mergeAttributes(HTMLAttributes, {
          class: 'box',
          'data-box': LABELS[String(node.attrs['name'])] ?? (node.attrs['name'] as string),
        }),
        0,
      ],
    }),
    // An element around words: several may be around the same.
    Mark.create({
      name: 'wrap',
      excludes: '',
      renderHTML: ({ HTMLAttributes }) => ['span', mergeAttributes(HTMLAttributes, { class: 'wrap' }), 0],
      parseHTML: () => [{ tag: 'span[data-tag]' }],
    }),
    ...keptNodes,
    Origins,
  ];
};
