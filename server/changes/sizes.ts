import { captionWithCredit } from '../../core/describe/licence.ts';
import { numberedName } from '../../core/address/name.ts';
import { clashKey, extensionOf, joinPath, stemOf, type SitePath } from '../../core/address/path.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import { positionOf, readFocal } from '../../core/picture/focal.ts';
import { LINK_FORM, linkTextOf } from '../../core/document/link-text.ts';
import { titleOf, type Placed } from '../../core/reference/markup.ts';
import { isHtmlPage, type PageEdit } from '../../core/reference/page-edit.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import { SCALED } from './family.ts';
import { ANY_HEIGHT, renderedImage } from './rendered.ts';
import { editedPage, finish, write } from './page-rewrites.ts';
import { itemsNow, needHere, type Progress, type Proposal } from './proposal.ts';
import { Unchanged } from './unchanged.ts';

/** What is needed of a site here. */
type Needs = Pick<
  Site,
  'folder' | 'data' | 'planBytes' | 'index' | 'scanner' | 'items' | 'references' | 'pool' | 'siteState'
>;

/** Widths that an image is offered in, in pixels, as far as it has them. */
const WIDTHS = [480, 800, 1200, 1600, 2400];
/** What the web size of an image is at most, in pixels of its width. */
export const WEB_WIDTH = 1600;

/** How an item is put on a page. */
interface Wanted {
  /** Other widths of the image are made and offered to the browser. */
  sizes: boolean;
  /** The image as it is, instead of one that is no wider than the web needs. */
  full: boolean;
  /** CSS pixels; null: not known. */
  shownWidth: number | null;
}

/** Plans the other sizes of an image, as files beside it. */
export async function proposeSizes(site: Needs, itemId: number): Promise<Proposal> {
  await site.scanner.scan();
  const item = needHere(site, itemId);
  const proposal: Proposal = {
    plan: emptyPlan('place', `Make sizes of “${item.name}”`),
  };
  await placedItem(site, proposal, item, { sizes: true, full: false, shownWidth: null });
  await finish(site, proposal, 1);
  return proposal;
}

/**
 * Plans that pages offer images in smaller sizes: these are made beside each, and the places that show it get a list of them. What visitors
 * see stays as large as it is, and the address of before stays the one for readers that know no lists.
 */
export async function proposeOffered(
  site: Needs,
  ids: readonly number[],
  progress?: Progress,
): Promise<Proposal> {
  const items = await itemsNow(site, ids);
  const proposal: Proposal = { plan: emptyPlan('offer', '') };
  const { plan } = proposal;
  const pages = new Pages(site);
  const edits = new Map<SitePath, PageEdit[]>();
  const unchanged = new Unchanged();
  let offered = 0;
  for (const [at, item] of items.entries()) {
    progress?.(at, items.length, 'images made smaller');
    const { able, why } = await offerable(site, item, pages);
    if (able.length === 0) {
      unchanged.add(item.path, `${why[0] ?? 'no page shows it'}.`);
      continue;
    }
    for (const one of new Set(why))
      plan.warnings.push(`“${item.path}” is unchanged at some placements: ${one}.`);
    const sizes = [{ path: item.path, width: item.width! }];
    for (const one of WIDTHS.filter((one) => one < item.width!))
      sizes.push(await scaled(site, proposal, item, { width: one, height: ANY_HEIGHT }, null));
    for (const place of able)
      edits.set(place.page, [...(edits.get(place.page) ?? []), offer(item, place, sizes)]);
    offered++;
  }
  for (const [page, wanted] of edits)
    await write(site, proposal, page, await pages.bytes(page), await pages.edited(page, wanted));
  await finish(site, proposal, offered);
  plan.warnings.push(...unchanged.lines());
  plan.title = `Add responsive sizes to ${offered === 1 ? '1 image' : `${offered} images`}`;
  return proposal;
}

/** Pages that are looked into several times while a plan is made. */
class Pages {
  private readonly read = new Map<SitePath, Buffer>();
  constructor(private readonly site: Pick<Site, 'folder' | 'index' | 'pool'>) {}

  async bytes(page: SitePath): Promise<Buffer> {
    const known = this.read.get(page) ?? (await this.site.folder.read(page));
    this.read.set(page, known);
    return known;
  }
  async edited(page: SitePath, edits: readonly PageEdit[]) {
    return editedPage(this.site, page, await this.bytes(page), edits);
  }
}

type Place = ReturnType<Site['references']['placementsOf']>[number];

/** Without a width of its own an image is drawn as wide as it is: browsers go by this instead, once there is a list. */
const offer = (
  item: Item,
  { start, wide }: Place,
  sizes: readonly { path: SitePath; width: number }[],
): PageEdit => ({ do: 'offer', start, sizes, shownWidth: wide ?? item.width! });

/** Where an image is shown so that sizes of it can be offered; and why not where it cannot, each as the end of a sentence. */
async function offerable(
  site: Pick<Site, 'references'>,
  item: Item,
  pages: Pages,
): Promise<{ able: Place[]; why: string[] }> {
  if (!SCALED.has(item.mime) || (item.width ?? 0) <= WIDTHS[0]!)
    return { able: [], why: ['no smaller sizes can be made'] };
  const able: Place[] = [];
  const why: string[] = [];
  for (const place of site.references.placementsOf(item.path)) {
    const { page, line, sized } = place;
    if (sized) why.push('it already has responsive sizes there');
    else if (place.place !== 'img src' || !isHtmlPage(page))
      why.push('style sheets, links and Markdown can’t offer sizes');
    else {
      // Tried before anything is encoded: what can’t be changed safely stands in nobody's way.
      const tried = await pages.edited(page, [offer(item, place, [{ path: item.path, width: item.width! }])]);
      if (tried && 'refused' in tried) why.push(`line ${line} of “${page}” can’t be changed safely`);
      else able.push(place);
    }
  }
  return { able, why };
}

/** An item as it is, to be put on a page. */
export function plainPlaced(item: Item): Placed {
  return {
    path: item.path,
    kind: item.kind,
    mime: item.mime,
    width: item.width,
    height: item.height,
    words: { ...item.words, caption: captionWithCredit(item.words) },
    position: item.focal ? positionOf(readFocal(item.focal)) : undefined,
  };
}

/** An item as it is put on a page: in the size that is wanted, with the other sizes that are wanted. */
export async function placedItem(
  site: Needs,
  proposal: Proposal,
  item: Item,
  { sizes, full, shownWidth }: Wanted,
): Promise<Placed> {
  const placed = plainPlaced(item);
  const width = item.width ?? 0;
  if (!['image', 'video', 'audio'].includes(item.kind))
    return { ...placed, linkText: linkTextOf(titleOf(placed), item, site.siteState.linkForm ?? LINK_FORM) };
  if (item.kind !== 'image' || !SCALED.has(item.mime) || width === 0) return placed;
  const most = full ? width : Math.min(width, shownWidth ? Math.max(WIDTHS[0]!, 2 * shownWidth) : WEB_WIDTH);
  const wanted = WIDTHS.filter(
    (one) => one < width && (sizes ? one <= Math.max(most, WIDTHS[0]!) : one === most),
  );
  const made: { path: SitePath; width: number; height: number }[] = [];
  for (const one of wanted)
    made.push(await scaled(site, proposal, item, { width: one, height: ANY_HEIGHT }, null));
  if (full || most === width) made.push({ path: item.path, width, height: item.height ?? 0 });
  else if (!made.some((one) => one.width === most))
    made.push(await scaled(site, proposal, item, { width: most, height: ANY_HEIGHT }, null));
  const shown = made.toSorted((a, b) => a.width - b.width).at(-1)!;
  return {
    ...placed,
    path: shown.path,
    width: shown.width,
    height: shown.height,
    ...(sizes && made.length > 1 ? { sizes: made } : {}),
  };
}

/** Another size of an image: one that lies there already under its name and has it, else one that is made now. */
export async function scaled(
  site: Needs,
  proposal: Proposal,
  item: Item,
  box: { width: number; height: number },
  quality: number | null,
): Promise<{ path: SitePath; width: number; height: number }> {
  const ratio = Math.min(1, box.width / item.width!, box.height / item.height!);
  const size = {
    width: Math.max(1, Math.round(item.width! * ratio)),
    height: Math.max(1, Math.round(item.height! * ratio)),
  };
  const name = `${stemOf(item.path)}-${Math.max(size.width, box.height > 50_000 ? size.width : size.height)}${extensionOf(item.path)}`;
  let path = joinPath(item.folder, name);
  const planned = (path: SitePath) =>
    proposal.plan.files.some((step) => step.do === 'create' && clashKey(step.path) === clashKey(path));
  for (let number = 2; site.index.map.has(path) || site.items.isHeld(path); number++) {
    const there = site.items.atPath(path);
    if (there?.width === size.width && there.height === size.height) return { path, ...size };
    path = joinPath(item.folder, numberedName(name, number));
  }
  if (planned(path)) return { path, ...size };
  const { sha256 } = await renderedImage(site, await site.folder.locate(item.path), {
    ...box,
    mime: item.mime,
    ...(quality === null ? {} : { quality }),
  });
  proposal.plan.files.push({ do: 'create', path, sha256 });
  return { path, ...size };
}
