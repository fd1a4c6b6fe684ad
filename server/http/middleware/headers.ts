import type { Context, Next } from 'koa';
import type { Events } from '../../app/events.ts';

/** What browsers may do with an answer (Content Security Policy 3, Fetch). */
export function securityHeaders(servedAt: string) {
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

/** Which state of the library an answer tells of, at the least: a window that follows events sees what it has missed. */
export function libraryRevision(events: Pick<Events, 'revision'>) {
  return async (ctx: Context, next: Next) => {
    if (ctx.path.startsWith('/api/')) ctx.set('Library-Revision', events.revision);
    await next();
  };
}
