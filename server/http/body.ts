import type { IncomingMessage } from 'node:http';
import type { Context } from 'koa';
import { ZodError } from 'zod';
import { Fault } from '../fault.ts';
import { readLargeJson } from '../workers/json.ts';
import { BODIES, type Body, type BodyName } from '../../api/bodies.ts';

/** Bytes of a request that names many items, or brings a whole table. */
export const LARGE = 32_000_000;
/** Bytes of a body that is read at once: more would keep others waiting. */
const AT_ONCE = 16_000;
/** Milliseconds that the body of a request may take to come. */
const BODY_TIME = 30_000;
/** Milliseconds that the rest of a refused body may go on coming. */
const LINGER = 2_000;
/** Bytes of all bodies that are coming in or being read at one time. */
const MOST_AT_ONCE = 128_000_000;

let coming = 0;

/**
 * Reads a JSON body, of at most 8 MB unless more is meant, and checks it against its schema. What is too large, or would be, is not read at
 * all; one that does not end is not waited for; a large one is read on a thread of its own.
 * @throws Fault, ZodError
 */
export async function readBody<Name extends BodyName>(
  ctx: Context,
  name: Name,
  most = 8_000_000,
  time = BODY_TIME,
): Promise<Body<Name>> {
  if (!ctx.is('application/json'))
    throw new Fault('bad-request', 'The request is not JSON.', 'Reload the page and try again.');
  let body: Blocks;
  try {
    body = await bodyOf(ctx.req, most, time);
  } catch (error) {
    ctx.res.once('finish', () => leaveRest(ctx.req));
    throw error;
  }
  if (body.length > AT_ONCE) {
    const { length } = body;
    // It is held until it has been read: others wait outside meanwhile.
    coming += length;
    try {
      return await readElsewhere(name, body.all());
    } finally {
      coming -= length;
    }
  }
  let value: unknown;
  try {
    value = JSON.parse(Buffer.concat(body.all()).toString('utf8'));
  } catch {
    throw notJson();
  }
  return BODIES[name].parse(value) as Body<Name>;
}

const notJson = () =>
  new Fault('bad-request', 'The request is not valid JSON.', 'Reload the page and try again.');

/** A large body, read while others go on. */
async function readElsewhere<Name extends BodyName>(
  name: Name,
  blocks: readonly Uint8Array<ArrayBuffer>[],
): Promise<Body<Name>> {
  const read = await readLargeJson(blocks, name).catch((error: NodeJS.ErrnoException) => {
    throw error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? tooLarge() : error;
  });
  if ('invalid' in read) throw notJson();
  if ('issues' in read) throw new ZodError(read.issues);
  return read.value as Body<Name>;
}

/**
 * The rest of a body is not wanted. It is let go by unread for a moment: who sends it must be able to read the answer, which a connection
 * that is closed with bytes still coming takes away.
 */
function leaveRest(req: IncomingMessage) {
  if (req.complete || req.destroyed) return;
  const closing = setTimeout(() => req.socket.destroy(), LINGER);
  req.once('end', () => clearTimeout(closing)).once('close', () => clearTimeout(closing));
  req.resume();
}

/** Bytes as they come, in blocks of their own: a large body is never copied at one go. */
class Blocks {
  length = 0;
  private readonly full: Uint8Array<ArrayBuffer>[] = [];
  private last = new Uint8Array(AT_ONCE);
  private used = 0;

  add(bytes: Uint8Array): void {
    this.length += bytes.length;
    for (let rest = bytes; rest.length > 0;) {
      if (this.used === this.last.length) {
        this.full.push(this.last);
        this.last = new Uint8Array(1_000_000);
        this.used = 0;
      }
      const some = rest.subarray(0, this.last.length - this.used);
      this.last.set(some, this.used);
      this.used += some.length;
      rest = rest.subarray(some.length);
    }
  }

  all(): Uint8Array<ArrayBuffer>[] {
    return [...this.full, this.last.subarray(0, this.used)];
  }
}

const tooLarge = () => new Fault('too-large', 'The request is too large.', 'Choose fewer items at once.');

function bodyOf(req: IncomingMessage, most: number, time: number): Promise<Blocks> {
  if (Number(req.headers['content-length'] ?? 0) > most) return Promise.reject(tooLarge());
  return new Promise((done, failed) => {
    const body = new Blocks();
    const end = (fault?: Error) => {
      clearTimeout(timer);
      coming -= body.length;
      req.off('data', take).off('end', ended).off('close', gone);
      req.pause();
      if (fault) failed(fault);
      else done(body);
    };
    const take = (chunk: Buffer) => {
      coming += chunk.length;
      body.add(chunk);
      if (body.length > most) end(tooLarge());
      else if (coming > MOST_AT_ONCE)
        end(new Fault('busy', 'The server is at work on other large requests.', 'Try again in a moment.'));
    };
    const ended = () => end();
    const gone = () => end(new Fault('bad-request', 'The request was interrupted.', 'Try again.'));
    const timer = setTimeout(
      () =>
        end(
          new Fault(
            'bad-request',
            `The request didn’t finish within ${Math.round(time / 1000)} s.`,
            'Try again, with fewer items at once.',
          ),
        ),
      time,
    );
    req.on('data', take).once('end', ended).once('close', gone);
  });
}
