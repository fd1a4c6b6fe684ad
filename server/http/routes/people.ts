import { basename } from 'node:path';
import { z } from 'zod';
import type { Context } from 'koa';
import {
  AccessView,
  DoorView,
  Holdings,
  InvitationView,
  MemberView,
  PersonView,
  SessionView,
  TokenMade,
  TokenView,
} from '../../../api/people.ts';
import { grantOf } from '../../../core/people/rights.ts';
import { Fault } from '../../fault.ts';
import type { Person } from '../../db/people.ts';
import type { SessionRow } from '../../db/sessions.ts';
import type { Services } from '../context.ts';
import { defineRoute, Done, Id, type Route } from '../route.ts';
import { dropToken, originOf, setToken } from '../session.ts';

/** Lines of the access log that are shown. */
const SHOWN = 300;
const moment = (at: number) => new Date(at).toISOString();

/** Signing in and out, and a person's own account. */
export const accountRoutes = ({ site, demo }: Services): Route[] => [
  defineRoute({
    method: 'get',
    path: '/door',
    right: 'sign-in',
    answer: DoorView,
    handle: ({ ctx }) => ({
      site: basename(site.folder.root),
      person: (ctx.state.person as Person | undefined) ?? null,
      unset: !demo && !site.access.isSet,
      demo: demo ? site.people.all() : null,
    }),
  }),

  defineRoute({
    method: 'post',
    path: '/sign-in',
    right: 'sign-in',
    body: 'SignIn',
    answer: PersonView,
    handle: async ({ body, ctx }) =>
      signedIn({ site }, ctx, await site.access.signIn(body.name, body.password, originOf(ctx))),
  }),

  defineRoute({
    method: 'post',
    path: '/sign-in/as',
    right: 'sign-in',
    body: 'SignInAs',
    answer: PersonView,
    handle: ({ body, ctx }) => {
      if (!demo) throw new Fault('forbidden', 'This is no demo.', 'Sign in with your password.');
      if (!site.people.get(body.personId))
        throw new Fault('not-found', 'There is no such person.', 'Choose one from the list.');
      site.access.log.add('signed-in', body.personId, originOf(ctx));
      return signedIn({ site }, ctx, site.access.start(body.personId, originOf(ctx)));
    },
  }),

  /** Whose a link is. It comes in the body, as addresses are written down in many places. */
  defineRoute({
    method: 'post',
    path: '/invitation/look',
    right: 'sign-in',
    body: 'InvitationLook',
    answer: PersonView,
    handle: ({ body, ctx }) => site.access.invited(body.token, originOf(ctx)),
  }),

  defineRoute({
    method: 'post',
    path: '/invitation/use',
    right: 'sign-in',
    body: 'InvitationUse',
    answer: PersonView,
    handle: async ({ body, ctx }) => signedIn({ site }, ctx, await site.access.accept(body, originOf(ctx))),
  }),

  defineRoute({
    method: 'post',
    path: '/sign-out',
    right: 'look',
    body: 'Nothing',
    answer: Done,
    handle: ({ person, ctx }) => {
      const session = ctx.state.session as SessionRow | undefined;
      if (session) site.access.signOut({ person, session }, originOf(ctx));
      dropToken(ctx);
      return {};
    },
  }),

  defineRoute({
    method: 'post',
    path: '/account/password',
    right: 'look',
    body: 'PasswordChange',
    answer: Done,
    handle: async ({ body, person, ctx }) => {
      const session = needSession(ctx);
      await site.access.changePassword({ person, session }, body.current, body.next, originOf(ctx));
      return {};
    },
  }),

  defineRoute({
    method: 'get',
    path: '/account/sessions',
    right: 'look',
    answer: z.array(SessionView),
    handle: ({ person, ctx }) =>
      site.access.sessions.of(person.id).map(({ id, startedAt, seenAt, address, agent }) => ({
        id,
        startedAt: moment(startedAt),
        seenAt: moment(seenAt),
        address,
        agent,
        own: id === (ctx.state.session as SessionRow | undefined)?.id,
      })),
  }),

  defineRoute({
    method: 'post',
    path: '/account/sessions/:id/end',
    right: 'look',
    params: Id,
    body: 'Nothing',
    answer: Done,
    handle: ({ params, person, ctx }) => {
      site.access.endSession(person, params.id, originOf(ctx));
      return {};
    },
  }),
];

/** Tokens of programs. No program makes one, or ends one. */
export const tokenRoutes = ({ site }: Services): Route[] => [
  defineRoute({
    method: 'get',
    path: '/account/tokens',
    right: 'look',
    answer: z.array(TokenView),
    handle: ({ person }) =>
      site.access.tokens.of(person.id).map(({ id, name, role, madeAt, endsAt, usedAt }) => ({
        id,
        name,
        role,
        madeAt: moment(madeAt),
        endsAt: moment(endsAt),
        usedAt: usedAt === null ? null : moment(usedAt),
      })),
  }),

  defineRoute({
    method: 'post',
    path: '/account/tokens',
    right: 'look',
    body: 'MakeToken',
    answer: TokenMade,
    handle: ({ body: { name, role, days }, person, ctx }) => {
      needWindow(ctx);
      return { token: site.access.makeToken(person, name, role, days, originOf(ctx)) };
    },
  }),

  defineRoute({
    method: 'post',
    path: '/account/tokens/:id/end',
    right: 'look',
    params: Id,
    body: 'Nothing',
    answer: Done,
    handle: ({ params, person, ctx }) => {
      needWindow(ctx);
      site.access.endToken(person, params.id, originOf(ctx));
      return {};
    },
  }),
];

/** @throws Fault 'forbidden' for a program */
function needWindow(ctx: Context): void {
  if (ctx.state.token !== undefined)
    throw new Fault('forbidden', 'A program can’t make or end tokens.', 'Do it in “Your account”.');
}

/** The people of the site, for whoever answers for all. */
export const peopleRoutes = ({ site }: Services): Route[] => [
  defineRoute({
    method: 'get',
    path: '/people',
    right: 'people',
    answer: z.array(MemberView),
    handle: () =>
      site.people
        .rows()
        .map(({ seenAt, ...row }) => ({ ...row, seenAt: seenAt === null ? null : moment(seenAt) })),
  }),

  defineRoute({
    method: 'post',
    path: '/people',
    right: 'people',
    body: 'Invite',
    answer: InvitationView,
    handle: ({ body, person, ctx }) => site.access.invite(body.name, body.role, person, originOf(ctx)),
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

  defineRoute({
    method: 'patch',
    path: '/people/:id',
    right: 'people',
    params: Id,
    body: 'MemberChange',
    answer: Done,
    handle: ({ params, body, person, ctx }) => {
      site.access.change(params.id, body, person, originOf(ctx));
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
      proposals: site.submissions.openOf(id),
    }),
  }),

  /** Their open proposals become another's; items are handed on by a plan. */
  defineRoute({
    method: 'post',
    path: '/people/:id/hand-on',
    right: 'people',
    params: Id,
    body: 'HandOn',
    answer: Done,
    handle: ({ params, body, person, ctx }) => {
      const to = site.people.get(body.to);
      if (!to || grantOf(to.role, 'publish') === 'no')
        throw new Fault('bad-request', 'Nobody of that name may propose anything.', 'Choose somebody else.');
      site.db.write(() => {
        site.submissions.handOn(params.id, to.id);
        site.access.log.add('handed-on', params.id, { ...originOf(ctx), byId: person.id, details: to.name });
      });
      site.events.emit('submissions');
      return {};
    },
  }),

  defineRoute({
    method: 'get',
    path: '/access-log',
    right: 'people',
    answer: z.array(AccessView),
    handle: () => site.access.log.list(SHOWN),
  }),
];

/** Whoever was signed in in this browser is not any more. */
function signedIn(
  { site }: Pick<Services, 'site'>,
  ctx: Context,
  { person, token }: { person: Person; token: string },
): Person {
  const before = ctx.state.session as SessionRow | undefined;
  if (before) site.access.leave(before);
  setToken(ctx, token);
  return { id: person.id, name: person.name, role: person.role };
}

function needSession(ctx: Context): SessionRow {
  const session = ctx.state.session as SessionRow | undefined;
  if (session) return session;
  throw new Fault(
    'signed-out',
    'In the demo nobody has a password until they sign in.',
    'Choose a person first.',
  );
}
