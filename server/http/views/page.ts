import { createHash } from 'node:crypto';
import type { BrokenView, PageDetail, ShownView } from '../../../api/pages.ts';
import type { SitePath } from '../../../core/address/path.ts';
import { filter } from '../../../core/paced.ts';
import { isHtmlPage, isMarkdownPage } from '../../../core/reference/page-edit.ts';
import { REPAIR_REASONS, Repairs } from '../../../core/reference/repair.ts';
import { isUntidy } from '../../../core/reference/new-addresses.ts';
import { Fault } from '../../fault.ts';
import { galleriesOn, type PlacingNeeds } from '../../changes/placements.ts';
import { backgroundsOf, PREVIEW_LIMIT } from '../../preview/backgrounds.ts';
import { redirectsOf } from '../../scan/redirects.ts';
import type { Site } from '../../app/site.ts';
import { breathe } from '../../workers/breathe.ts';
import { inTime } from '../../workers/pool.ts';

/** A page with what it shows. @param look where it can be looked at. @throws Fault 'not-found' */
export async function pageView(
  site: PlacingNeeds,
  path: SitePath,
  look: (page: SitePath) => string | null,
): Promise<PageDetail> {
  if (!site.index.factsOf(path)?.reading)
    throw new Fault('not-found', `There is no page “${path}”.`, 'Reload the list of pages.');
  const editable = isHtmlPage(path) || isMarkdownPage(path);
  const pictures = await picturesOf(site, path);
  const shown = await shownViews(site, path, pictures.images);
  return {
    path,
    title: site.references.titleOf(path),
    look: look(path),
    editable: editable && !site.index.factsOf(path)!.reading!.unread,
    shown,
    stamp: stampOf(site, path, shown),
    broken: await brokenViews(site, site.references.brokenOf(path)),
    galleries: await galleriesOn(site, path),
    classes: pictures.classes.slice(0, 40),
  };
}

/** Of the bytes of a page, of the files that it links to, and of what it shows. */
function stampOf(site: Pick<Site, 'index'>, page: SitePath, shown: readonly ShownView[]): string {
  const hash = createHash('sha256').update(site.index.factsOf(page)?.sha256 ?? '');
  for (const reference of site.index.factsOf(page)?.reading?.references ?? []) {
    const target = reference.place === 'link href' ? site.index.map.follow(reference, page) : undefined;
    if (target?.to === 'file') hash.update(site.index.factsOf(target.path)?.sha256 ?? '');
  }
  for (const one of shown) hash.update(`${one.path} ${one.sha256} `);
  return hash.digest('hex').slice(0, 16);
}

export async function brokenViews(
  site: Pick<Site, 'folder' | 'index' | 'items'>,
  rows: ReturnType<Site['references']['brokenOf']>,
): Promise<BrokenView[]> {
  if (rows.length === 0) return [];
  const items = await filter(
    site.index.paths,
    breathe,
    (path) => site.index.factsOf(path)?.item !== undefined,
  );
  const moved = site.items.movedByOthers().map(({ from, to }) => ({ from: `/${from}`, to: `/${to}` }));
  const repairs = await Repairs.of(items, [...moved, ...(await redirectsOf(site)).redirects], breathe);
  const views: BrokenView[] = [];
  for (const { path, ...row } of rows) {
    await breathe();
    const likely = await repairs.for(path);
    views.push({
      ...row,
      repairs: likely.map(({ path, reason, sure }) => ({ path, why: REPAIR_REASONS[reason], sure })),
    });
  }
  return views;
}

async function shownViews(
  site: Pick<Site, 'folder' | 'index' | 'references' | 'pool'>,
  page: SitePath,
  images: Awaited<ReturnType<typeof picturesOf>>['images'],
): Promise<ShownView[]> {
  const rows = site.references.shownOn(page);
  const file = await site.folder.locate(page);
  const starts = rows.map((row) => row.start);
  const words = await inTime(() =>
    site.pool.run('words', { file, path: page, starts }, { limit: PREVIEW_LIMIT }),
  );
  const said = new Map((words ?? []).map((one) => [one.start, one]));
  const own = rows.map(({ hasAlt, url, ...row }) => {
    const element = images.find(({ start, end }) => start <= row.start && row.start < end);
    const has = (name: string) => element?.attributes.includes(name) ?? false;
    return {
      ...row,
      page,
      at: row.start,
      hasAlt: hasAlt === 1,
      untidy: isUntidy(url),
      title: said.get(row.start)?.title ?? null,
      linkText: said.get(row.start)?.linkText ?? null,
      sized: element ? has('width') && has('height') : null,
      loading: element ? has('loading') : null,
    };
  });
  return [...own, ...(await sheetViews(site, page))];
}

/** What the page's style sheets may show on it. */
async function sheetViews(
  site: Pick<Site, 'folder' | 'index' | 'references' | 'pool'>,
  page: SitePath,
): Promise<ShownView[]> {
  const found = (await inTime(() => backgroundsOf(site, page)))?.filter((one) => one.page !== page) ?? [];
  const bySheet = new Map(found.map((one) => [one.page, site.references.shownOn(one.page)]));
  return found.flatMap((one) => {
    const row = bySheet.get(one.page)!.find((row) => row.start === one.start);
    if (!row) return [];
    const none = { hasAlt: false, title: null, linkText: null, sized: null, loading: null };
    const { url, ...rest } = row;
    return [{ ...rest, ...none, untidy: isUntidy(url), page: one.page, at: one.at }];
  });
}

/** What the images of a page say, and the classes for images that it and its style sheets have; parsed by a worker. */
async function picturesOf(site: Pick<Site, 'folder' | 'index' | 'pool'>, page: SitePath) {
  const sheets: string[] = [];
  for (const reference of site.index.factsOf(page)?.reading?.references ?? []) {
    if (reference.place !== 'link href') continue;
    const target = site.index.map.follow(reference, page);
    if (target.to === 'file' && target.path.endsWith('.css'))
      sheets.push(await site.folder.locate(target.path));
  }
  const file = await site.folder.locate(page);
  const read = () =>
    site.pool.run('pictures', { file, path: page, sheets: [...new Set(sheets)] }, { limit: PREVIEW_LIMIT });
  return (await inTime(read)) ?? { images: [], classes: [] };
}
