import { each, mapOf, WITHOUT_PAUSE, type Breathe } from '../paced.ts';
import { isConventional } from '../address/kinds.ts';
import type { SitePath } from '../address/path.ts';
import type { Mention } from './mention.ts';
import type { PageReading, Reference } from './model.ts';
import { isMediaAddress } from './file-address.ts';
import type { SiteMap } from './resolve.ts';

export const USES = ['placed', 'mentioned', 'unused'] as const;
export type Use = (typeof USES)[number];
/** 'unknown': nothing that was read refers to it, and not all has been read. */
export const SHOWN_USES = [...USES, 'unknown'] as const;
export type ShownUse = (typeof SHOWN_USES)[number];

/** One reference with where it leads: 'placed' on an item or other file, or broken. */
export interface Placement extends Reference {
  page: SitePath;
  /** The file it leads to, or where it would lead if there were one. */
  path: SitePath;
  state: 'placed' | 'broken';
  /** For a broken one: the file that differs only in case. */
  near?: SitePath;
  /** Broken, unless a generator reads it otherwise. */
  unsure?: true;
}

/**
 * Resolves the references of one page. References that leave the site or name no media file are left out, and loose values
 * that lead nowhere: their text still counts as a mention. A relative address in Markdown that leads nowhere is broken, with less certainty.
 */
export function placementsOf(page: SitePath, reading: PageReading, site: SiteMap): Placement[] {
  const placements: Placement[] = [];
  for (const reference of reading.references) {
    const target = site.follow(reference, page);
    if (target.to === 'file') placements.push({ ...reference, page, path: target.path, state: 'placed' });
    // What a generator makes of a value is its secret; an address in Markdown's own syntax is one for sure.
    else if (reference.loose && !isCertainlyAddress(reference)) continue;
    else if (target.to === 'missing' && isMediaAddress(reference.url)) {
      placements.push({
        ...reference,
        page,
        path: target.path,
        state: 'broken',
        ...(target.near ? { near: target.near } : {}),
        ...(reference.loose ? { unsure: true as const } : {}),
      });
    } else if (target.to === 'above' && isMediaAddress(reference.url)) {
      placements.push({
        ...reference,
        page,
        path: reference.url,
        state: 'broken',
        ...(reference.loose ? { unsure: true as const } : {}),
      });
    }
  }
  return placements;
}

const isCertainlyAddress = ({ place, url }: Reference): boolean =>
  /^md |^(?:img|a|source|video|audio) /.test(place) && !/^\s*[\\/]/.test(url);

/** The use of an item: placed by a reference or by convention, else mentioned, else unused. */
export function useOf(path: SitePath, placed: boolean, mentioned: boolean): Use {
  if (placed || isConventional(path)) return 'placed';
  return mentioned ? 'mentioned' : 'unused';
}

/**
 * The uses of images and their sizes: a family is one item, so what shows one of it shows all.
 * @param mainOf the image that one is a size of; itself, if it is none
 */
export async function familyUses<Id>(
  uses: ReadonlyMap<Id, Use>,
  mainOf: (id: Id) => Id,
  breathe: Breathe = WITHOUT_PAUSE,
): Promise<Map<Id, Use>> {
  const most = new Map<Id, Use>();
  await each(uses, breathe, ([id, use]) => {
    const main = mainOf(id);
    const before = most.get(main);
    if (before === undefined || USES.indexOf(use) < USES.indexOf(before)) most.set(main, use);
  });
  return mapOf(uses.keys(), breathe, (id) => [id, most.get(mainOf(id))!]);
}

/** Mentions of a file in another file: a file never mentions itself, and a wrong-case reference counts as a mention. */
export function mentionsOf(
  page: SitePath,
  mentions: readonly Mention[],
  placements: readonly Placement[],
): Mention[] {
  const found = mentions.filter((mention) => mention.path !== page);
  for (const placement of placements) {
    const near = placement.near;
    if (near === undefined || near === page) continue;
    if (!found.some((mention) => mention.path === near && mention.line === placement.line)) {
      found.push({ path: near, line: placement.line });
    }
  }
  return found;
}
