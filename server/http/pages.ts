import type { PageDetail, PageView } from '../../api/items.ts';
import { Fault } from '../fault.ts';
import type { Route, Services } from './app.ts';

export function pageRoutes(router: Route, { site }: Services): void {
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
