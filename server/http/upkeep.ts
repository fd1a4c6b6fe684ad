import {
  FindingsQuery,
  GroupsQuery,
  type Dismissed,
  type DoubleGroup,
  type Emptied,
  type Estimate,
  type FindingList,
  type Overview,
  type ToMeasure,
} from '../../api/upkeep.ts';
import { CHECK_NAMES, CHECKS, type ItemCheck } from '../../core/upkeep/checks.ts';
import { keeperOf } from '../../core/upkeep/keeper.ts';
import { computed, type Progress } from '../ledger/proposal.ts';
import { filmSample, jpegCopy, lighterCopies, phoneCopy } from '../ledger/remedies.ts';
import { emptyAside } from '../ledger/upkeep.ts';
import type { Site } from '../site/site.ts';
import { ALL_HERE } from '../store/item-query.ts';
import type { Item } from '../store/item-rows.ts';
import { filter, map, mapOf, setOf } from '../../core/paced.ts';
import { breathe } from '../work/breathe.ts';
import { largeJson } from './large-json.ts';
import { viewOf } from '../store/item-view.ts';
import { dependsOn } from '../upkeep/depends.ts';
import { alikeGroups, copyGroups } from '../upkeep/groups.ts';
import { redirectViews, tagFindings } from '../upkeep/library-wide.ts';
import { Fault } from '../fault.ts';
import type { Route, Services } from './app.ts';
import { readBody } from './body.ts';
import { lookAddress } from './look.ts';
import { sumOf } from '../store/items.ts';

/** Days that what is set aside is kept, where nobody says otherwise. */
const KEEPING_DAYS = 30;
const DAY = 86_400_000;
/** Items of a check that are really made lighter to know what it saves. */
const SAMPLE = 12;
export function upkeepRoutes(router: Route, { site, servedAt, looking, log }: Services): void {
  router.get('/upkeep', async (ctx) => {
    site.checks.refresh().catch((error: Error) => log.error({ error: error.message }, 'checking failed'));
    if (site.findings.uncheckedCount() < 500) await site.checks.refresh();
    ctx.body = await overviewOf(site, ctx.state.person.id);
  });

  /** The person has looked: what is found from now on is new. */
  router.post('/upkeep/looked', (ctx) => {
    site.findings.setState(`look ${ctx.state.person.id}`, site.now());
    ctx.body = {};
  });

  router.get('/upkeep/findings', async (ctx) => {
    const { check, age, limit, offset } = FindingsQuery.parse(ctx.query);
    await site.checks.refresh();
    const before = addedBefore(site, check, age);
    const rows = await site.findings.list(check, limit, offset, before);
    const ids = rows.map((row) => row.itemId);
    const items = new Map(site.items.some(ids).map((item) => [item.id, item]));
    const pages = site.references.pageTitles(ids);
    const { items: total, bytes, saves } = await site.findings.count(check, before);
    const depends = check === 'unused' ? await dependsOn(site, [...items.values()]) : undefined;
    ctx.body = {
      total,
      bytes,
      saves,
      younger: before === '' ? 0 : (await site.findings.count(check)).items - total,
      findings: rows.map(({ itemId, ...row }) => ({
        ...row,
        item: viewOf(items.get(itemId)!),
        pages: pages.get(itemId) ?? [],
        twins:
          check === 'missing' ? site.items.withHash(items.get(itemId)!.sha256).map((twin) => twin.path) : [],
        depends: depends?.get(itemId) ?? [],
      })),
    } satisfies FindingList;
  });

  /** Ids of everything that a check finds. */
  router.get('/upkeep/ids', async (ctx) => {
    const { check, age } = FindingsQuery.parse(ctx.query);
    await site.checks.refresh();
    ctx.type = 'json';
    ctx.body = largeJson(await site.findings.ids(check, addedBefore(site, check, age)));
  });

  router.get('/upkeep/groups', async (ctx) => {
    const { check, rule, folder } = GroupsQuery.parse(ctx.query);
    await site.checks.refresh();
    const groups = await (check === 'copies' ? copyGroups(site) : alikeGroups(site));
    const views = await map(groups, breathe, (group): DoubleGroup => {
      const titles = site.references.pageTitles(group.map(({ item }) => item.id));
      const keeper = keeperOf(
        group.map(({ item }) => item),
        rule,
        folder,
      );
      return {
        keeperId: keeper?.id ?? null,
        reason: keeper?.reason ?? `none lies in “${folder}”: this group is left as it is`,
        members: group.map(({ item, ...how }) => ({
          ...how,
          item: viewOf(item),
          pages: titles.get(item.id) ?? [],
          mentions: site.references.mentionsOf(item.path).length,
        })),
      };
    });
    ctx.type = 'json';
    ctx.body = largeJson(views);
  });

  router.get('/upkeep/tags', async (ctx) => {
    ctx.body = await tagFindings(site);
  });

  router.get('/upkeep/redirects', async (ctx) => {
    ctx.body = await redirectViews(site);
  });

  router.get('/upkeep/dismissed', async (ctx) => {
    const rows = await site.findings.dismissals();
    const ofItems = await filter(rows, breathe, (row) => CHECKS[row.name].about === 'item');
    const items = await mapOf(
      await site.items.many([...(await setOf(ofItems, breathe, (row) => Number(row.subject)))]),
      breathe,
      (item) => [item.id, viewOf(item)],
    );
    const views: Dismissed = await map(rows, breathe, (row) => ({
      ...row,
      item: CHECKS[row.name].about === 'item' ? (items.get(Number(row.subject)) ?? null) : null,
    }));
    ctx.type = 'json';
    ctx.body = largeJson(views);
  });

  router.get('/upkeep/estimate', async (ctx) => {
    const { check } = FindingsQuery.parse(ctx.query);
    ctx.body = (await computed(site, 'Weighing a sample', (progress) =>
      estimateOf(site, check, progress),
    )) satisfies Estimate;
  });

  router.get('/upkeep/to-measure', (ctx) => {
    ctx.body = {
      measured: site.widths.measuredCount(),
      pages: site.widths.toMeasure().flatMap((page) => {
        const look = lookAddress(site, servedAt, looking, page.path);
        return look === null ? [] : [{ ...page, look }];
      }),
    } satisfies ToMeasure;
  });

  router.post('/upkeep/measured', async (ctx) => {
    const { page, shown } = await readBody(ctx, 'MeasuredPage');
    if (!site.factsOf(page)?.reading)
      throw new Fault('not-found', `There is no page “${page}”.`, 'Reload the list of pages.');
    site.widths.save(page, shown, site.now());
    ctx.body = {};
  });

  /** Set-aside items, those first whose keeping time is over. */
  router.get('/upkeep/aside', (ctx) => {
    ctx.body = site.items
      .list({ ...ALL_HERE, state: 'aside', limit: 500 })
      .items.sort((a, b) => ((a.asideAt ?? '') < (b.asideAt ?? '') ? -1 : 1))
      .map(viewOf);
  });

  router.post('/upkeep/empty', async (ctx) => {
    const { itemIds, typed } = await readBody(ctx, 'EmptyRequest');
    ctx.body = (await emptyAside(site, itemIds, typed, ctx.state.person.id)) satisfies Emptied;
  });
}

/** What was added since is not offered for cleaning yet; '': the moment does not matter. */
const addedBefore = (site: Site, check: ItemCheck, age: number): string =>
  check === 'unused' && age > 0 ? new Date(Date.parse(site.now()) - age * DAY).toISOString() : '';

async function overviewOf(site: Site, personId: number): Promise<Overview> {
  const { findings, care } = site;
  const lastLook = findings.state(`look ${personId}`);
  const days = Number(findings.state('keeping-days')) || KEEPING_DAYS;
  const until = new Date(Date.parse(site.now()) - days * DAY).toISOString();
  const now = await site.checks.keepDay(lastLook || '9', until);
  const counted = new Map(now.checks.map((one) => [one.name as string, one]));
  const tags = await tagFindings(site);
  const redirects = await redirectViews(site);
  const others: Partial<Record<(typeof CHECK_NAMES)[number], number>> = {
    broken: site.references.brokenCount(),
    'near-tags': tags.near.length,
    'lone-tags': tags.lone.length,
    'idle-redirects': redirects.filter((one) => one.check === 'idle-redirects').length,
    'redirect-chains': redirects.filter((one) => one.check === 'redirect-chains').length,
  };
  return {
    unchecked: findings.uncheckedCount(),
    care: now.care,
    history: care.history(400),
    checks: CHECK_NAMES.map((name) => {
      const one = counted.get(name);
      return {
        name,
        found: one?.items ?? others[name] ?? 0,
        bytes: one?.bytes ?? 0,
        saves: one?.saves ?? 0,
        fresh: one?.fresh ?? 0,
      };
    }),
    freeable: now.freeable,
    byKind: now.byKind,
    byFolder: now.byFolder,
    byMonth: now.byMonth,
    aside: { ...now.aside, days },
    dismissed: findings.dismissed(),
    lastLook: lastLook || null,
    entriesSince: lastLook ? site.rows.countSince(lastLook) : 0,
  };
}

/** Makes a sample of what a check found really lighter; what the others would save is computed from it. */
async function estimateOf(site: Site, check: ItemCheck, progress: Progress): Promise<Estimate> {
  // Spread over all of them, in the order of their weight.
  const ids = await site.findings.ids(check);
  const step = Math.max(1, ids.length / SAMPLE);
  const sample = Array.from({ length: Math.min(SAMPLE, ids.length) }, (_, at) => ids[Math.floor(at * step)]!);
  const items = site.items.some(sample);
  const lighter = lighterCopies(
    site,
    items.map((item) => item.id),
  );
  const weigh = async (item: Item): Promise<number> => {
    if (check === 'heavy-film') return filmSample(site, item, progress.signal);
    const made =
      check === 'no-sizes'
        ? await phoneCopy(site, item)
        : CHECKS[check].remedy === 'convert'
          ? await jpegCopy(site, item)
          : await lighter(item);
    return 'stays' in made ? item.bytes : made.length;
  };
  let [before, after] = [0, 0];
  for (const [done, item] of items.entries()) {
    progress(done, items.length, 'items made lighter');
    before += item.bytes;
    after += Math.round(await weigh(item));
  }
  const all = (await sumOf(site.reader, ids)).bytes;
  const saves = before === 0 ? 0 : Math.round(all * (1 - after / before));
  return { sampled: before === 0 ? 0 : items.length, of: ids.length, before, after, saves };
}
