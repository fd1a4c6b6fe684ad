import type { Context, Next } from 'koa';
import type { Logger } from 'pino';
import { ZodError } from 'zod';
import { Fault, type FaultCode } from '../../fault.ts';
import { refusalOf } from '../refusal.ts';

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
  'signed-out': 401,
  'code-needed': 401,
  slowed: 429,
};

/** Whatever is thrown is answered with a sentence: what, why, what to do. */
export function answerFaults(log: Logger) {
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
          message: 'The disk is full. Nothing was changed.',
          remedy: 'Free some space, or skip files still being uploaded, then try again.',
        };
      } else {
        log.error({ error, path: ctx.path }, 'request failed');
        ctx.status = 500;
        ctx.body = {
          code: 'defect',
          message: 'Something went wrong in Iconomos. Nothing was changed halfway.',
          remedy: 'Try again. If it happens again, check the server’s log.',
        };
      }
    }
  };
}
