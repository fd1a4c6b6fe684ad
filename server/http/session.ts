import type { Context, Next } from 'koa';
import { Fault } from '../fault.ts';
import type { Person } from '../db/people.ts';
import type { Origin } from '../db/sessions.ts';
import { hiddenFrom } from '../people/drafts.ts';
import { cameFrom } from '../db/acting.ts';
import { onBehalf } from '../workers/fair.ts';
import type { Services } from './context.ts';
import { bearerOf, SESSION_COOKIE } from './middleware/guard.ts';

/** Days that a browser keeps the cookie; the session itself ends earlier. */
const COOKIE_DAYS = 14;

/**
 * Puts the person who is signed in into the context. Without one, only what anybody may ask for goes on. In the demo, who has not signed in is its
 * first person.
 */
export function withPerson({ site, demo }: Services) {
  return async (ctx: Context, next: Next) => {
    const bearer = bearerOf(ctx);
    if (bearer !== undefined) {
      // A program: no cookie, and in the demo nobody by default.
      const { person, name } = site.access.byToken(bearer, originOf(ctx));
      ctx.state.person = person;
      ctx.state.token = name;
      ctx.state.hiddenOf = (ids: readonly number[]) => hiddenFrom(site, person, ids);
      return cameFrom(`token ${name}`, () => onBehalf(person.id, next));
    }
    const token = ctx.cookies.get(SESSION_COOKIE);
    const found = token === undefined ? undefined : site.access.who(token);
    if (found?.token !== undefined) setToken(ctx, found.token);
    const person = found?.person ?? (demo ? site.people.all()[0] : undefined);
    if (!person) return next();
    ctx.state.person = person;
    ctx.state.hiddenOf = (ids: readonly number[]) => hiddenFrom(site, person, ids);
    if (found) ctx.state.session = found.session;
    await cameFrom('window', () => onBehalf(person.id, next));
  };
}

/** @throws Fault 'signed-out' */
export function needPerson(ctx: Context): Person {
  const person = ctx.state.person as Person | undefined;
  if (person) return person;
  throw new Fault('signed-out', 'You aren’t signed in.', 'Sign in, then go on.');
}

/** Where a request comes from, for the access log. */
export const originOf = (ctx: Context): Origin => ({ address: ctx.ip, agent: ctx.get('User-Agent') });

/** Hands a session's token to the browser: no script can read it, no other site sends it along. */
export function setToken(ctx: Context, token: string): void {
  ctx.cookies.set(SESSION_COOKIE, token, {
    httpOnly: true,
    sameSite: 'strict',
    secure: ctx.secure,
    overwrite: true,
    maxAge: COOKIE_DAYS * 24 * 3600_000,
  });
}

export function dropToken(ctx: Context): void {
  ctx.cookies.set(SESSION_COOKIE, null, { httpOnly: true, sameSite: 'strict', overwrite: true });
}
