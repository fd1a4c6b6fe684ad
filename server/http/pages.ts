import { createHash } from 'node:crypto';
import { z } from 'zod';
import {
  type BrokenView,
  type LayoutView,
  type PageDetail,
  type PlacementDetail,
  type ShownView,
} from '../../api/pages.ts';
import type { SitePath } from '../../core/address/path.ts';
import { isHtmlPage, isMarkdownPage } from '../../core/reference/page-edit.ts';
import { REPAIR_REASONS, Repairs } from '../../core/reference/repair.ts';
import { isUntidy } from '../../core/reference/rewrite.ts';
import { Fault } from '../fault.ts';
import { placementFacts } from '../ledger/placement-edits.ts';
import { galleriesOn, membersOf } from '../ledger/placements.ts';
import { backgroundsOf, LOOK_LIMIT } from '../site/backgrounds.ts';
import { filter } from '../../core/paced.ts';
import { breathe } from '../work/breathe.ts';
import { inTime } from '../work/pool.ts';
import { LiveReader } from '../site/live.ts';
import { redirectsOf } from '../site/redirects.ts';
import type { Site } from '../site/site.ts';
import type { Route, Services } from './app.ts';
import { readBody } from './body.ts';
import { largeJson } from './large-json.ts';
import { lookAddress } from './look.ts';

const PlaceQuery = z.object({ page: z.string().max(2000), start: z.coerce.number().int().min(0) });

export function pageRoutes(router: Route, { site, servedAt, looking, fetching }: Services): void {
  const live = new LiveReader(site);
  router.get('/layout', (ctx) => {
    ctx.body = {
      set: site.layout.get(),
      public: [...site.siteMap.roots],
      published: site.siteMap.parts().published.map(({ host, prefix }) => `https://${host}${prefix}`),
      folders: [...site.folderPaths].sort(),
    } satisfies LayoutView;
  });

  router.get('/pages', async (ctx) => {
    ctx.type = 'json';
    ctx.body = Buffer.from(await site.references.pages(site.reader));
  });

  /** Everything that is broken, with what it likely means. */
  router.get('/broken', async (ctx) => {
    ctx.type = 'json';
    ctx.body = largeJson(await brokenViews(site, await site.references.allBroken()));
  });

  router.get('/pages/detail', async (ctx) => {
    const path = String(ctx.query['path'] ?? '');
    if (!site.factsOf(path)?.reading)
      throw new Fault('not-found', `There is no page “${path}”.`, 'Reload the list of pages.');
    const editable = isHtmlPage(path) || isMarkdownPage(path);
    const pictures = await picturesOf(site, path);
    const shown = await shownViews(site, path, pictures.images);
    ctx.body = {
      path,
      title: site.references.titleOf(path),
      look: lookAddress(site, servedAt, looking, path),
      editable: editable && !site.factsOf(path)!.reading!.unread,
      shown,
      stamp: stampOf(site, path, shown),
      broken: await brokenViews(site, site.references.brokenOf(path)),
      galleries: await galleriesOn(site, path),
      classes: pictures.classes.slice(0, 40),
    } satisfies PageDetail;
  });

  router.get('/pages/placement', async (ctx) => {
    const { page, start } = PlaceQuery.parse(ctx.query);
    ctx.body = (await placementFacts(site, page, start)) satisfies PlacementDetail;
  });

  router.get('/live', (ctx) => {
    ctx.body = site.live.view();
  });

  /** Starts a reading; it shows as running work, and is answered when it is done. */
  router.post('/live', async (ctx) => {
    const { address } = await readBody(ctx, 'LiveRequest');
    const own = new URL(servedAt).host;
    ctx.body = await live.read(address, { ...fetching, hosts: [...fetching.hosts, own] });
  });

  router.delete('/live', async (ctx) => {
    site.live.forget();
    await site.alone(() => site.refreshUse());
    ctx.body = site.live.view();
  });

  /** Ids of the pictures that a gallery of a folder or a tag would hold. */
  router.get('/gallery-members', async (ctx) => {
    const { folder, tag } = ctx.query;
    ctx.body = (await membersOf(
      site,
      typeof tag === 'string' && tag !== '' ? { tag } : { folder: String(folder ?? '') },
    ))!;
  });
}

/** Of the bytes of a page, of the files that it links to, and of what it shows. */
function stampOf(site: Site, page: SitePath, shown: readonly ShownView[]): string {
  const hash = createHash('sha256').update(site.factsOf(page)?.sha256 ?? '');
  for (const reference of site.factsOf(page)?.reading?.references ?? []) {
    const target = reference.place === 'link href' ? site.siteMap.follow(reference, page) : undefined;
    if (target?.to === 'file') hash.update(site.factsOf(target.path)?.sha256 ?? '');
  }
  for (const one of shown) hash.update(`${one.path} ${one.sha256} `);
  return hash.digest('hex').slice(0, 16);
}

async function brokenViews(
  site: Site,
  rows: ReturnType<Site['references']['brokenOf']>,
): Promise<BrokenView[]> {
  if (rows.length === 0) return [];
  const items = await filter(site.paths, breathe, (path) => site.factsOf(path)?.item !== undefined);
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
  site: Site,
  page: SitePath,
  images: Awaited<ReturnType<typeof picturesOf>>['images'],
): Promise<ShownView[]> {
  const rows = site.references.shownOn(page);
  const file = await site.folder.locate(page);
  const starts = rows.map((row) => row.start);
  const words = await inTime(() =>
    site.pool.run('words', { file, path: page, starts }, { limit: LOOK_LIMIT }),
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
async function sheetViews(site: Site, page: SitePath): Promise<ShownView[]> {
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

/** What the pictures of a page say, and the classes for pictures that it and its style sheets have; parsed by a worker. */
async function picturesOf(site: Site, page: SitePath) {
  const sheets: string[] = [];
  for (const reference of site.factsOf(page)?.reading?.references ?? []) {
    if (reference.place !== 'link href') continue;
    const target = site.siteMap.follow(reference, page);
    if (target.to === 'file' && target.path.endsWith('.css'))
      sheets.push(await site.folder.locate(target.path));
  }
  const file = await site.folder.locate(page);
  const read = () =>
    site.pool.run('pictures', { file, path: page, sheets: [...new Set(sheets)] }, { limit: LOOK_LIMIT });
  return (await inTime(read)) ?? { images: [], classes: [] };
}
