import type { SitePath } from '../../core/address/path.ts';
import { creditFor, isEditorial, isShopPage, tellsCredit } from '../../core/describe/licence.ts';
import type { Words } from '../../core/describe/fields.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import { allPlacementContexts, type PagesRead, type PlacedContext } from './placement-contexts.ts';

/** An image with its record, and every path under which pages show it: its own, and those of its sizes. */
export interface Credited {
  id: number;
  paths: readonly SitePath[];
  words: Pick<Words, 'licence' | 'credit' | 'creator'>;
}

/** Where the licences of some images are not kept. */
export interface Uncredited {
  /** Placements that show it without its credit near it. */
  missing: PlacedContext[];
  /** Pages that seem to sell something, of an image that may not. */
  selling: SitePath[];
}

/** What shows an image as such, one address each: of its sizes in a `srcset`, it is told with its address. */
const SHOWN = new Set(['img src', 'img data-src', 'input src', 'md image']);

/** Whether a licence asks for anything of the pages that show an image. */
export const bindsPages = (words: Credited['words']): boolean =>
  creditFor(words) !== '' || isEditorial(words.licence);

/** An image with every path that shows it. */
export const creditedItem = (
  site: Pick<Site, 'families' | 'items'>,
  { id, path, words }: Pick<Item, 'id' | 'path'> & Pick<Credited, 'words'>,
): Credited => ({
  id,
  words,
  paths: [path, ...site.items.some(site.families.sizesOfOne(id)).map((size) => size.path)],
});

/** What pages lack of what the licences of these images ask for, by item; a style sheet shows no credit, so what stands there isn't told. */
export async function uncreditedOf(
  site: Pick<Site, 'folder' | 'index' | 'references' | 'pool'>,
  items: readonly Credited[],
  progress?: PagesRead,
): Promise<Map<number, Uncredited>> {
  const found = new Map<number, Uncredited>();
  const byPath = new Map<SitePath, Credited>();
  for (const item of items) {
    if (!bindsPages(item.words)) continue;
    found.set(item.id, { missing: [], selling: [] });
    for (const path of item.paths) byPath.set(path, item);
  }
  if (byPath.size === 0) return found;
  await allPlacementContexts(
    site,
    [...byPath.keys()],
    (page, contexts) => {
      for (const one of contexts) {
        if (!SHOWN.has(one.place)) continue;
        const { id, words } = byPath.get(one.path)!;
        const { missing, selling } = found.get(id)!;
        const credit = creditFor(words);
        if (credit !== '' && !tellsCredit(one.near, credit)) missing.push(one);
        if (isEditorial(words.licence) && isShopPage(page, one.pageTitle) && !selling.includes(page))
          selling.push(page);
      }
    },
    progress,
  );
  // Pages are read beside each other: the first to be told is the first by path.
  for (const { missing, selling } of found.values()) {
    missing.sort((one, other) =>
      one.page < other.page ? -1 : one.page > other.page ? 1 : one.start - other.start,
    );
    selling.sort();
  }
  return found;
}
