import { lineEdits, type LineEdit } from '../document/line-changes.ts';
import { docOf, type WordDraft } from './draft.ts';
import { readWord, wordAsText } from './read-word.ts';
import { editedWord as written, type NewImage } from './write-word.ts';

/**
 * A document with somebody’s text.
 * @throws UnreadableOffice, NoSuchText
 */
export function editedWord(
  packed: Uint8Array,
  blocks: WordDraft['blocks'],
  images: ReadonlyMap<string, NewImage>,
): Uint8Array {
  return written(packed, docOf(readWord(packed).doc, blocks), images);
}

/** The lines of a document that say something else than those of another. @throws UnreadableOffice */
export const wordEdits = (before: Uint8Array, after: Uint8Array): LineEdit[] =>
  lineEdits(wordAsText(before), wordAsText(after));

export { wordAsText };
