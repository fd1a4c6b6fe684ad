import type { Context, Next } from 'koa';

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
