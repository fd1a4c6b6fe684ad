import { basename } from 'node:path';
import { z } from 'zod';
import { Report } from '../../../api/report.ts';
import { asksOf, rightsOf } from '../../../core/people/rights.ts';
import { ItemQuery } from '../../../api/items.ts';
import { Scanned, Settled, SiteView } from '../../../api/site.ts';
import type { Services } from '../context.ts';
import { wholeReport } from '../../upkeep/whole-report.ts';
import { Lock } from '../../workers/lock.ts';
import { defineRoute, Json, type Route } from '../route.ts';
import { submissionCounts } from './submissions.ts';
import { storeQuery } from '../store-query.ts';

/** The site as a whole: how it stands, who works on it, reading it again. */
export const siteRoutes = (services: Services): Route[] => {
  const { site } = services;
  const reports = new Lock();
  return [
    defineRoute({
      method: 'get',
      path: '/site',
      right: 'look',
      answer: SiteView,
      handle: async ({ person }) => ({
        name: basename(site.folder.root),
        folder: site.folder.root,
        servedAt: services.servedAt,
        roots: [...site.index.map.roots],
        rootsGuessed: site.index.rootsGuessed,
        pages: site.index.pageCount,
        counts: {
          ...(await site.finder.countsApart(site.reader)),
          drafts: await site.finder.countApart(
            site.reader,
            storeQuery(ItemQuery.parse({ state: 'draft' }), person),
          ),
          ...submissionCounts(site, person),
          broken: site.references.brokenCount(),
          arrivals: site.arrivals.waiting(person.id).files,
          entries: site.rows.count(),
        },
        imageBank: services.bank.current !== undefined,
        tagging: services.tagging.isSet,
        fetching: services.fetching.allowed || services.fetching.hosts.length > 0,
        useUnknown: site.index.useUnknown ?? null,
        unsearched: site.index.unsearched,
        unsettled: [...site.ledger.unsettled],
        unreadable: [...site.index.unreadable],
        person,
        rights: [...rightsOf(person.role)],
        asks: [...asksOf(person.role)],
        people: site.people.all(),
        demo: services.demo ?? false,
      }),
    }),

    /** The whole site read anew, as the command reports on it. One at a time. */
    defineRoute({
      method: 'get',
      path: '/report',
      right: 'download',
      query: z.strictObject({ quick: z.enum(['0', '1']).default('0') }),
      answer: Report,
      handle: ({ query }) =>
        reports.run(() =>
          site.jobs.run('report', 'Report on the site', async ({ progress }) => {
            const read = { root: site.folder.root, dataFolder: site.data.root, pool: site.pool };
            const { report } = await wholeReport(read, { quick: query.quick === '1' }, progress);
            return Json.large(report);
          }),
        ),
    }),

    defineRoute({
      method: 'post',
      path: '/settle',
      right: 'maintain',
      body: 'SettleRequest',
      answer: Settled,
      handle: async ({ body }) => ({
        told: await site.scanner.settle(body.how === 'leave' ? body.entryId : undefined),
      }),
    }),

    defineRoute({
      method: 'post',
      path: '/scan',
      right: 'maintain',
      body: 'Nothing',
      answer: Scanned,
      handle: () => site.scanner.scan(true),
    }),
  ];
};
