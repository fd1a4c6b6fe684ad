import { z, ZodError } from 'zod';
import { ItemQuery, SavedQuery } from '../../../api/items.ts';
import { Applied } from '../../../api/plans.ts';
import { Fault } from '../../fault.ts';
import { applyProposal } from '../../changes/apply.ts';
import type { Proposal } from '../../changes/proposal.ts';
import { proposeKeptQuery } from '../../changes/records.ts';
import type { Person } from '../../db/people.ts';
import type { Services } from '../context.ts';
import { defineRoute, Id, type Route } from '../route.ts';
import { storeQuery } from '../store-query.ts';

/** Queries kept under a name. */
export const savedQueryRoutes = ({ site }: Services): Route[] => {
  const read = (query: string, person: Person) =>
    storeQuery(ItemQuery.parse(Object.fromEntries(new URLSearchParams(query))), person);

  const apply = async (proposal: Proposal, personId: number): Promise<Applied> => ({
    entryId: await applyProposal(site, proposal, personId),
    title: proposal.plan.title,
    totals: proposal.plan.totals,
  });

  /** One that cannot be counted does not keep the others from being listed. */
  const counted = async (query: string, person: Person): Promise<number | null> => {
    try {
      return await site.finder.countApart(site.reader, read(query, person));
    } catch (error) {
      if (error instanceof Fault || error instanceof ZodError) return null;
      throw error;
    }
  };
  return [
    defineRoute({
      method: 'get',
      path: '/saved-queries',
      right: 'look',
      answer: z.array(SavedQuery),
      handle: ({ person }) =>
        Promise.all(
          site.savedQueries.all().map(async (row) => ({ ...row, items: await counted(row.query, person) })),
        ),
    }),

    defineRoute({
      method: 'put',
      path: '/saved-queries',
      right: 'describe',
      body: 'KeepQuery',
      answer: Applied,
      handle: ({ body: { name, query }, person }) => {
        read(query, person); // What cannot be read is not kept.
        return apply(proposeKeptQuery(site, name, { name, query, person: person.name }), person.id);
      },
    }),

    defineRoute({
      method: 'delete',
      path: '/saved-queries/:id',
      right: 'describe',
      params: Id,
      answer: Applied,
      handle: ({ params, person }) => {
        const one = site.savedQueries.all().find((row) => row.id === params.id);
        if (!one) throw new Fault('not-found', 'This saved search no longer exists.', 'Reload the Library.');
        return apply(proposeKeptQuery(site, one.name, null), person.id);
      },
    }),
  ];
};
