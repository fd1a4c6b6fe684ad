import { basename } from 'node:path';
import { type Settled, type SiteView } from '../../api/site.ts';
import { Fault } from '../fault.ts';
import { signIn, type Route, type Services } from './app.ts';
import { readBody } from './body.ts';

export function siteRoutes(router: Route, services: Services): void {
  const { site } = services;

  router.get('/site', async (ctx) => {
    const view: SiteView = {
      name: basename(site.folder.root),
      folder: site.folder.root,
      servedAt: services.servedAt,
      roots: [...site.siteMap.roots],
      rootsGuessed: site.rootsGuessed,
      pages: site.pageCount,
      counts: {
        ...(await site.items.countsApart(site.reader)),
        broken: site.references.brokenCount(),
        arrivals: site.arrivals.waiting(ctx.state.person.id).files,
        entries: site.rows.count(),
      },
      fetching: services.fetching.allowed || services.fetching.hosts.length > 0,
      useUnknown: site.useUnknown ?? null,
      unsearched: site.unsearched,
      unsettled: site.ledger.unsettled,
      unreadable: site.unreadable,
      person: ctx.state.person,
      people: site.people.all(),
    };
    ctx.body = view;
  });

  router.post('/session', async (ctx) => {
    const { personId } = await readBody(ctx, 'ChoosePerson');
    const person = site.people.get(personId);
    if (!person) throw new Fault('not-found', 'There is no such person.', 'Choose one of the list.');
    signIn(ctx, services, person);
    ctx.body = person;
  });

  router.post('/settle', async (ctx) => {
    const request = await readBody(ctx, 'SettleRequest');
    ctx.body = {
      told: await site.settle(request.how === 'leave' ? request.entryId : undefined),
    } satisfies Settled;
  });

  router.post('/scan', async (ctx) => {
    ctx.body = await site.scan(true);
  });
}
