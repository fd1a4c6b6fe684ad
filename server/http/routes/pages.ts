import { z } from 'zod';
import {
  BrokenView,
  LayoutView,
  LiveView,
  PageDetail,
  PageView,
  PlacementDetail,
} from '../../../api/pages.ts';
import { placementFacts } from '../../changes/placement-edits.ts';
import { membersOf } from '../../changes/placements.ts';
import { LiveReader } from '../../scan/live.ts';
import type { Services } from '../context.ts';
import { previewAddress } from '../../preview/preview.ts';
import { defineRoute, Json, type Route } from '../route.ts';
import { brokenViews, pageView } from '../views/page.ts';

const page = z.string().max(2000);

/** Pages and what they show, here and on a live site; how the site is laid out. */
export const pageRoutes = ({ site, servedAt, preview, fetching }: Services): Route[] => {
  const live = new LiveReader(site);
  return [
    defineRoute({
      method: 'get',
      path: '/layout',
      right: 'look',
      answer: LayoutView,
      handle: () => ({
        set: site.layout.get(),
        public: [...site.index.map.roots],
        published: site.index.map.parts().published.map(({ host, prefix }) => `https://${host}${prefix}`),
        folders: [...site.index.folderPaths].sort(),
      }),
    }),

    defineRoute({
      method: 'get',
      path: '/pages',
      right: 'look',
      answer: z.array(PageView),
      handle: async () => Json.written(await site.references.pages(site.reader)),
    }),

    /** Everything that is broken, with what it likely means. */
    defineRoute({
      method: 'get',
      path: '/broken',
      right: 'look',
      answer: z.array(BrokenView),
      handle: async () => Json.large(await brokenViews(site, await site.references.allBroken())),
    }),

    defineRoute({
      method: 'get',
      path: '/pages/detail',
      right: 'look',
      query: z.strictObject({ path: page }),
      answer: PageDetail,
      handle: ({ query }) =>
        pageView(site, query.path, (path) => previewAddress(site, servedAt, preview, path)),
    }),

    defineRoute({
      method: 'get',
      path: '/pages/placement',
      right: 'look',
      query: z.strictObject({ page, start: z.coerce.number().int().min(0) }),
      answer: PlacementDetail,
      handle: ({ query }) => placementFacts(site, query.page, query.start),
    }),

    /** Ids of the images that a gallery of a folder or a tag would hold. */
    defineRoute({
      method: 'get',
      path: '/gallery-members',
      right: 'look',
      query: z.strictObject({ folder: page.default(''), tag: z.string().max(80).default('') }),
      answer: z.array(z.int()),
      handle: async ({ query: { folder, tag } }) =>
        (await membersOf(site, tag !== '' ? { tag } : { folder }))!,
    }),

    defineRoute({
      method: 'get',
      path: '/live',
      right: 'look',
      answer: LiveView,
      handle: () => site.live.view(),
    }),

    /** Starts a reading; it shows as running work, and is answered when it is done. */
    defineRoute({
      method: 'post',
      path: '/live',
      right: 'maintain',
      body: 'LiveRequest',
      answer: LiveView,
      handle: ({ body }) => {
        const own = new URL(servedAt).host;
        return live.read(body.address, { ...fetching, hosts: [...fetching.hosts, own] });
      },
    }),

    defineRoute({
      method: 'delete',
      path: '/live',
      right: 'maintain',
      answer: LiveView,
      handle: async () => {
        site.live.forget();
        await site.scanner.alone(() => site.scanner.refreshUse());
        return site.live.view();
      },
    }),
  ];
};
