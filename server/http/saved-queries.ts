import { ItemQuery, KeepQuery, type SavedQuery } from '../../api/items.ts';
import type { Route, Services } from './app.ts';
import { idOf, readBody } from './body.ts';
import { storeQuery } from './items.ts';

export function savedQueryRoutes(router: Route, { site }: Services): void {
  const read = (query: string) => storeQuery(ItemQuery.parse(Object.fromEntries(new URLSearchParams(query))));

  router.get('/saved-queries', (ctx) => {
    ctx.body = site.savedQueries
      .all()
      .map((row) => ({ ...row, items: site.items.count(read(row.query)) })) satisfies SavedQuery[];
  });

  router.put('/saved-queries', async (ctx) => {
    const { name, query } = await readBody(ctx, KeepQuery);
    read(query); // What cannot be read is not kept.
    site.savedQueries.keep(name, query, ctx.state.person.id, site.now());
    ctx.body = {};
  });

  router.delete('/saved-queries/:id', (ctx) => {
    site.savedQueries.remove(idOf(ctx));
    ctx.body = {};
  });
}
