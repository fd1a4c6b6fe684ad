import { randomBytes } from 'node:crypto';
import type { Context, Next } from 'koa';
import { Fault } from '../fault.ts';
import type { Person } from '../db/people.ts';
import { onBehalf } from '../workers/fair.ts';
import type { Services } from './context.ts';
import { SESSION_COOKIE } from './middleware/guard.ts';

/** Puts the signed-in person into the context: by session cookie, else the site's first person (its steward). */
export function withPerson(services: Services) {
  return async (ctx: Context, next: Next) => {
    const token = ctx.cookies.get(SESSION_COOKIE);
    const id = token === undefined ? undefined : services.sessions.get(token);
    const person =
      (id === undefined ? undefined : services.site.people.get(id)) ?? services.site.people.all()[0];
    if (!person)
      throw new Fault('forbidden', 'There is no person who could be signed in.', 'Add one to the site.');
    ctx.state.person = person;
    await onBehalf(person.id, next);
  };
}

/** Starts a session for a person. Until real sign-in exists, whoever reaches the server may choose. */
export function startSession(ctx: Context, services: Services, person: Person): void {
  const token = randomBytes(24).toString('base64url');
  services.sessions.set(token, person.id);
  ctx.cookies.set(SESSION_COOKIE, token, { httpOnly: true, sameSite: 'strict' });
}
