import { z } from 'zod';
import { AccessView, Holdings, InvitationView, MemberView } from '../../../api/people.ts';
import { applyProposal } from '../../changes/apply.ts';
import { proposeNewMember } from '../../changes/people.ts';
import type { Services } from '../context.ts';
import { defineRoute, Done, Id, type Route } from '../route.ts';
import { originOf } from '../session.ts';
import { moment } from './account.ts';

/** Lines of the access log that are shown. */
const SHOWN = 300;

/** The people of the site, for whoever answers for all. */
export const peopleRoutes = ({ site, provider }: Services): Route[] => [
  defineRoute({
    method: 'get',
    path: '/people',
    right: 'people',
    answer: z.array(MemberView),
    handle: () => {
      const factors = site.access.factors.rows.set();
      const provided = provider?.people.all();
      return site.people.rows().map(({ seenAt, ...row }) => ({
        ...row,
        seenAt: seenAt === null ? null : moment(seenAt),
        hasFactor: factors.has(row.id),
        provided: provided?.has(row.id) ?? false,
      }));
    },
  }),

  defineRoute({
    method: 'post',
    path: '/people',
    right: 'people',
    body: 'Invite',
    answer: InvitationView,
    handle: async ({ body, person, ctx }) => {
      const { proposal, id } = proposeNewMember(site, body.name, body.role);
      await applyProposal(site, proposal, person.id);
      return site.access.linkFor(id, person, originOf(ctx));
    },
  }),

  defineRoute({
    method: 'post',
    path: '/people/:id/link',
    right: 'people',
    params: Id,
    body: 'Nothing',
    answer: InvitationView,
    handle: ({ params, person, ctx }) => site.access.linkFor(params.id, person, originOf(ctx)),
  }),

  /** For who has lost the device and the recovery codes. */
  defineRoute({
    method: 'post',
    path: '/people/:id/second-factor/end',
    right: 'people',
    params: Id,
    body: 'Nothing',
    answer: Done,
    handle: ({ params, person, ctx }) => {
      site.access.endFactor(params.id, person, originOf(ctx));
      return {};
    },
  }),

  /** What somebody would leave behind. */
  defineRoute({
    method: 'get',
    path: '/people/:id/holdings',
    right: 'people',
    params: Id,
    answer: Holdings,
    handle: ({ params: { id } }) => ({
      itemIds: site.items.heldBy(id),
      proposals: site.submissions.openOf(id).length,
    }),
  }),

  defineRoute({
    method: 'get',
    path: '/access-log',
    right: 'people',
    answer: z.array(AccessView),
    handle: () => site.access.log.list(SHOWN),
  }),
];
