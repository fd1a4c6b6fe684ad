import { randomBytes } from 'node:crypto';
import Router from '@koa/router';
import Koa, { type Context, type Next } from 'koa';
import type { Logger } from 'pino';
import { ZodError } from 'zod';
import { Fault, type FaultCode } from '../fault.ts';
import { Arrivals } from '../intake/arrivals.ts';
import type { FetchSetting } from '../intake/fetch.ts';
import { Uploads } from '../intake/uploads.ts';
import { Exports } from '../export/export.ts';
import { Proposals } from '../ledger/proposal.ts';
import type { Site } from '../site/site.ts';
import type { Person } from '../store/people.ts';
import { exportRoutes } from './exports.ts';
import { eventRoutes } from './events.ts';
import { onBehalf } from '../work/fair.ts';
import { ownHostsOnly, readableAddresses, SESSION_COOKIE, tidyCookies } from './guard.ts';
import { intakeRoutes } from './intake.ts';
import { itemRoutes } from './items.ts';
import type { Looking } from './look.ts';
import { pageRoutes } from './pages.ts';
import { planRoutes } from './plans.ts';
import { readingRoutes } from './reading.ts';
import { refusalOf } from './refusal.ts';
import { describeRoutes } from './describe.ts';
import { namingRoutes } from './naming.ts';
import { savedQueryRoutes } from './saved-queries.ts';
import { siteRoutes } from './site.ts';
import { staticFiles } from './static.ts';
import { suggestionRoutes } from './suggestions.ts';
import { upkeepRoutes } from './upkeep.ts';
import { thumbnailRoutes } from './thumbnails.ts';

/** What every route finds in its context. No route runs without a person. */
export interface State {
  person: Person;
}
export type Route = Router<State>;

export interface AppParts {
  site: Site;
  log: Logger;
  /** Origin under which the site itself is served. */
  servedAt: string;
  /** Host names (with port) that this application answers to. */
  hosts: readonly string[];
  /** How the served site shows pages with marks; default: it does not. */
  looking?: Looking;
  /** Default: nothing is fetched from other servers. */
  fetching?: FetchSetting;
}

export interface Services extends Omit<AppParts, 'fetching'> {
  proposals: Proposals;
  arrivals: Arrivals;
  uploads: Uploads;
  fetching: FetchSetting;
  exports: Exports;
  sessions: Map<string, number>;
}

const STATUS: Record<FaultCode, number> = {
  'no-site': 500,
  'data-folder': 500,
  outside: 400,
  'not-found': 404,
  'bad-request': 400,
  'moved-on': 409,
  unsettled: 409,
  clash: 409,
  'stale-record': 409,
  'refused-file': 422,
  'too-large': 413,
  'disk-full': 507,
  busy: 503,
  cancelled: 409,
  forbidden: 403,
};

export function createApp(parts: AppParts): Koa {
  const { site } = parts;
  const services: Services = {
    ...parts,
    proposals: parts.looking?.proposals ?? new Proposals(),
    arrivals: new Arrivals(site),
    uploads: new Uploads(site),
    fetching: parts.fetching ?? { allowed: false, hosts: [] },
    exports: new Exports(site),
    sessions: new Map(),
  };
  const app = new Koa();
  app.on('error', (error: Error) => parts.log.debug({ error: error.message }, 'the other side went away'));
  app.use(logRequests(parts.log));
  app.use(answerFaults(parts.log));
  app.use(securityHeaders(parts.servedAt));
  app.use(readableAddresses);
  app.use(ownHostsOnly(parts.hosts));
  app.use(tidyCookies);
  app.use(withPerson(services));
  const router: Route = new Router<State>({ prefix: '/api' });
  for (const add of [
    siteRoutes,
    itemRoutes,
    savedQueryRoutes,
    namingRoutes,
    describeRoutes,
    pageRoutes,
    planRoutes,
    readingRoutes,
    upkeepRoutes,
    suggestionRoutes,
    intakeRoutes,
    exportRoutes,
    thumbnailRoutes,
    eventRoutes,
  ]) {
    add(router, services);
  }
  router.all('/{*rest}', () => {
    throw new Fault('not-found', 'There is no such address.', 'Reload the application.');
  });
  app.use(router.routes());
  app.use(staticFiles());
  return app;
}

function logRequests(log: Logger) {
  return async (ctx: Context, next: Next) => {
    const start = performance.now();
    await next();
    log.debug(
      { method: ctx.method, path: ctx.path, status: ctx.status, ms: Math.round(performance.now() - start) },
      'request',
    );
  };
}

function answerFaults(log: Logger) {
  return async (ctx: Context, next: Next) => {
    try {
      await next();
    } catch (error) {
      if (error instanceof Fault && error.code === 'forbidden')
        log.warn(
          {
            method: ctx.method,
            path: ctx.path,
            host: ctx.host,
            origin: ctx.get('Origin'),
            why: error.message,
          },
          'refused',
        );
      if (error instanceof Fault && !ctx.path.startsWith('/api/')) {
        // A person looks at it, not the application.
        ctx.status = STATUS[error.code];
        ctx.type = 'text/plain';
        ctx.body = `${error.message} ${error.remedy}`;
      } else if (error instanceof Fault) {
        ctx.status = STATUS[error.code];
        ctx.body = { code: error.code, message: error.message, remedy: error.remedy, details: error.details };
      } else if (error instanceof ZodError) {
        ctx.status = 400;
        ctx.body = { code: 'bad-request', ...refusalOf(error) };
      } else if (['SQLITE_FULL', 'ENOSPC', 'EDQUOT'].includes((error as NodeJS.ErrnoException).code ?? '')) {
        ctx.status = STATUS['disk-full'];
        ctx.body = {
          code: 'disk-full',
          message: 'The disk is full, so nothing was changed.',
          remedy: 'Free some space, or leave out files that still come in; then try again.',
        };
      } else {
        log.error(
          { error: error instanceof Error ? error.stack : String(error), path: ctx.path },
          'request failed',
        );
        ctx.status = 500;
        ctx.body = {
          code: 'defect',
          message: 'Something went wrong inside Iconomos. Nothing was half done.',
          remedy: 'Try again; if it stays so, read the server’s log.',
        };
      }
    }
  };
}

function securityHeaders(servedAt: string) {
  const policy = [
    "default-src 'self'",
    `img-src 'self' data: blob: ${servedAt}`,
    `media-src 'self' ${servedAt}`,
    `frame-src ${servedAt}`,
    "style-src 'self' 'unsafe-inline'",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ');
  return async (ctx: Context, next: Next) => {
    ctx.set({
      'Content-Security-Policy': policy,
      'X-Content-Type-Options': 'nosniff',
      'Referrer-Policy': 'same-origin',
      'Cross-Origin-Opener-Policy': 'same-origin',
      'Cross-Origin-Resource-Policy': 'same-origin',
      // What may be kept says so itself.
      ...(ctx.path.startsWith('/api/') ? { 'Cache-Control': 'no-store' } : {}),
    });
    await next();
  };
}

/** Puts the signed-in person into the context: by session cookie, else the site's first person (its steward). */
function withPerson(services: Services) {
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
export function signIn(ctx: Context, services: Services, person: Person): void {
  const token = randomBytes(24).toString('base64url');
  services.sessions.set(token, person.id);
  ctx.cookies.set(SESSION_COOKIE, token, { httpOnly: true, sameSite: 'strict' });
}
