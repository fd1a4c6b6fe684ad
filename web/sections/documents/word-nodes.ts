import { Extension } from '@tiptap/core';
import { Table, TableCell, TableHeader, TableRow } from '@tiptap/extension-table';
import StarterKit from '@tiptap/starter-kit';
import { KEPT_BLOCK, KEPT_INLINE, ORIGIN } from '../../../core/document/rich.ts';
import { cameFrom, keptNodes, shownImage } from './kept-nodes.ts';
import { oneCell } from './rich-nodes.ts';

/** Everything that can be in a word-processor document. @param id of the version: what is pasted from another one has not come from here */
export const wordNodes = (id: string, addressOf: (src: string) => string) => {
  const from = cameFrom(id);
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
    shownImage(addressOf),
    ...keptNodes,
    Origins,
  ];
};
