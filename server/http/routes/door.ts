import { basename } from 'node:path';
import type { Context } from 'koa';
import { DoorView, PersonView, ProviderAddress } from '../../../api/people.ts';
import { Fault } from '../../fault.ts';
import type { Person } from '../../db/people.ts';
import type { SessionRow } from '../../db/sessions.ts';
import type { ProviderDoor } from '../../people/provider-door.ts';
import type { Services } from '../context.ts';
import { defineRoute, type Route } from '../route.ts';
import { originOf, setToken } from '../session.ts';

/** How people come in. */
export const doorRoutes = ({ site, demo, provider }: Services): Route[] => [
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
      provider: provider?.name ?? null,
    }),
  }),

  defineRoute({
    method: 'post',
    path: '/sign-in',
    right: 'sign-in',
    body: 'SignIn',
    answer: PersonView,
    handle: async ({ body, ctx }) => signedIn({ site }, ctx, await site.access.signIn(body, originOf(ctx))),
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

  /** Off to the organisation's provider. What is kept of it meanwhile is known by a cookie of its own. */
  defineRoute({
    method: 'post',
    path: '/sign-in/provider',
    right: 'sign-in',
    body: 'Nothing',
    answer: ProviderAddress,
    handle: ({ ctx }) => toProvider(needProvider(provider), ctx),
  }),

  /** And back: who came in; null: who is signed in was connected with it. */
  defineRoute({
    method: 'post',
    path: '/sign-in/provider/finish',
    right: 'sign-in',
    body: 'ProviderAnswer',
    answer: PersonView.nullable(),
    handle: async ({ body, ctx }) => {
      const way = ctx.cookies.get(WAY_COOKIE);
      ctx.cookies.set(WAY_COOKIE, null, WAY_OPTIONS);
      const door = needProvider(provider);
      const person = ctx.state.session ? (ctx.state.person as Person) : undefined;
      const started = await door.finish(way, body.answer, originOf(ctx), person);
      return started ? signedIn({ site }, ctx, started) : null;
    },
  }),
];

const WAY_COOKIE = 'iconomos_way';
const WAY_OPTIONS = {
  httpOnly: true,
  sameSite: 'strict',
  overwrite: true,
  path: '/api/sign-in/provider',
} as const;

/** Where to go, and the cookie by which the browser is known again. */
export async function toProvider(
  door: ProviderDoor,
  ctx: Context,
  personId?: number,
): Promise<{ address: string }> {
  const { address, way } = await door.provider.begin(`${ctx.origin}/sign-in/back`, personId);
  ctx.cookies.set(WAY_COOKIE, way, { ...WAY_OPTIONS, secure: ctx.secure });
  return { address };
}

/** @throws Fault 'not-found' where none is set */
export function needProvider(door: ProviderDoor | undefined): ProviderDoor {
  if (door) return door;
  throw new Fault('not-found', 'No provider is set up here.', 'Sign in with your password.');
}

/** Whoever was signed in in this browser is not any more. */
function signedIn(
  { site }: Pick<Services, 'site'>,
  ctx: Context,
  { person, token }: { person: Person; token: string },
): Person {
  const before = ctx.state.session as SessionRow | undefined;
  if (before) site.access.leave(before);
  setToken(ctx, token);
  const { id, name, role, folders } = person;
  return { id, name, role, folders };
}
