import { basename } from 'node:path';
import { asksOf, rightsOf } from '../../../core/people/rights.ts';
import { ItemQuery } from '../../../api/items.ts';
import { Scanned, Settled, SiteView } from '../../../api/site.ts';
import type { Services } from '../context.ts';
import { defineRoute, type Route } from '../route.ts';
import { submissionCounts } from './submissions.ts';
import { storeQuery } from '../store-query.ts';

/** The site as a whole: how it stands, who works on it, reading it again. */
export const siteRoutes = (services: Services): Route[] => {
  const { site } = services;
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
