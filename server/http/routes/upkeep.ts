import { z } from 'zod';
import { ItemView } from '../../../api/items.ts';
import {
  Dismissed,
  type DoubleGroup,
  DoubleGroups,
  Emptied,
  Estimate,
  FindingList,
  FindingsQuery,
  GroupsQuery,
  Overview,
  RedirectFindings,
  TagFindings,
  ToMeasure,
} from '../../../api/upkeep.ts';
import { filter, map, mapOf, setOf } from '../../../core/paced.ts';
import { CHECKS } from '../../../core/upkeep/checks.ts';
import { keeperOf } from '../../../core/upkeep/keeper.ts';
import { Fault } from '../../fault.ts';
import { runAsJob } from '../../changes/proposal.ts';
import { emptyAside } from '../../changes/upkeep.ts';
import { viewOf } from '../../db/item-view.ts';
import { dependsOn } from '../../upkeep/depends.ts';
import { alikeGroups, copyGroups } from '../../upkeep/groups.ts';
import { redirectViews, tagFindings } from '../../upkeep/library-wide.ts';
import { breathe } from '../../workers/breathe.ts';
import type { Services } from '../context.ts';
import { previewAddress } from '../../preview/preview.ts';
import { defineRoute, Done, Json, type Route } from '../route.ts';
import { addedBefore, estimateOf, overviewOf } from '../views/upkeep.ts';

/** How the library stands, what the checks find, and what is set aside. */
export const upkeepRoutes = ({ site, servedAt, preview, log }: Services): Route[] => [
  defineRoute({
    method: 'get',
    path: '/upkeep',
    right: 'look',
    answer: Overview,
    handle: async ({ person }) => {
      site.checks.refresh().catch((error: Error) => log.error({ error }, 'checking failed'));
      if (site.findings.uncheckedCount() < 500) await site.checks.refresh();
      return overviewOf(site, person.id);
    },
  }),

  /** The person has looked: what is found from now on is new. */
  defineRoute({
    method: 'post',
    path: '/upkeep/looked',
    right: 'look',
    body: 'Nothing',
    answer: Done,
    handle: ({ person }) => {
      site.findings.setState(`look ${person.id}`, site.now());
      return {};
    },
  }),

  defineRoute({
    method: 'get',
    path: '/upkeep/findings',
    right: 'look',
    query: FindingsQuery,
    answer: FindingList,
    handle: async ({ query: { check, age, limit, offset } }) => {
      await site.checks.refresh();
      const before = addedBefore(site, check, age);
      const rows = await site.findings.list(check, limit, offset, before);
      const ids = rows.map((row) => row.itemId);
      const items = new Map(site.items.some(ids).map((item) => [item.id, item]));
      const pages = site.references.pageTitles(ids);
      const { items: total, bytes, saves } = await site.findings.count(check, before);
      const depends = check === 'unused' ? await dependsOn(site, [...items.values()]) : undefined;
      return {
        total,
        bytes,
        saves,
        younger: before === '' ? 0 : (await site.findings.count(check)).items - total,
        findings: rows.map(({ itemId, ...row }) => ({
          ...row,
          item: viewOf(items.get(itemId)!),
          pages: pages.get(itemId) ?? [],
          twins:
            check === 'missing'
              ? site.items.withHash(items.get(itemId)!.sha256).map((twin) => twin.path)
              : [],
          depends: depends?.get(itemId) ?? [],
        })),
      };
    },
  }),

  /** Ids of everything that a check finds. */
  defineRoute({
    method: 'get',
    path: '/upkeep/ids',
    right: 'look',
    query: FindingsQuery,
    answer: z.array(z.int()),
    handle: async ({ query: { check, age } }) => {
      await site.checks.refresh();
      return Json.large(await site.findings.ids(check, addedBefore(site, check, age)));
    },
  }),

  defineRoute({
    method: 'get',
    path: '/upkeep/groups',
    right: 'look',
    query: GroupsQuery,
    answer: DoubleGroups,
    handle: async ({ query: { check, rule, folder } }) => {
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
      return Json.large(views);
    },
  }),

  defineRoute({
    method: 'get',
    path: '/upkeep/tags',
    right: 'look',
    answer: TagFindings,
    handle: () => tagFindings(site),
  }),

  defineRoute({
    method: 'get',
    path: '/upkeep/redirects',
    right: 'look',
    answer: RedirectFindings,
    handle: () => redirectViews(site),
  }),

  defineRoute({
    method: 'get',
    path: '/upkeep/dismissed',
    right: 'look',
    answer: Dismissed,
    handle: async () => {
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
      return Json.large(views);
    },
  }),

  defineRoute({
    method: 'get',
    path: '/upkeep/estimate',
    right: 'look',
    query: FindingsQuery,
    answer: Estimate,
    handle: ({ query }) =>
      site.planBytes.during(() =>
        runAsJob(site, 'Weighing a sample', (progress) => estimateOf(site, query.check, progress)),
      ),
  }),

  defineRoute({
    method: 'get',
    path: '/upkeep/to-measure',
    right: 'look',
    answer: ToMeasure,
    handle: () => ({
      measured: site.widths.measuredCount(),
      pages: site.widths.toMeasure().flatMap((page) => {
        const look = previewAddress(site, servedAt, preview, page.path);
        return look === null ? [] : [{ ...page, look }];
      }),
    }),
  }),

  defineRoute({
    method: 'post',
    path: '/upkeep/measured',
    right: 'maintain',
    body: 'MeasuredPage',
    answer: Done,
    handle: ({ body: { page, shown } }) => {
      if (!site.index.factsOf(page)?.reading)
        throw new Fault('not-found', `There is no page “${page}”.`, 'Reload the list of pages.');
      site.widths.save(page, shown, site.now());
      return {};
    },
  }),

  /** Set-aside items, those first whose keeping time is over. */
  defineRoute({
    method: 'get',
    path: '/upkeep/aside',
    right: 'look',
    answer: z.array(ItemView),
    handle: async () => (await site.finder.aside(500)).map(viewOf),
  }),

  defineRoute({
    method: 'post',
    path: '/upkeep/empty',
    right: 'empty',
    body: 'EmptyRequest',
    answer: Emptied,
    handle: ({ body: { itemIds, typed }, person }) => emptyAside(site, itemIds, typed, person.id),
  }),
];
