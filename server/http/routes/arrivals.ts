import type { Readable } from 'node:stream';
import { z } from 'zod';
import {
  ArrivalList,
  ArrivalsQuery,
  ArrivalView,
  Fetched,
  FolderRules,
  ReplacementView,
  Unpacked,
} from '../../../api/intake.ts';
import { BroughtIn } from '../../../api/plans.ts';
import { SITE_RULE } from '../../../core/intake/rules.ts';
import { KINDS_OF_PLAN } from '../../../core/plan/kinds/index.ts';
import { Fault } from '../../fault.ts';
import { fetchFile } from '../../intake/fetch.ts';
import { LIMITS } from '../../limits.ts';
import { unpack } from '../../intake/unpack.ts';
import { takeIn } from '../../intake/uploads.ts';
import type { OpenedSite } from '../../app/opened-site.ts';
import type { Item } from '../../db/item-rows.ts';
import type { Services } from '../context.ts';
import { needFolder } from '../need-folder.ts';
import { whileWaited } from '../waiting.ts';
import { defineRoute, Done, Id, type Route, needRight } from '../route.ts';

/** Files that are coming in, until they are on the site. */
export const arrivalRoutes = ({ site, arrivals, uploads, fetching }: Services): Route[] => [
  /** Resumable uploads (tus): creation, sending on, asking how far it came, giving up. */
  defineRoute({
    method: 'all',
    path: '/uploads{/*rest}',
    right: 'bring-in',
    answer: 'own',
    handle: async ({ person, ctx }) => {
      ctx.respond = false;
      await uploads.handle(ctx.req, ctx.res, person.id);
      site.events.emit('arrivals');
    },
  }),

  /** The person's list: all of it, or what has changed after a revision of it. */
  defineRoute({
    method: 'get',
    path: '/arrivals',
    right: 'bring-in',
    query: ArrivalsQuery,
    answer: ArrivalList,
    handle: ({ query, person }) => arrivals.since(person.id, query.after),
  }),

  defineRoute({
    method: 'patch',
    path: '/arrivals',
    right: 'bring-in',
    body: 'ArrivalChanges',
    answer: z.array(ArrivalView),
    handle: ({ body: { ids, ...change }, person }) => {
      if (change.folder !== undefined) needFolder(change.folder);
      return arrivals.change(ids, person.id, change);
    },
  }),

  /** A file that is to take the place of an item's: its bytes are the body. */
  defineRoute({
    method: 'put',
    path: '/items/:id/replacement',
    right: 'bring-in',
    params: Id,
    query: z.strictObject({ name: z.string().min(1).max(1000) }),
    answer: ReplacementView,
    handle: ({ params, query, person, ctx }) =>
      takeReplacement(site, site.items.need(params.id), person.id, query.name, ctx.req),
  }),

  defineRoute({
    method: 'delete',
    path: '/arrivals/:id',
    right: 'bring-in',
    params: Id,
    answer: Done,
    handle: async ({ params, person }) => {
      await arrivals.drop(params.id, person.id);
      return {};
    },
  }),

  defineRoute({
    method: 'post',
    path: '/arrivals/:id/unpack',
    right: 'bring-in',
    params: Id,
    body: 'Nothing',
    answer: Unpacked,
    handle: async ({ params, person }) => {
      const files = await unpack(site, params.id, person.id);
      await arrivals.drop(params.id, person.id);
      return { files };
    },
  }),

  defineRoute({
    method: 'post',
    path: '/arrivals/fetch',
    right: 'bring-in',
    body: 'FetchRequest',
    answer: Fetched,
    handle: async ({ body: { address, folder }, person, ctx }) => {
      needFolder(folder);
      const to = { personId: person.id, folder };
      return { id: await fetchFile(site, fetching, address, to, whileWaited(ctx)) };
    },
  }),

  defineRoute({
    method: 'post',
    path: '/arrivals/bring-in',
    right: 'bring-in',
    body: 'BringIn',
    answer: BroughtIn,
    handle: async ({ body, person }) => {
      if (body.as === 'items') needRight(person, 'publish');
      if (body.as === 'items' && arrivals.replaces(body.arrivalIds, person.id))
        needRight(person, KINDS_OF_PLAN.replace.right);
      const { entryId, itemIds, used, plan } = await arrivals.bringIn(body.arrivalIds, person.id, body.as);
      return { entryId, itemIds, used, title: plan?.title ?? '', totals: plan?.totals ?? null };
    },
  }),

  defineRoute({
    method: 'get',
    path: '/folder-rules',
    right: 'look',
    answer: FolderRules,
    handle: () => ({ rules: site.rules.all(), otherwise: SITE_RULE }),
  }),
];

/** Takes one file for one item, as bytes, through the door; answers when it is checked. */
async function takeReplacement(
  site: Pick<OpenedSite, 'data' | 'arrivals' | 'now' | 'checking'>,
  item: Item,
  personId: number,
  givenName: string,
  body: Readable,
): Promise<ReplacementView> {
  const id = await takeIn(site, body, {
    personId,
    givenName,
    folder: item.folder,
    below: '',
    inside: false,
    most: LIMITS.fileBytes,
  });
  await site.checking.settled();
  const row = site.arrivals.get(id);
  if (row?.state !== 'ready') {
    if (row) site.arrivals.remove(id);
    throw new Fault('refused-file', row?.refused || 'The file couldn’t be accepted.', 'Choose another one.');
  }
  return {
    arrivalId: id,
    name: row.name,
    bytes: row.ready?.bytes ?? row.bytes,
    width: row.ready?.facts.width ?? row.facts.width ?? null,
    height: row.ready?.facts.height ?? row.facts.height ?? null,
  };
}
