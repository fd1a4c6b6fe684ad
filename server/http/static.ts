import { extname, join } from 'node:path';
import type { Context, Next } from 'koa';
import { HttpError } from 'koa';
import send from 'koa-send';
import { Fault } from '../fault.ts';
import { buildFolder } from '../built.ts';

/**
 * The built interface, compressed as it was built where the browser takes that. Addresses of the application's own sections
 * all get its one page.
 */
export function staticFiles() {
  const root = join(buildFolder(), 'web');
  return async (ctx: Context, next: Next) => {
    if (ctx.method !== 'GET' && ctx.method !== 'HEAD') return next();
    // Browsers ask for it wherever they are.
    const asked = ctx.path === '/favicon.ico' ? '/mark.svg' : ctx.path;
    const file = extname(asked) ? asked : '/index.html';
    const kept = file.startsWith('/assets/');
    ctx.vary('Accept-Encoding');
    try {
      await send(ctx, file, {
        root,
        setHeaders: (res) =>
          res.setHeader('Cache-Control', kept ? 'public, max-age=31536000, immutable' : 'no-cache'),
      });
    } catch (error) {
      if (!(error instanceof HttpError) || error.status >= 500) throw error;
      throw new Fault('not-found', 'There is nothing at this address.', 'Start at the Library.');
    }
  };
}
