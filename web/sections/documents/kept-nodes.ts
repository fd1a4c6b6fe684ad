import { mergeAttributes, Node, type Attribute } from '@tiptap/core';
import Image from '@tiptap/extension-image';
import { KEPT_BLOCK, KEPT_INLINE } from '../../../core/document/rich.ts';

/**
 * An attribute that says which part of the file a node came from; it goes along when it is cut and pasted.
 * @param id of the version: what is pasted from another one has not come from here
 */
export const cameFrom =
  (id: string) =>
  (name: string, number: boolean): Attribute => ({
    default: null,
    renderHTML: (of) => (of[name] === null ? {} : { [`data-${name}`]: `${id} ${String(of[name])}` }),
    parseHTML: (element) => {
      const [of, value] = (element.getAttribute(`data-${name}`) ?? '').split(' ');
      return of !== id || value === undefined ? null : number ? Number(value) : value;
    },
  });

const Kept = { addAttributes: () => ({ what: { default: '' }, says: { default: '' } }), atom: true };

/** What an editor shows and can't change: a block, or something among letters. */
export const keptNodes = [
  Node.create({
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
  }),
  Node.create({
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
  }),
];

const hidden = (value: unknown = null): Attribute => ({ default: value, rendered: false });

/** An image among letters. @param addressOf where it is shown from, by its address in the document */
export const shownImage = (addressOf: (src: string) => string) =>
  Image.extend({
    addAttributes: () => ({
      src: { default: '' },
      alt: { default: '' },
      title: hidden(),
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
  }).configure({ inline: true });
