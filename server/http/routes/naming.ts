import { OwnFields } from '../../../api/items.ts';
import { NamingTable, SavedPatterns } from '../../../api/naming.ts';
import { needAllHere } from '../../changes/proposal.ts';
import type { Services } from '../context.ts';
import { defineRoute, Json, type Route } from '../route.ts';
import { namingTable } from '../views/naming.ts';

/** What new names are made of, and what is kept for that. */
export const namingRoutes = ({ site }: Services): Route[] => [
  defineRoute({
    method: 'post',
    path: '/naming',
    right: 'look',
    body: 'NamingRequest',
    answer: NamingTable,
    handle: async ({ body }) => Json.large(await namingTable(site, await needAllHere(site, body.ids))),
  }),

  defineRoute({
    method: 'get',
    path: '/name-patterns',
    right: 'look',
    answer: SavedPatterns,
    handle: () => site.namePatterns.all(),
  }),

  defineRoute({
    method: 'get',
    path: '/own-fields',
    right: 'look',
    answer: OwnFields,
    handle: () => site.ownFields.all(),
  }),
];
