import type { Context, Next } from 'koa';
import { Fault } from '../../fault.ts';

/** Name of the cookie that a session has. */
export const SESSION_COOKIE = 'iconomos_session';

/** @throws Fault for what is no UTF-8 */
function decoded(path: string): string {
  try {
    return decodeURIComponent(path);
  } catch {
    throw new Fault('bad-request', 'This address cannot be read.', 'Check how it is written.');
  }
}

/** Characters of an address, after its host. */
const LONGEST_ADDRESS = 16_000;

/** Control characters, which no address and no words of a search have; a path that is no UTF-8; and one that nobody writes. */
export async function readableAddresses(ctx: Context, next: Next): Promise<void> {
  if (ctx.url.length > LONGEST_ADDRESS)
    throw new Fault('bad-request', 'The address is too long.', 'Ask for less at once.');
  const path = decoded(ctx.path);
  // eslint-disable-next-line no-control-regex
  if (/[\0-\x08\x0b\x0c\x0e-\x1f\x7f]/.test(`${path}${Object.values(ctx.query).join('')}`))
    throw new Fault(
      'bad-request',
      'The request holds control characters, which no name and no text has.',
      'Write it without them.',
    );
  await next();
}

/** The token that a program brings (RFC 6750); undefined: it brings none. Pages of other origins can't: browsers ask first, and get no leave. */
export const bearerOf = (ctx: Context): string | undefined =>
  /^Bearer ([\w-]{1,200})$/.exec(ctx.get('Authorization'))?.[1];

/** Against pages of other origins: requests must name one of our hosts, and changes must come from our own origin. */
export function ownHostsOnly(hosts: readonly string[]) {
  return async (ctx: Context, next: Next) => {
    if (!hosts.includes(ctx.host.toLowerCase())) {
      throw new Fault(
        'forbidden',
        `This server does not answer to “${ctx.host}”.`,
        'Open the address that it printed at its start.',
      );
    }
    const origin = ctx.get('Origin');
    const own = origin === `http://${ctx.host}` || origin === `https://${ctx.host}`;
    // Browsers name the origin with every change; programs have to, but with a token.
    const program = origin === '' && bearerOf(ctx) !== undefined;
    if (ctx.method !== 'GET' && ctx.method !== 'HEAD' && !own && !program) {
      throw new Fault(
        'forbidden',
        origin === ''
          ? 'The request does not say where it comes from.'
          : 'Another site tried to change something here.',
        'Use the application’s own window.',
      );
    }
    // The served site is another origin: only the application's own pages may ask, and who types an address.
    const site = ctx.get('Sec-Fetch-Site');
    if (site !== '' && site !== 'same-origin' && site !== 'none' && ctx.path.startsWith('/api/')) {
      throw new Fault(
        'forbidden',
        'Another site tried to read from here.',
        'Use the application’s own window.',
      );
    }
    await next();
  };
}

/** Characters of all cookies of a request; ours has 50. */
const LONGEST_COOKIES = 8000;
/** Cookies that are ended one by one. */
const MOST_COOKIES = 200;

/**
 * Pages on another port of the same host can set cookies here: so many that each request is too large, or one of our name. They are cleared,
 * with a sentence; a session that somebody else set is never used.
 */
export async function tidyCookies(ctx: Context, next: Next): Promise<void> {
  const header = ctx.get('Cookie');
  const names = header.split(';').map((one) => one.split('=')[0]!.trim());
  if (header.length > LONGEST_COOKIES || names.filter((name) => name === SESSION_COOKIE).length > 1) {
    ctx.set('Clear-Site-Data', '"cookies"');
    for (const name of [...new Set(names)].slice(0, MOST_COOKIES))
      if (/^[\w.-]+$/.test(name)) ctx.append('Set-Cookie', `${name}=; Path=/; Max-Age=0`);
    throw new Fault(
      'bad-request',
      'Cookies that another page has set for this address were in the way, so they were cleared.',
      'Reload the page, and sign in again.',
    );
  }
  await next();
}
