import type { IncomingMessage } from 'node:http';
import { BankFacts, BankImage, BankOrder, BankPage, type BankQuery } from '../../core/bank/protocol.ts';
import { Fault } from '../fault.ts';
import { LIMITS } from '../limits.ts';
import { Service } from './service.ts';

/** Kinds in which a bank shows its images. */
const PICTURES = /^image\/(jpeg|png|webp)$/;
/** An image bank, by the protocol of core/bank. */
export class ImageBank extends Service {
  protected readonly what = 'The image bank';

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
    return this.json(`images/${encodeURIComponent(id)}/orders`, BankOrder, signal, { json: { key } });
  }

  /** The file of an order, as it comes. */
  file(receipt: string, signal: AbortSignal): Promise<IncomingMessage> {
    return this.again(signal, () =>
      this.answer(`orders/${encodeURIComponent(receipt)}/file`, signal, undefined, LIMITS.fetchWhole),
    );
  }

  protected meaning(status: number): Fault | undefined {
    if (status === 404)
      return new Fault(
        'not-found',
        `${this.called} has no such image.`,
        'Search again: it may have been taken out.',
      );
    if (status === 409 || status === 410)
      return new Fault('clash', `${this.called} doesn’t sell this image any more.`, 'Choose another one.');
    return undefined;
  }
}
