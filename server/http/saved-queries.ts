import { ZodError } from 'zod';
import { ItemQuery, type SavedQuery } from '../../api/items.ts';
import type { Applied } from '../../api/plans.ts';
import { Fault } from '../fault.ts';
import { applyProposal, type Proposal } from '../ledger/proposal.ts';
import { proposeKeptQuery } from '../ledger/records.ts';
import type { Route, Services } from './app.ts';
import { idOf, readBody } from './body.ts';
import { storeQuery } from './items.ts';

export function savedQueryRoutes(router: Route, { site }: Services): void {
  const read = (query: string) => storeQuery(ItemQuery.parse(Object.fromEntries(new URLSearchParams(query))));

  const apply = async (proposal: Proposal, personId: number): Promise<Applied> => ({
    entryId: await applyProposal(site, proposal, personId),
    title: proposal.plan.title,
    totals: proposal.plan.totals,
  });

  /** One that cannot be counted does not keep the others from being listed. */
  const counted = async (query: string): Promise<number | null> => {
    try {
      return await site.items.countApart(site.reader, read(query));
    } catch (error) {
      if (error instanceof Fault || error instanceof ZodError) return null;
      throw error;
    }
  };
  router.get('/saved-queries', async (ctx) => {
    ctx.body = (await Promise.all(
      site.savedQueries.all().map(async (row) => ({ ...row, items: await counted(row.query) })),
    )) satisfies SavedQuery[];
  });

  router.put('/saved-queries', async (ctx) => {
    const { name, query } = await readBody(ctx, 'KeepQuery');
    read(query); // What cannot be read is not kept.
    const kept = { name, query, person: ctx.state.person.name };
    ctx.body = await apply(proposeKeptQuery(site, name, kept), ctx.state.person.id);
  });

  router.delete('/saved-queries/:id', async (ctx) => {
    const one = site.savedQueries.all().find((row) => row.id === idOf(ctx));
    if (!one) throw new Fault('not-found', 'This query is not kept any more.', 'Reload the Library.');
    ctx.body = await apply(proposeKeptQuery(site, one.name, null), ctx.state.person.id);
  });
}
