import type { NamingFacts } from '../../core/naming/compose.ts';
import type { Item } from '../db/item-rows.ts';

/** What the pieces of an item's name are taken from. @param pages titles of the pages that show it */
export const namingFacts = (item: Item, pages: string[]) =>
  ({
    id: item.id,
    path: item.path,
    kind: item.kind,
    title: item.words.title,
    alt: item.words.alt,
    caption: item.words.caption,
    tags: item.words.tags,
    takenAt: item.words.taken || null,
    addedAt: item.addedAt,
    width: item.width,
    height: item.height,
    pages,
    own: item.words.own,
  }) satisfies NamingFacts;
