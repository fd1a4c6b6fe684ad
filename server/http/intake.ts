import { ArrivalChanges, ArrivalsQuery, BringIn, FetchRequest, type ArrivalList } from '../../api/intake.ts';
import { pathFault } from '../../core/address/path.ts';
import { SITE_RULE } from '../../core/intake/rules.ts';
import { Fault } from '../fault.ts';
import { fetchFile } from '../intake/fetch.ts';
import type { Site } from '../site/site.ts';
import { unpack } from '../intake/unpack.ts';
import type { Route, Services } from './app.ts';
import { idOf, readBody } from './body.ts';

export function intakeRoutes(router: Route, { site, arrivals, uploads, fetching }: Services): void {
  /** Resumable uploads (tus): creation, sending on, asking how far it came, giving up. */
  router.all('/uploads{/*rest}', async (ctx) => {
    ctx.respond = false;
    await uploads.handle(ctx.req, ctx.res, ctx.state.person.id);
    site.checking.changed();
  });

  /** The person's list: all of it, or what has changed after a revision of it. */
  router.get('/arrivals', async (ctx) => {
    const { after } = ArrivalsQuery.parse(ctx.query);
    ctx.body = (await arrivals.since(ctx.state.person.id, after)) satisfies ArrivalList;
  });

  router.patch('/arrivals', async (ctx) => {
    const { ids, ...change } = await readBody(ctx, ArrivalChanges);
    if (change.folder !== undefined) needFolder(change.folder);
    ctx.body = await arrivals.change(ids, ctx.state.person.id, change);
  });

  router.delete('/arrivals/:id', async (ctx) => {
    await arrivals.drop(idOf(ctx), ctx.state.person.id);
    ctx.body = {};
  });

  router.post('/arrivals/:id/unpack', async (ctx) => {
    const files = await unpack(site, idOf(ctx), ctx.state.person.id);
    await arrivals.drop(idOf(ctx), ctx.state.person.id);
    ctx.body = { files };
  });

  router.post('/arrivals/fetch', async (ctx) => {
    const { address, folder } = await readBody(ctx, FetchRequest);
    needFolder(folder);
    ctx.body = { id: await fetchFile(site, fetching, address, { personId: ctx.state.person.id, folder }) };
  });

  router.post('/arrivals/bring-in', async (ctx) => {
    const { arrivalIds } = await readBody(ctx, BringIn);
    const { entryId, itemIds, used, plan } = await arrivals.bringIn(arrivalIds, ctx.state.person.id);
    ctx.body = { entryId, itemIds, used, title: plan?.title ?? '', totals: plan?.totals ?? null };
  });

  router.get('/folder-rules', (ctx) => {
    ctx.body = { rules: site.rules.all(), otherwise: SITE_RULE };
  });
}

/** Other rules: what waits to be brought in is looked at again. */
export async function rulesChanged(site: Site, personId: number): Promise<void> {
  site.arrivals.allChanged();
  for (const row of site.arrivals.of(personId)) await site.checking.prepare(row.id);
  site.checking.changed();
}

function needFolder(folder: string): void {
  const fault = folder === '' ? undefined : pathFault(folder);
  if (fault) throw new Fault('bad-request', fault, 'Choose another folder.');
}
