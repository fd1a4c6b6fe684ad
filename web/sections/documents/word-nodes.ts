import { Extension, mergeAttributes, Node, type Attribute } from '@tiptap/core';
import Image from '@tiptap/extension-image';
import { Table, TableCell, TableHeader, TableRow } from '@tiptap/extension-table';
import StarterKit from '@tiptap/starter-kit';
import { KEPT_BLOCK, KEPT_INLINE, ORIGIN } from '../../../core/document/rich.ts';
import { oneCell } from './rich-nodes.ts';

const hidden = (value: unknown = null): Attribute => ({ default: value, rendered: false });

/** Everything that can be in a word-processor document. @param id of the version: what is pasted from another one has not come from here */
export const wordNodes = (id: string, addressOf: (src: string) => string) => {
  /** Which part of the file a node came from; it goes along when it is cut and pasted. */
  const from = (name: string, number: boolean): Attribute => ({
    default: null,
    renderHTML: (of) => (of[name] === null ? {} : { [`data-${name}`]: `${id} ${String(of[name])}` }),
    parseHTML: (element) => {
      const [of, value] = (element.getAttribute(`data-${name}`) ?? '').split(' ');
      return of !== id || value === undefined ? null : number ? Number(value) : value;
    },
  });
  const Origins = Extension.create({
    name: 'origins',
    addGlobalAttributes: () => [
      {
        types: ['paragraph', 'heading', 'table', 'tableRow', 'tableCell', 'tableHeader', KEPT_BLOCK],
        attributes: { [ORIGIN]: from(ORIGIN, true) },
      },
      { types: ['image', KEPT_INLINE], attributes: { key: from('key', false) } },
    ],
  });
  const Kept = { addAttributes: () => ({ what: { default: '' }, says: { default: '' } }), atom: true };
  const KeptBlock = Node.create({
    ...Kept,
    name: KEPT_BLOCK,
    group: 'block',
    selectable: true,
    parseHTML: () => [{ tag: 'div[data-kept]' }],
    renderHTML: ({ node, HTMLAttributes }) => [
      'div',
      mergeAttributes(HTMLAttributes, { class: 'kept', 'data-kept': '' }),
      ['span', { class: 'what' }, `Kept as it is: ${String(node.attrs['what'])}`],
      ['span', {}, String(node.attrs['says'])],
    ],
  });
  const KeptInline = Node.create({
    ...Kept,
    name: KEPT_INLINE,
    group: 'inline',
    inline: true,
    parseHTML: () => [{ tag: 'span[data-kept]' }],
    renderHTML: ({ node, HTMLAttributes }) => [
      'span',
      mergeAttributes(HTMLAttributes, {
        class: 'kept',
        'data-kept': '',
        title: node.attrs['what'] as string,
      }),
      String(node.attrs['says'] || node.attrs['what']),
    ],
  });
  const cells = { content: '(paragraph | heading | bulletList | orderedList)+', addAttributes: oneCell };
  return [
    StarterKit.configure({
      blockquote: false,
      code: false,
      codeBlock: false,
      horizontalRule: false,
      heading: { levels: [1, 2, 3, 4, 5, 6] },
      link: { openOnClick: false, autolink: false },
    }),
    Table.configure({ resizable: false }),
    TableRow,
    TableHeader.extend(cells),
    TableCell.extend(cells),
    Image.extend({
      addAttributes: () => ({
        src: { default: '' },
        alt: { default: '' },
        width: hidden(),
        height: hidden(),
      }),
      renderHTML: ({ node, HTMLAttributes }) => [
        'img',
        mergeAttributes(HTMLAttributes, {
          src: addressOf(String(node.attrs['src'])),
          'data-src': node.attrs['src'] as string,
          width: (node.attrs['width'] as number | null) ?? undefined,
        }),
      ],
      parseHTML: () => [
        {
          tag: 'img[data-src]',
          getAttrs: (element: HTMLElement) => ({ src: element.getAttribute('data-src') }),
        },
      ],
    }).configure({ inline: true }),
    KeptBlock,
    KeptInline,
    Origins,
  ];
};
