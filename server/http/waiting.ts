import type { Context } from 'koa';
import { targetFault } from '../../core/address/target.ts';
import { Fault } from '../fault.ts';

/** Aborted when nobody waits for the answer any more. */
export function whileWaited(ctx: Context): AbortSignal {
  const gone = new AbortController();
  ctx.res.once('close', () => gone.abort(new Error('nobody waits for it any more')));
  return gone.signal;
}

/** A folder that files may be brought into; '': the site's root. @throws Fault 'bad-request' */
export function needFolder(folder: string): void {
  const fault = folder === '' ? undefined : targetFault(folder);
  if (fault) throw new Fault('bad-request', fault, 'Choose another folder.');
}
