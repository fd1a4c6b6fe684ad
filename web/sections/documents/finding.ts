import { Extension } from '@tiptap/core';
import type { Node } from '@tiptap/pm/model';
import { Plugin, PluginKey, type Transaction } from '@tiptap/pm/state';
import { Decoration, DecorationSet } from '@tiptap/pm/view';
import { findIn, type FindOptions, type Found } from '../../../core/document/find.ts';

/** Places of some words in running text, by positions of its document; words run through bold and links, not from one block to the next. */
export function placesIn(doc: Node, words: string, options: FindOptions): Found[] {
  const all: Found[] = [];
  doc.descendants((node, pos) => {
    if (!node.isTextblock) return true;
    // What is no text within a line has the size of one character.
    const text = node.textBetween(0, node.content.size, undefined, '\ufffc');
    for (const { from, to } of findIn(text, words, options))
      all.push({ from: pos + 1 + from, to: pos + 1 + to });
    return false;
  });
  return all;
}

interface Marked {
  places: readonly Found[];
  now: number;
}
const key = new PluginKey<DecorationSet>('found');
export const mark = (transaction: Transaction, marked: Marked) => transaction.setMeta(key, marked);

/** Draws what was found. */
export const FoundMarks = Extension.create({
  name: 'found',
  addProseMirrorPlugins: () => [
    new Plugin({
      key,
      state: {
        init: () => DecorationSet.empty,
        apply(transaction, before) {
          const marked = transaction.getMeta(key) as Marked | undefined;
          if (!marked) return before.map(transaction.mapping, transaction.doc);
          return DecorationSet.create(
            transaction.doc,
            marked.places.map(({ from, to }, at) =>
              Decoration.inline(from, to, { class: at === marked.now ? 'found now' : 'found' }),
            ),
          );
        },
      },
      props: { decorations: (state) => key.getState(state) },
    }),
  ],
});
