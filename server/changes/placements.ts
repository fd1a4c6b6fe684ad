import { creditFor } from '../../core/describe/licence.ts';
import { baseName, extensionOf, folderOf, joinPath, stemOf, type SitePath } from '../../core/address/path.ts';
import { snippetOf } from '../../core/address/snippet.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import { positionOf, readFocal } from '../../core/picture/focal.ts';
import { galleryHtml, type Gallery, type GalleryPicture, type Placing } from '../../core/reference/markup.ts';
import { markupFor, type PageEdit } from '../../core/reference/page-edit.ts';
import { Fault } from '../fault.ts';
import { inTime } from '../workers/pool.ts';
import type { Site } from '../app/site.ts';
import { ALL_HERE } from '../db/item-query.ts';
import type { Item } from '../db/item-rows.ts';
import { EDIT_LIMIT, editedPage, finish, readdressed, styleOf, write } from './page-rewrites.ts';
import { needAllHere, needHere, type Proposal } from './proposal.ts';
import { SCALED } from './family.ts';
import { placedItem, plainPlaced, scaled, WEB_WIDTH } from './sizes.ts';
import { each, filter, setOf, sorted } from '../../core/paced.ts';
import { breathe } from '../workers/breathe.ts';

/** What placing items needs of a site. */
export type PlacingNeeds = Pick<
  Site,
  | 'folder'
  | 'data'
  | 'planBytes'
  | 'index'
  | 'scanner'
  | 'reader'
  | 'items'
  | 'finder'
  | 'references'
  | 'pool'
  | 'siteState'
>;

/** One placement, and the item that it is to show from now on. */
export interface Pointing {
  page: SitePath;
  start: number;
  path: SitePath;
}

/**
 * Plans that some references lead to other files: only their addresses change.
 * @param made a plan that makes files which are led to, and that this one becomes a part of
 */
export async function proposePointing(
  site: Pick<Site, 'folder' | 'planBytes' | 'index' | 'scanner' | 'pool'>,
  pointings: readonly Pointing[],
  kind: 'repair' | 'replace' = 'repair',
  made?: Proposal,
): Promise<Proposal> {
  await site.scanner.scan();
  const files = await setOf(made?.plan.files ?? [], breathe, (step) =>
    step.do === 'create' ? step.path : undefined,
  );
  const plan = emptyPlan(kind, '');
  const targets = await setOf(pointings, breathe, (one) => one.path);
  const reads = await filter(targets, breathe, (path) => !files.has(path));
  const proposal: Proposal = { plan, reads };
  plan.files.push(...(made?.plan.files ?? []));
  const after = files.size > 0 ? await site.index.map.changed([], files, breathe) : site.index.map;
  const byPage = new Map<SitePath, Map<number, SitePath>>();
  await each(pointings, breathe, ({ page, start, path }) => {
    if (!after.has(path)) throw new Fault('not-found', `There is no file “${path}”.`, 'Choose another one.');
    byPage.set(page, (byPage.get(page) ?? new Map<number, SitePath>()).set(start, path));
  });
  for (const [page, elsewhere] of byPage) {
    await breathe();
    const bytes = await site.folder.read(page);
    const rewrite = await readdressed(
      site,
      page,
      bytes,
      new Map(),
      site.index.map,
      after,
      undefined,
      elsewhere,
    );
    if (rewrite && 'changes' in rewrite && rewrite.changes.length < elsewhere.size) throw movedOn(page);
    await write(site, proposal, page, bytes, rewrite);
  }
  await finish(site, proposal, targets.size);
  const spans = plan.totals.spans;
  plan.title =
    kind === 'repair'
      ? `Repair ${spans === 1 ? '1 reference' : `${spans} references`}`
      : `Replace ${spans === 1 ? '1 placement' : `${spans} placements`}`;
  return proposal;
}

/** Where an item is put: between two blocks, in place of an image, as the background of a block that has one, or of one that has none. */
export type Spot =
  { at: number } | { insteadOf: number } | { background: number; in: SitePath } | { behind: number };

export interface PlacingRequest extends Placing {
  page: SitePath;
  spot: Spot;
  itemId: number;
  /** Other widths of the image are made and offered to the browser. */
  sizes: boolean;
  /** The image as it is, instead of one that is no wider than the web needs. */
  full: boolean;
}

/** Plans to put an item on a page. New sizes of it are files of their own, made now and written with the page. */
export async function proposePlacing(site: PlacingNeeds, request: PlacingRequest): Promise<Proposal> {
  await site.scanner.scan();
  const { page, spot } = request;
  const item = needHere(site, request.itemId);
  if ('background' in spot) {
    const sized: Proposal = { plan: emptyPlan('place', '') };
    const { path } = await placedItem(site, sized, item, { ...request, sizes: false });
    const proposal = await proposePointing(
      site,
      [{ page: spot.in, start: spot.background, path }],
      'repair',
      sized,
    );
    proposal.plan.kind = 'place';
    proposal.plan.title = `Set “${item.name}” as a background on “${site.references.titleOf(page)}”`;
    const others = site.references.pagesShowing([spot.in]).length - 1;
    if (spot.in !== page && others > 0)
      proposal.plan.warnings.push(
        `It is written in the style sheet “${spot.in}”, which ${others === 1 ? '1 other file uses' : `${others} other files use`}: the change affects them too.`,
      );
    return proposal;
  }
  const proposal: Proposal = { plan: emptyPlan('place', ''), reads: [item.path] };
  const placed = await placedItem(
    site,
    proposal,
    item,
    'behind' in spot ? { ...request, sizes: false } : request,
  );
  const style = styleOf(site, page);
  const edit: PageEdit =
    'behind' in spot
      ? {
          do: 'style',
          start: spot.behind,
          set: {
            'background-image': `url("${style.of(placed.path).replace(/["\\\\]/g, encodeURIComponent)}")`,
            'background-size': 'cover',
            'background-position': placed.position ?? 'center',
          },
        }
      : 'insteadOf' in spot
        ? { do: 'exchange', start: spot.insteadOf, item: placed, shownWidth: request.shownWidth }
        : { do: 'insert', at: spot.at, lines: markupFor(page, placed, request, style), what: item.kind };
  const bytes = await site.folder.read(page);
  const edited =
    'insteadOf' in spot && /\.(md|markdown)$/i.test(page)
      ? await readdressed(
          site,
          page,
          bytes,
          new Map(),
          site.index.map,
          site.index.map,
          undefined,
          new Map([[spot.insteadOf, placed.path]]),
        )
      : await editedPage(site, page, bytes, [edit]);
  await write(site, proposal, page, bytes, edited);
  proposal.plan.title =
    'behind' in spot
      ? `Set “${item.name}” as a background on “${site.references.titleOf(page)}”`
      : 'insteadOf' in spot
        ? `Replace an image with “${item.name}” on “${site.references.titleOf(page)}”`
        : `Place “${item.name}” on “${site.references.titleOf(page)}”`;
  const credit = 'at' in spot && request.caption ? '' : creditFor(item.words);
  if (credit !== '')
    proposal.plan.warnings.push(
      `The licence of “${item.name}” asks for a credit near it, and none is written here: “${credit}”.`,
    );
  if (!('behind' in spot) && item.kind === 'image' && !item.words.decorative && item.words.alt.trim() === '')
    proposal.plan.warnings.push(
      `“${item.name}” has no alt text yet, so none is written. Describe it first, or update the page later.`,
    );
  await finish(site, proposal, 1);
  return proposal;
}

/** An item as a snippet for use elsewhere. Null: the web size is not there yet. */
export function snippetFor(
  site: Pick<Site, 'index' | 'items'>,
  item: Item,
  form: 'plain' | 'html' | 'markdown',
  size: 'web' | 'full',
): string | null {
  const { roots } = site.index.map;
  if (size === 'full' || !SCALED.has(item.mime) || (item.width ?? 0) <= WEB_WIDTH)
    return snippetOf(item, form, roots);
  const web = site.items.atPath(
    joinPath(item.folder, `${stemOf(item.path)}-${WEB_WIDTH}${extensionOf(item.path)}`),
  );
  return web ? snippetOf({ ...web, words: item.words }, form, roots) : null;
}

/** What the record says of a image's focal point, and the placements that are to follow it. */
export async function proposeFocal(
  site: PlacingNeeds,
  itemId: number,
  focal: string,
  places: readonly { page: SitePath; start: number }[],
): Promise<Proposal> {
  await site.scanner.scan();
  const named = needHere(site, itemId);
  // A size shows what its image shows.
  const item = named.sizeOf === null ? named : site.items.need(named.sizeOf);
  const plan = emptyPlan('place', `Set the focal point of “${item.name}”`);
  const proposal: Proposal = { plan };
  if (item.focal !== focal)
    plan.records.push({
      itemId: item.id,
      rowVersion: item.rowVersion,
      before: { focal: item.focal },
      after: { focal },
    });
  const position = positionOf(readFocal(focal));
  for (const page of new Set(places.map((one) => one.page))) {
    const edits = places
      .filter((one) => one.page === page)
      .map(({ start }): PageEdit => ({ do: 'focus', start, position }));
    const bytes = await site.folder.read(page);
    await write(site, proposal, page, bytes, await editedPage(site, page, bytes, edits));
  }
  await finish(site, proposal, 1);
  return proposal;
}

export interface GalleryRequest extends Gallery {
  page: SitePath;
  /** Between two blocks; or the gallery that stands there, by the byte offset of its element, made anew. */
  spot: { at: number } | { gallery: number };
  /** The images in their order; of a gallery made anew: those that stand first, then what is new in folder or tag. */
  itemIds: readonly number[];
}

/** Plans a gallery: small images are made beside the large ones, and plain HTML is written to the page. */
export async function proposeGallery(site: PlacingNeeds, request: GalleryRequest): Promise<Proposal> {
  await site.scanner.scan();
  const { page, spot } = request;
  const items = (await needAllHere(site, request.itemIds)).filter((item) => item.kind === 'image');
  if (items.length === 0)
    throw new Fault(
      'bad-request',
      'This gallery has no images.',
      'Choose a folder, a tag or items with images.',
    );
  const reads = items.map((item) => item.path);
  const proposal: Proposal = { plan: emptyPlan('place', ''), reads };
  const pictures: GalleryPicture[] = [];
  for (const item of items) {
    const small = await smallPicture(site, proposal, item, request);
    pictures.push({ ...plainPlaced(item), small });
  }
  const style = styleOf(site, page);
  const lines = galleryHtml(request, pictures, style);
  const bytes = await site.folder.read(page);
  let edit: PageEdit;
  if ('at' in spot) edit = { do: 'insert', at: spot.at, lines, what: 'gallery' };
  else {
    const there = (await galleriesOn(site, page)).find((one) => one.start === spot.gallery);
    if (!there) throw movedOn(page);
    edit = { do: 'element', start: there.start, end: there.end, lines, what: 'gallery' };
  }
  await write(site, proposal, page, bytes, await editedPage(site, page, bytes, [edit]));
  const silent = items.filter(({ words }) => !words.decorative && !words.alt.trim() && !words.title.trim());
  if (silent.length > 0)
    proposal.plan.warnings.push(
      `${silent.length === 1 ? `“${silent[0]!.name}” has` : `${silent.length} images have`} no alt text, so none is written. Describe ${silent.length === 1 ? 'it' : 'them'} first, or update the page later.`,
    );
  proposal.plan.title = `${'at' in spot ? 'Place' : 'Update'} a gallery of ${items.length === 1 ? '1 image' : `${items.length} images`} on “${site.references.titleOf(page)}”`;
  await finish(site, proposal, items.length);
  return proposal;
}

/** A gallery that stands on a page, and what it would hold if it were made now. */
export interface GalleryOnPage {
  start: number;
  end: number;
  gallery: Gallery;
  itemIds: number[];
  /** Images that are in its folder or under its tag now and not on the page. */
  added: number;
  /** Images on the page that are there no longer, or no longer belong to it. */
  gone: number;
}

export async function galleriesOn(site: PlacingNeeds, page: SitePath): Promise<GalleryOnPage[]> {
  const bytes = await site.folder.read(page);
  if (!bytes.includes('data-gallery')) return [];
  // One that takes too long to be read tells of none.
  const there = (await inTime(() => site.pool.run('galleries', { bytes }, { limit: EDIT_LIMIT }))) ?? [];
  const found: GalleryOnPage[] = [];
  const shown = site.references.placedOn(page);
  for (const { gallery, ...whole } of there) {
    const within = shown
      .filter((one) => one.place === 'a href' && one.start > whole.start && one.start < whole.end)
      .map((one) => site.items.atPath(one.path)?.id)
      .filter((id) => id !== undefined);
    const now = new Set((await membersOf(site, gallery.from)) ?? within);
    const before = new Set(within);
    // The order that a person gave stays; what is new comes last.
    const stay = within.filter((id) => now.has(id));
    const added = [...now].filter((id) => !before.has(id));
    found.push({
      ...whole,
      gallery,
      itemIds: [...stay, ...added],
      added: added.length,
      gone: within.length - stay.length,
    });
  }
  return found;
}

/** Ids of the images of a folder or a tag, by name; small images of galleries and sizes of others are not among them. */
export async function membersOf(
  site: Pick<Site, 'reader' | 'items' | 'finder'>,
  from: Gallery['from'],
): Promise<number[] | undefined> {
  if ('gathered' in from) return undefined;
  const ids = await site.finder.idsApart(site.reader, {
    ...ALL_HERE,
    ...('folder' in from ? { folder: from.folder, below: false } : { where: tagged(from.tag) }),
  });
  const images = (await site.items.many(ids)).filter((item) => item.kind === 'image');
  const order = await sorted(images, breathe, (a, b) => (a.path < b.path ? -1 : 1));
  return order.map((item) => item.id);
}

const tagged = (tag: string) => ({
  join: 'all' as const,
  of: [{ test: 'tag' as const, value: tag, not: false }],
  not: false,
});

/** The small image of a gallery; of what cannot be made smaller, it is the image itself. */
async function smallPicture(
  site: PlacingNeeds,
  proposal: Proposal,
  item: Item,
  { side, quality }: Gallery,
): Promise<GalleryPicture['small']> {
  const [width, height] = [item.width ?? side, item.height ?? side];
  if (!SCALED.has(item.mime) || Math.max(width, height) <= side) return { path: item.path, width, height };
  return scaled(site, proposal, item, { width: side, height: side }, quality);
}

function movedOn(page: SitePath): Fault {
  return new Fault(
    'moved-on',
    `“${baseName(page)}” has changed in the meantime, so a placement is no longer where it was.`,
    `Look at the page in “${folderOf(page) || 'the site’s root'}” again, then choose again.`,
  );
}
