import { BringIn, RenameArrival } from '../../api/site.ts';
import { pathFault } from '../../core/address/path.ts';
import { Fault } from '../fault.ts';
import type { Route, Services } from './app.ts';
import { idOf, readBody } from './body.ts';

export function intakeRoutes(router: Route, { arrivals }: Services): void {
  router.get('/arrivals', (ctx) => {
    ctx.body = arrivals.list(ctx.state.person.id);
  });

  /** One file as the request's body; its name is a hint and never a path. */
  router.post('/arrivals', async (ctx) => {
    const name = String(ctx.query['name'] ?? '').slice(0, 1000) || 'file';
    ctx.body = await arrivals.receive(ctx.req, name, ctx.state.person.id);
  });

  router.patch('/arrivals/:id', async (ctx) => {
    const { name } = await readBody(ctx, RenameArrival);
    ctx.body = arrivals.rename(idOf(ctx), ctx.state.person.id, name);
  });

  router.delete('/arrivals/:id', async (ctx) => {
    await arrivals.drop(idOf(ctx), ctx.state.person.id);
    ctx.body = {};
  });

  router.post('/arrivals/bring-in', async (ctx) => {
    const { arrivalIds, folder } = await readBody(ctx, BringIn);
    const fault = folder === '' ? undefined : pathFault(folder);
    if (fault) throw new Fault('bad-request', fault, 'Choose another folder.');
    const { entryId, itemIds, plan } = await arrivals.bringIn(arrivalIds, folder, ctx.state.person.id);
    ctx.body = { entryId, itemIds, title: plan.title, totals: plan.totals };
  });
}
