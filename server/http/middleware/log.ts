import type { Context, Next } from 'koa';
import type { Logger } from 'pino';

/** Every request, at the level of debugging. */
export function logRequests(log: Logger) {
  return async (ctx: Context, next: Next) => {
    const start = performance.now();
    await next();
    log.debug(
      { method: ctx.method, path: ctx.path, status: ctx.status, ms: Math.round(performance.now() - start) },
      'request',
    );
  };
}
