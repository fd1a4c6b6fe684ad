import type { IncomingMessage } from 'node:http';
import type { z } from 'zod';
import { Fault } from '../fault.ts';
import { LIMITS } from '../limits.ts';
import { allowedAddress, ask, type FetchSetting, type Sent } from './outgoing.ts';

/** Milliseconds before a question is asked again: longer each time. */
const FIRST_WAIT = 300;

/** What went wrong on the other side, and may go better the next time. */
class Failing extends Error {}

/**
 * A service that speaks a protocol of ours (docs/services.md). It leads nowhere else than to its address; what it answers is bounded in time
 * and bytes, and read by the protocol's schemas.
 */
export abstract class Service {
  /** How it calls itself, once it has said so. */
  protected name: string | undefined;
  /** What it is: 'The image bank'. */
  protected abstract readonly what: string;

  /**
   * @param base where it answers; everything else is found below it
   * @param reach where it may lie; default: wherever, as whoever runs the server has named it
   */
  constructor(
    protected readonly base: URL,
    private readonly wait = (ms: number) => new Promise<void>((done) => setTimeout(done, ms)),
    protected readonly limits: Record<
      'serviceTime' | 'serviceTries' | 'serviceAnswer' | 'servicePicture',
      number
    > = LIMITS,
    private readonly reach?: FetchSetting,
  ) {}

  /** By which it is told from others: where it answers. */
  get address(): string {
    return this.base.href;
  }

  /** What an answer of this status means to who asked, where it is more than that it failed. */
  protected abstract meaning(status: number): Fault | undefined;

  protected async json<Schema extends z.ZodType>(
    path: string,
    schema: Schema,
    signal: AbortSignal,
    sent?: Sent,
  ): Promise<z.infer<Schema>> {
    const bytes = await this.again(signal, async () =>
      this.read(await this.answer(path, signal, sent), this.limits.serviceAnswer),
    );
    let said: unknown;
    try {
      said = JSON.parse(bytes.toString('utf8'));
    } catch {
      throw this.fault('answered something that is not JSON');
    }
    const read = schema.safeParse(said);
    if (read.success) return read.data;
    const [issue] = read.error.issues;
    throw this.fault(`answered otherwise than the protocol says, at “${issue!.path.join('.') || 'the top'}”`);
  }

  /** Asks again, after a pause that grows, what failed on the other side. */
  protected async again<Result>(signal: AbortSignal, work: () => Promise<Result>): Promise<Result> {
    for (let tried = 1; ; tried++) {
      try {
        return await work();
      } catch (error) {
        signal.throwIfAborted();
        if (!(error instanceof Failing)) throw error;
        if (tried >= this.limits.serviceTries) throw this.fault(error.message);
        await this.wait(FIRST_WAIT * 4 ** (tried - 1));
      }
    }
  }

  /** @throws Failing where it may go better the next time */
  protected async answer(
    path: string,
    signal: AbortSignal,
    sent?: Sent,
    timeout: number = this.limits.serviceTime,
  ): Promise<IncomingMessage> {
    const url = new URL(`v1/${path}`, this.base.href.endsWith('/') ? this.base : `${this.base.href}/`);
    const port = url.port || (url.protocol === 'https:' ? '443' : '80');
    const own = this.reach ?? { allowed: false, hosts: [`${url.hostname.replace(/^\[|\]$/g, '')}:${port}`] };
    const late = AbortSignal.timeout(timeout);
    let answer: IncomingMessage;
    try {
      answer = await ask(url, await allowedAddress(url, own), AbortSignal.any([signal, late]), {
        timeout,
        ...(sent ? { sent } : {}),
      });
    } catch (error) {
      // It may not be asked at all: asking again changes nothing.
      if (error instanceof Fault && error.code === 'forbidden')
        throw new Fault(
          'forbidden',
          `${this.called} lies in the private network, which is not asked.`,
          `Whoever runs the server can allow it with --fetch-host ${url.hostname}:${port}.`,
        );
      throw new Failing(late.aborted ? 'takes too long to answer' : 'does not answer');
    }
    const status = answer.statusCode ?? 0;
    if (status === 200) return answer;
    answer.destroy();
    if (status >= 500 || status === 429)
      throw new Failing(status === 429 ? 'is asked too often' : `answers ${status}`);
    const meant = this.meaning(status);
    if (meant) throw meant;
    throw this.fault(
      status >= 300 && status < 400 ? 'leads to another address, which is not followed' : `answers ${status}`,
    );
  }

  /** All that it sends, as far as it may. @throws Failing when it breaks off */
  protected async read(answer: IncomingMessage, most: number): Promise<Buffer> {
    const parts: Buffer[] = [];
    let bytes = 0;
    try {
      for await (const part of answer as AsyncIterable<Buffer>) {
        bytes += part.length;
        if (bytes > most) break;
        parts.push(part);
      }
    } catch {
      throw new Failing('breaks off while it answers');
    }
    if (bytes > most) throw this.fault('sends more than it may');
    return Buffer.concat(parts);
  }

  protected get called(): string {
    return this.name ?? `${this.what} at ${this.base.host}`;
  }

  protected fault(what: string): Fault {
    return new Fault('busy', `${this.called} ${what}.`, 'Everything else works. Try again later.');
  }
}
