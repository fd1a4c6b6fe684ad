import type { ItemDetail, MadeView } from '../../../api/items.ts';
import { baseName, type SitePath } from '../../../core/address/path.ts';
import { cleanName, NAME_FAULT_TEXTS } from '../../../core/address/name.ts';
import { addressOf } from '../../../core/address/redirects.ts';
import { textAround } from '../../../core/reference/read.ts';
import { readSource } from '../../../core/reference/source.ts';
import { readMadePdf, type MadePdf } from '../../../core/print/made-pdf.ts';
import { madeFrom } from '../../changes/make-pdf.ts';
import { familyPlacements } from '../../describe/placement-contexts.ts';
import type { Site } from '../../app/site.ts';
import type { Item } from '../../db/item-rows.ts';
import { viewOf } from '../../db/item-view.ts';
import { standing } from '../../db/suggested-tags.ts';

/** Placements shown in a record with their surrounding text; the rest is counted. */
const SHOWN_PLACEMENTS = 50;

/** Hashes of the images that look like an item, as the door tells them. */
export function lookAlikes(site: Pick<Site, 'items' | 'alikes'>, id: number): string[] {
  const item = site.items.get(id);
  const alike = item ? site.alikes.of(item.sha256) : [];
  return item && alike.length > 0 ? [item.sha256, ...alike.map((one) => one.sha256)] : [];
}

export async function detailOf(
  site: Pick<
    Site,
    | 'folder'
    | 'index'
    | 'items'
    | 'families'
    | 'references'
    | 'contents'
    | 'live'
    | 'comments'
    | 'suggestedTags'
  >,
  item: Item,
): Promise<Omit<ItemDetail, 'proposals'>> {
  const rows = familyPlacements(site, item);
  const placements: ItemDetail['placements'] = [];
  for (const { path, page, pageTitle, line, place, url, alt, hasAlt, start, end } of rows.slice(
    0,
    SHOWN_PLACEMENTS,
  )) {
    // A page that has changed or gone since the last scan only loses its surrounding text here.
    const source = (await site.folder.facts(page)) ? readSource(await site.folder.read(page)) : undefined;
    const around = source && 'raw' in source ? textAround(source, start, end) : { before: '', after: '' };
    placements.push({ path, page, pageTitle, start, line, place, url, alt, hasAlt, ...around });
  }
  return {
    item: viewOf(item),
    address: addressOf(item.path, site.index.map.roots),
    placements,
    live: site.live.placementsOf(item.path),
    mentions: site.references.mentionsOf(item.path).map(({ page, line }) => ({ page, line })),
    copies: site.items
      .withHash(item.sha256)
      .filter((other) => other.id !== item.id)
      .map(({ id, path }) => ({ id, path })),
    nameFaults: item.nameFaults.map((fault) => NAME_FAULT_TEXTS[fault]),
    cleanName: cleanName(item.name),
    content: contentOf(site, item),
    ...madeView(site, item),
    hasOriginal: site.items.originalOf(item.id) !== null,
    family: familyView(site, item),
    comments: site.comments.of(item.id),
    unconfirmed: unconfirmedOf(site, item),
  };
}

function madeView(site: Pick<Site, 'index' | 'items'>, item: Item): Pick<ItemDetail, 'madeFrom' | 'pdfs'> {
  const made = readMadePdf(item.edit, item.sha256);
  return {
    madeFrom: (made && documentOf(site, made)) ?? null,
    pdfs: pdfsView(site, item.id, item.sha256),
  };
}

/** What a PDF was made from; undefined: it is not on the site any more. */
function documentOf(site: Pick<Site, 'index' | 'items'>, { from, sha256 }: MadePdf): MadeView | undefined {
  if (typeof from === 'number') {
    const item = site.items.get(from);
    return item && { id: item.id, path: item.path, name: item.name, current: sha256 === item.sha256 };
  }
  const page = site.index.factsOf(from);
  return page && { id: null, path: from, name: baseName(from), current: sha256 === page.sha256 };
}

/** The PDFs of a document. @param now hash of its bytes */
export const pdfsView = (site: Pick<Site, 'items'>, from: number | SitePath, now: string): MadeView[] =>
  madeFrom(site, from).map(({ id, path, name, edit, sha256 }) => ({
    id,
    path,
    name,
    current: readMadePdf(edit, sha256)!.sha256 === now,
  }));

/** Of an item's tags, those that were suggested and that nobody has confirmed. */
export const unconfirmedOf = (site: Pick<Site, 'suggestedTags'>, { id, words }: Item): string[] =>
  standing(words.tags, site.suggestedTags.said(id).taken);

function familyView(site: Pick<Site, 'items' | 'families'>, item: Item): ItemDetail['family'] {
  const main = item.sizeOf === null ? undefined : site.items.get(item.sizeOf);
  return {
    of: main ? { id: main.id, path: main.path, name: main.name } : null,
    said: item.family !== null,
    sizes: site.items
      .some(site.families.sizesOfOne(item.id))
      .map(({ id, path, name, width, height, bytes }) => ({ id, path, name, width, height, bytes }))
      .sort((a, b) => (b.width ?? 0) - (a.width ?? 0)),
  };
}

/** Characters of a document's text that are searched for where the words stand. */
export const SEARCHED = 200_000;
/** Characters of a document's text that its record shows. */
const EXCERPT = 300;

function contentOf(site: Pick<Site, 'contents'>, item: Item): ItemDetail['content'] {
  const content = site.contents.get(item.sha256);
  if (!content) return null;
  const { colours, frames, pages, codecs, profile, takenAt, notes, text } = content;
  return { colours, frames, pages, codecs, profile, takenAt, notes, excerpt: text.slice(0, EXCERPT) };
}
