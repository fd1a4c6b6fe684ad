import type { PageDetail, PageView } from '../../api/items.ts';
import type { LayoutView } from '../../api/pages.ts';
import { Fault } from '../fault.ts';
import type { Route, Services } from './app.ts';

export function pageRoutes(router: Route, { site }: Services): void {
  router.get('/layout', (ctx) => {
    ctx.body = {
      set: site.layout.get(),
      public: [...site.siteMap.roots],
      published: site.siteMap.parts().published.map(({ host, prefix }) => `https://${host}${prefix}`),
      folders: [...site.folderPaths].sort(),
    } satisfies LayoutView;
  });

  router.get('/pages', (ctx) => {
    ctx.body = site.references.pages() satisfies PageView[];
  });

  router.get('/pages/detail', (ctx) => {
    const path = String(ctx.query['path'] ?? '');
    if (!site.factsOf(path)?.reading)
      throw new Fault('not-found', `There is no page “${path}”.`, 'Reload the list of pages.');
    ctx.body = {
      shown: site.references.shownOn(path),
      broken: site.references.brokenOf(path),
    } satisfies PageDetail;
  });
}
