import { KINDS, type Kind } from '../address/kinds.ts';
import { folderOf, type SitePath } from '../address/path.ts';
import type { NameFault } from '../address/name.ts';
import type { ShownUse } from '../reference/survey.ts';
import type { Words } from './fields.ts';

export { KINDS };

/** The four care marks: true when there is nothing left to do. */
export interface CareMarks {
  described: boolean;
  named: boolean;
  filed: boolean;
  placed: boolean;
}

/**
 * True for images that readers meet and that have words of their own: icons for browser tabs (.ico, .cur) are shown beside
 * the address, without words; a size of an image has that one's words.
 */
export function needsAlt(item: { path: SitePath; kind: Kind; sizeOf?: number | null }): boolean {
  return item.kind === 'image' && !/\.(ico|cur)$/i.test(item.path) && (item.sizeOf ?? null) === null;
}

/** Whether an item has its words: alt text for images, a title for the rest. */
export function isDescribed(item: {
  path: SitePath;
  kind: Kind;
  sizeOf?: number | null;
  words: Pick<Words, 'alt' | 'decorative' | 'title'>;
}): boolean {
  if (needsAlt(item)) return item.words.decorative || item.words.alt.trim() !== '';
  return item.kind === 'image' || item.words.title.trim() !== '';
}

/** The care marks of an item. Filed: in a folder and tagged. */
export function careMarks(item: {
  path: SitePath;
  kind: Kind;
  use: ShownUse;
  sizeOf?: number | null;
  nameFaults: readonly NameFault[];
  words: Pick<Words, 'alt' | 'decorative' | 'title' | 'tags'>;
}): CareMarks {
  const { words } = item;
  return {
    described: isDescribed(item),
    named: item.nameFaults.length === 0,
    filed: folderOf(item.path) !== '' && (words.tags.length > 0 || (item.sizeOf ?? null) !== null),
    placed: item.use === 'placed',
  };
}

/** A tag as it is kept: NFC, white space folded, at most 80 characters. */
export function cleanTag(tag: string): string {
  return tag.normalize('NFC').replace(/\s+/g, ' ').trim().slice(0, 80);
}
