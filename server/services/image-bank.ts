import type { IncomingMessage } from 'node:http';
import type { z } from 'zod';
import { BankFacts, BankImage, BankOrder, BankPage, type BankQuery } from '../../core/bank/protocol.ts';
import { Fault } from '../fault.ts';
import { LIMITS } from '../limits.ts';
import { allowedAddress, ask, type FetchSetting } from './outgoing.ts';

/** Kinds in which a bank shows its images. */
const PICTURES = /^image\/(jpeg|png|webp)$/;
/** Milliseconds before a question is asked again: longer each time. */
const FIRST_WAIT = 300;

/** What went wrong on the other side, and may go better the next time. */
class Failing extends Error {}

/**
 * An image bank that speaks our protocol (docs/services.md). Its address is named by whoever runs the server, so that it may lie in the
 * private network; it leads nowhere else. What it answers is bounded in time and bytes, and read by the protocol's schemas.
 */
export class ImageBank {
  private name: string | undefined;

  /** @param base where it answers; everything else is found below it */
  constructor(
    private readonly base: URL,
    private readonly wait = (ms: number) => new Promise<void>((done) => setTimeout(done, ms)),
    private readonly limits: Record<
      'serviceTime' | 'serviceTries' | 'serviceAnswer' | 'servicePicture',
      number
    > = LIMITS,
    /** Where it may lie; default: wherever, as whoever runs the server has named it. */
    private readonly reach?: FetchSetting,
  ) {}

  /** How it calls itself. @throws Fault 'busy' when it does not answer */
  async facts(signal: AbortSignal): Promise<BankFacts> {
    const facts = await this.json('', BankFacts, signal);
    this.name = facts.name;
    return facts;
  }

  search(query: BankQuery, signal: AbortSignal): Promise<BankPage> {
    const asked = Object.entries(query).filter(([, value]) => value !== undefined && value !== '');
    const text = new URLSearchParams(asked.map(([key, value]) => [key, String(value)])).toString();
    return this.json(`images?${text}`, BankPage, signal);
  }

  image(id: string, signal: AbortSignal): Promise<BankImage> {
    return this.json(`images/${encodeURIComponent(id)}`, BankImage, signal);
  }

  /** How an image looks: small for the sheet, large to be looked at. */
  async picture(
    id: string,
    size: 'small' | 'large',
    signal: AbortSignal,
  ): Promise<{ type: string; bytes: Buffer }> {
    return this.again(signal, async () => {
      const answer = await this.answer(`images/${encodeURIComponent(id)}/${size}`, signal);
      const type = answer.headers['content-type'] ?? '';
      if (!PICTURES.test(type)) {
        answer.destroy();
        throw this.fault(`sent “${type.slice(0, 60)}” where an image should be`);
      }
      return { type, bytes: await this.read(answer, this.limits.servicePicture) };
    });
  }

  /**
   * Takes or buys an image for this site.
   * @param key the same when it is asked again, so that nothing is bought twice
   */
  order(id: string, key: string, signal: AbortSignal): Promise<BankOrder> {
    return this.json(`images/${encodeURIComponent(id)}/orders`, BankOrder, signal, JSON.stringify({ key }));
  }

  /** The file of an order, as it comes. */
  file(receipt: string, signal: AbortSignal): Promise<IncomingMessage> {
    return this.again(signal, () =>
      this.answer(`orders/${encodeURIComponent(receipt)}/file`, signal, undefined, LIMITS.fetchWhole),
    );
  }

  private async json<Schema extends z.ZodType>(
    path: string,
    schema: Schema,
    signal: AbortSignal,
    body?: string,
  ): Promise<z.infer<Schema>> {
    const bytes = await this.again(signal, async () =>
      this.read(await this.answer(path, signal, body), this.limits.serviceAnswer),
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
  private async again<Result>(signal: AbortSignal, work: () => Promise<Result>): Promise<Result> {
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
  private async answer(
    path: string,
    signal: AbortSignal,
    json?: string,
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
        ...(json === undefined ? {} : { json }),
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
    if (status === 404)
      throw new Fault(
        'not-found',
        `${this.called} has no such image.`,
        'Search again: it may have been taken out.',
      );
    if (status === 409 || status === 410)
      throw new Fault('clash', `${this.called} doesn’t sell this image any more.`, 'Choose another one.');
    throw this.fault(
      status >= 300 && status < 400 ? 'leads to another address, which is not followed' : `answers ${status}`,
    );
  }

  /** All that it sends, as far as it may. @throws Failing when it breaks off */
  private async read(answer: IncomingMessage, most: number): Promise<Buffer> {
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

  private get called(): string {
    return this.name ?? `The image bank at ${this.base.host}`;
  }

  private fault(what: string): Fault {
    return new Fault('busy', `${this.called} ${what}.`, 'Everything else works. Try again later.');
  }
}
