import { basename } from 'node:path';
import { z } from 'zod';
import type { Context } from 'koa';
import {
  FactorView,
  NewFactor,
  ProvidedView,
  ProviderAddress,
  RecoveryCodes,
  SessionView,
  TokenMade,
  TokenView,
} from '../../../api/people.ts';
import { Fault } from '../../fault.ts';
import type { Person } from '../../db/people.ts';
import type { SessionRow } from '../../db/sessions.ts';
import type { Services } from '../context.ts';
import { defineRoute, Done, Id, type Route } from '../route.ts';
import { dropToken, originOf } from '../session.ts';
import { needProvider, toProvider } from './door.ts';

/** ISO 8601 of milliseconds since 1970. */
export const moment = (at: number) => new Date(at).toISOString();

/** A person's own account. */
export const accountRoutes = ({ site }: Services): Route[] => [
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

/** A person's account at the organisation's provider. */
export const providedRoutes = ({ site, provider }: Services): Route[] => [
  defineRoute({
    method: 'get',
    path: '/account/provider',
    right: 'look',
    answer: ProvidedView,
    handle: ({ person }) => ({
      name: provider?.name ?? null,
      connected: provider?.people.has(person.id) ?? false,
      hasPassword: site.people.password(person.id) !== null,
    }),
  }),

  /** Whoever only found a window open can't connect an account of theirs. */
  defineRoute({
    method: 'post',
    path: '/account/provider/connect',
    right: 'look',
    body: 'OwnPassword',
    answer: ProviderAddress,
    handle: async ({ body, person, ctx }) => {
      const door = needProvider(provider);
      await needOwnPassword(site, person, body.password, ctx);
      return toProvider(door, ctx, person.id);
    },
  }),

  defineRoute({
    method: 'post',
    path: '/account/provider/disconnect',
    right: 'look',
    body: 'Nothing',
    answer: Done,
    handle: ({ person, ctx }) => {
      needSession(ctx);
      needProvider(provider).disconnect(person, originOf(ctx));
      return {};
    },
  }),
];

/** A person's second factor. Whoever only found a window open can neither set one nor turn it off. */
export const factorRoutes = ({ site }: Services): Route[] => [
  defineRoute({
    method: 'get',
    path: '/account/second-factor',
    right: 'look',
    answer: FactorView,
    handle: ({ person: { id } }) => ({
      set: site.access.factors.isSet(id),
      codesLeft: site.access.factors.rows.codesLeft(id),
    }),
  }),

  defineRoute({
    method: 'post',
    path: '/account/second-factor',
    right: 'look',
    body: 'OwnPassword',
    answer: NewFactor,
    handle: async ({ body, person, ctx }) => {
      await needOwnPassword(site, person, body.password, ctx);
      return site.access.factors.begin(person, basename(site.folder.root));
    },
  }),

  defineRoute({
    method: 'post',
    path: '/account/second-factor/confirm',
    right: 'look',
    body: 'FactorCode',
    answer: RecoveryCodes,
    handle: ({ body, person, ctx }) => {
      needSession(ctx);
      const codes = site.access.factors.confirm(person, body.code, originOf(ctx));
      site.events.emit('people');
      return { codes };
    },
  }),

  defineRoute({
    method: 'post',
    path: '/account/second-factor/codes',
    right: 'look',
    body: 'OwnPassword',
    answer: RecoveryCodes,
    handle: async ({ body, person, ctx }) => {
      await needOwnPassword(site, person, body.password, ctx);
      return { codes: site.access.factors.renewCodes(person, originOf(ctx)) };
    },
  }),

  defineRoute({
    method: 'post',
    path: '/account/second-factor/end',
    right: 'look',
    body: 'OwnPassword',
    answer: Done,
    handle: async ({ body, person, ctx }) => {
      await needOwnPassword(site, person, body.password, ctx);
      site.access.factors.end(person.id, originOf(ctx));
      site.events.emit('people');
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

function needSession(ctx: Context): SessionRow {
  const session = ctx.state.session as SessionRow | undefined;
  if (session) return session;
  throw new Fault(
    'signed-out',
    'In the demo nobody has a password until they sign in.',
    'Choose a person first.',
  );
}

/** For what nobody may do who only found a window open. @throws Fault */
async function needOwnPassword(
  { access }: Services['site'],
  person: Person,
  password: string,
  ctx: Context,
): Promise<void> {
  needSession(ctx);
  await access.needPassword(person, password, originOf(ctx));
}
