import { baseName, folderOf, joinPath, type SitePath } from '../../core/address/path.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import {
  PLACED_CSS,
  PLACED_SHEET,
  placedChoices,
  placedClasses,
  isPlacedClass,
  type Alignment,
  type Spacing,
} from '../../core/reference/placed-styles.ts';
import type { PlacementReading } from '../../core/reference/placement-reading.ts';
import type { WordChange } from '../../core/reference/placed-words.ts';
import { isHtmlPage, type PageEdit } from '../../core/reference/page-edit.ts';
import { Fault } from '../fault.ts';
import { breathe } from '../workers/breathe.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import { EDIT_LIMIT, editedPage, finish, rewordedPage, styleOf, write } from './page-rewrites.ts';
import { inTime } from '../workers/pool.ts';
import { needHere, type Proposal } from './proposal.ts';

/** What is needed of a site here. */
type Needs = Pick<Site, 'folder' | 'planBytes' | 'index' | 'scanner' | 'items' | 'references' | 'pool'>;

/** What is to change of one placement; what is left out stays. */
export interface PlacementChange {
  page: SitePath;
  /** Byte offset of its address. */
  start: number;
  /** Null: the attribute is taken away. Empty: decorative. */
  alt?: string | null | undefined;
  title?: string | null | undefined;
  linkText?: string | undefined;
  caption?: string | null | undefined;
  /** CSS pixels; null: as wide as the file. */
  shownWidth?: number | null | undefined;
  /** Classes of the site. */
  classes?: string | undefined;
  /** By the small style sheet, which is made and linked where it is needed. */
  ours?: { align: Alignment; space: Spacing } | undefined;
  /** Of a video: the image that stands there until it plays. */
  posterId?: number | null | undefined;
  captions?: { path: SitePath; language: string; label: string } | null | undefined;
}

/** How a placement is now, and what of it can be changed. */
export interface PlacementFacts {
  words: { alt: string | null; title: string | null; linkText: string | null; takesAlt: boolean };
  caption: string | null;
  /** As it is written; null: nothing is. */
  width: number | null;
  classes: string[];
  ours: { align: Alignment; space: Spacing };
  isFilm: boolean;
  poster: SitePath | null;
  captions: { path: SitePath; language: string }[];
  /** Caption tracks of the site. */
  tracks: SitePath[];
  /** Markdown has words, and nothing else. */
  onlyWords: boolean;
  up: boolean;
  down: boolean;
}

function placedAt(
  site: Pick<Site, 'items' | 'references'>,
  page: SitePath,
  start: number,
): { item: Item; end: number } {
  const row = site.references.placedOn(page).find((one) => one.start === start);
  const item = row && site.items.atPath(row.path);
  if (!row || !item)
    throw new Fault(
      'moved-on',
      `“${baseName(page)}” has changed in the meantime, so a placement is no longer where it was.`,
      'Reload the page, then choose again.',
    );
  return { item, end: row.end };
}

/** What a page says of a placement; a worker reads it. @throws Fault when the page cannot be read */
async function readingAt(
  site: Pick<Site, 'folder' | 'pool'>,
  page: SitePath,
  start: number,
): Promise<{ bytes: Buffer; reading: PlacementReading }> {
  const bytes = await site.folder.read(page);
  const reading = await inTime(() =>
    site.pool.run('placement', { path: page, bytes, start }, { limit: EDIT_LIMIT }),
  );
  if (reading === undefined)
    throw new Fault('bad-request', 'The page takes too long to read.', 'Edit it in its own program.');
  if (reading === null)
    throw new Fault('bad-request', 'The page cannot be read as text.', 'Fix the page first, then reload it.');
  return { bytes, reading };
}

/** @throws Fault when nothing stands there any more */
export async function placementFacts(
  site: Pick<Site, 'folder' | 'index' | 'items' | 'references' | 'pool'>,
  page: SitePath,
  start: number,
): Promise<PlacementFacts> {
  placedAt(site, page, start);
  const { reading } = await readingAt(site, page, start);
  const { words: said, element, up, down } = reading;
  const facts: PlacementFacts = {
    words: {
      alt: said?.alt ?? null,
      title: said?.title ?? null,
      linkText: said?.linkText ?? null,
      takesAlt: said?.takesAlt ?? false,
    },
    caption: null,
    width: null,
    classes: [],
    ours: { align: 'none', space: 'none' },
    isFilm: false,
    poster: null,
    captions: [],
    tracks: [...site.index.paths].filter((path) => /\.vtt$/i.test(path)),
    onlyWords: !isHtmlPage(page),
    up,
    down,
  };
  if (!element) return facts;
  const { span, classes, attributes } = element;
  const within = site.references
    .placedOn(page)
    .filter((one) => span && one.start > span.start && one.start < span.end);
  return {
    ...facts,
    caption: element.captioned ? said?.figcaption || '' : null,
    width: Number.parseInt(attributes['width'] ?? '', 10) || null,
    classes: classes.filter((one) => !isPlacedClass(one)),
    ours: placedChoices(classes),
    isFilm: element.name === 'video',
    poster: within.find((one) => one.place === 'video poster')?.path ?? null,
    captions: element.tracks.map(({ src, language }) => ({ path: src, language })),
  };
}

/** Plans a change of one placement: its words, how it looks, where a video has its poster and captions. */
export async function proposePlacement(site: Needs, change: PlacementChange): Promise<Proposal> {
  await site.scanner.scan();
  const { page, start } = change;
  const { item } = placedAt(site, page, start);
  const proposal: Proposal = { plan: emptyPlan('place', ''), reads: [item.path] };
  const { bytes, reading } = await readingAt(site, page, start);
  proposal.plan.title = `Edit “${item.name}” on “${site.references.titleOf(page)}”`;
  if (!isHtmlPage(page)) {
    const { alt, title, linkText } = change;
    const words: WordChange = {
      start,
      ...(typeof alt === 'string' ? { alt } : {}),
      ...(typeof title === 'string' ? { title } : {}),
      ...(linkText !== undefined ? { linkText } : {}),
    };
    await write(site, proposal, page, bytes, await rewordedPage(site, page, bytes, [words]));
  } else {
    const edits = htmlEdits(site, proposal, item, reading.element, change);
    await write(
      site,
      proposal,
      page,
      bytes,
      await editedPage(site, page, bytes, await withSheet(site, proposal, change, edits)),
    );
  }
  await finish(site, proposal, 1);
  return proposal;
}

function htmlEdits(
  site: Pick<Site, 'index' | 'items'>,
  proposal: Proposal,
  item: Item,
  element: PlacementReading['element'],
  change: PlacementChange,
): PageEdit[] {
  const { page, start } = change;
  const style = styleOf(site, page);
  const has = (name: string) => element?.attributes[name];
  const edits: PageEdit[] = [];
  const set: Record<string, string | null> = {};
  if (change.alt !== undefined) set['alt'] = change.alt;
  if (change.title !== undefined) set['title'] = change.title || null;
  if (change.shownWidth !== undefined && item.width && item.height) {
    // The proportion is that of the file: another one would distort it.
    const width = change.shownWidth ?? item.width;
    set['width'] = String(width);
    set['height'] = String(Math.max(1, Math.round((width * item.height) / item.width)));
    if (has('srcset') !== undefined)
      set['sizes'] = change.shownWidth ? `(max-width: ${width}px) 100vw, ${width}px` : '100vw';
  }
  if (change.posterId !== undefined) {
    const poster = change.posterId === null ? undefined : needHere(site, change.posterId);
    if (poster && poster.kind !== 'image')
      throw new Fault('bad-request', `“${poster.name}” isn’t an image.`, 'Choose an image as the poster.');
    set['poster'] = poster ? style.of(poster.path) : null;
    if (poster) proposal.reads!.push(poster.path);
  }
  // What is as it was is no change.
  for (const [name, value] of Object.entries(set)) if ((has(name) ?? null) === value) delete set[name];
  if (Object.keys(set).length > 0) edits.push({ do: 'attributes', start, set });
  if (change.classes !== undefined || change.ours) {
    const before = element?.classes ?? [];
    const theirs =
      change.classes?.split(/\s+/).filter(Boolean) ?? before.filter((one) => !isPlacedClass(one));
    const ours = change.ours
      ? placedClasses(change.ours.align, change.ours.space)
      : before.filter((one) => isPlacedClass(one));
    const after = [...theirs, ...ours].join(' ');
    if (after !== before.join(' '))
      edits.push({ do: 'attributes', start, of: 'outer', set: { class: after || null } });
  }
  if (change.linkText !== undefined) edits.push({ do: 'link-text', start, text: change.linkText });
  if (change.caption !== undefined)
    edits.push({ do: 'caption', start, text: change.caption?.trim() || null });
  if (change.captions !== undefined) {
    const { captions } = change;
    if (captions && !site.index.map.has(captions.path))
      throw new Fault(
        'not-found',
        `There is no file “${captions.path}”.`,
        'Bring in the captions file first.',
      );
    if (captions) proposal.reads!.push(captions.path);
    edits.push({
      do: 'captions',
      start,
      track: captions && { src: captions.path, language: captions.language, label: captions.label },
    });
  }
  return edits;
}

/** The small style sheet: made where the site has none, and linked where the page does not. */
async function withSheet(
  site: Pick<Site, 'folder' | 'planBytes' | 'index'>,
  proposal: Proposal,
  { page, ours }: PlacementChange,
  edits: PageEdit[],
): Promise<PageEdit[]> {
  if (!ours || (ours.align === 'none' && ours.space === 'none')) return edits;
  const references = site.index.factsOf(page)?.reading?.references ?? [];
  const linked = references.flatMap((one) => {
    const target = one.place === 'link href' ? site.index.map.follow(one, page) : undefined;
    return target?.to === 'file' && /\.css$/i.test(target.path) ? [target.path] : [];
  });
  const isOurs = async (path: SitePath) =>
    (await site.folder.read(path)).toString('utf8').includes('.placed-left');
  for (const path of linked) if (await isOurs(path)) return edits;
  let sheet: SitePath | undefined;
  for (const path of site.index.paths)
    if (
      sheet === undefined &&
      baseName(path).startsWith('placements') &&
      /\.css$/i.test(path) &&
      (await isOurs(path))
    )
      sheet = path;
  if (sheet === undefined) {
    const folder = linked[0] === undefined ? (site.index.map.roots[0] ?? '') : folderOf(linked[0]);
    sheet = joinPath(folder, PLACED_SHEET);
    for (let number = 2; site.index.map.has(sheet); number++)
      sheet = joinPath(folder, PLACED_SHEET.replace('.css', `-${number}.css`));
    proposal.plan.files.push({
      do: 'write',
      path: sheet,
      before: null,
      after: await site.planBytes.keep(new TextEncoder().encode(PLACED_CSS)),
    });
    proposal.plan.warnings.push(
      `The style sheet “${sheet}” is added to the site, and this page is linked to it. It holds only rules for classes that begin with “placed-”.`,
    );
  }
  return [...edits, { do: 'sheet', href: sheet }];
}

/** Plans to take placements off their pages: the items stay on the site. */
export async function proposeUnplace(
  site: Needs,
  places: readonly { page: SitePath; start: number }[],
): Promise<Proposal> {
  await site.scanner.scan();
  const plan = emptyPlan('place', '');
  const proposal: Proposal = { plan };
  const items = new Map<number, Item>();
  const byPage = new Map<SitePath, number[]>();
  for (const { page, start } of places) {
    const there = byPage.get(page);
    if (there) there.push(start);
    else byPage.set(page, [start]);
  }
  for (const [page, starts] of byPage) {
    await breathe();
    const edits = starts.map((start): PageEdit => {
      const { item, end } = placedAt(site, page, start);
      items.set(item.id, item);
      return { do: 'remove', start, end };
    });
    const bytes = await site.folder.read(page);
    await write(site, proposal, page, bytes, await editedPage(site, page, bytes, edits));
    const others = /\.css$/i.test(page) ? site.references.pagesShowing([page]).length : 0;
    if (others > 1)
      plan.warnings.push(
        `The style sheet “${page}” is used by ${others} files. The change affects all of them.`,
      );
  }
  const [only] = items.values();
  const [page] = places;
  plan.title =
    places.length === 1
      ? `Remove “${only!.name}” from “${site.references.titleOf(page!.page)}”`
      : `Remove ${places.length} placements`;
  await finish(site, proposal, items.size);
  return proposal;
}

/** Plans that a placement changes places with what stands before or after it. */
export async function proposeOrder(
  site: Needs,
  page: SitePath,
  start: number,
  to: 'up' | 'down',
): Promise<Proposal> {
  await site.scanner.scan();
  const { item } = placedAt(site, page, start);
  const proposal: Proposal = {
    plan: emptyPlan('place', `Move “${item.name}” ${to} on “${site.references.titleOf(page)}”`),
  };
  const bytes = await site.folder.read(page);
  await write(site, proposal, page, bytes, await editedPage(site, page, bytes, [{ do: 'order', start, to }]));
  await finish(site, proposal, 1);
  return proposal;
}
