import type { Context } from 'koa';

/** Aborted when nobody waits for the answer any more. */
export function whileWaited(ctx: Context): AbortSignal {
  const gone = new AbortController();
  ctx.res.once('close', () => gone.abort(new Error('nobody waits for it any more')));
  return gone.signal;
}
