import { addAbortSignal } from 'node:stream';
import type { BankTake } from '../../api/image-bank.ts';
import type { BankImage } from '../../core/bank/protocol.ts';
import { wordsFromBank } from '../../core/bank/terms.ts';
import type { z } from 'zod';
import type { OpenedSite } from '../app/opened-site.ts';
import { Fault } from '../fault.ts';
import { LIMITS } from '../limits.ts';
import type { ImageBank } from '../services/image-bank.ts';
import { takeIn } from './uploads.ts';

const priceText = ({ price }: Pick<BankImage, 'price'>) =>
  price === null ? 'free' : `${price.amount} ${price.currency}`;

/**
 * Takes or buys an image of the bank and lets its file through the door as any other, with maker, licence and receipt in its words.
 * @param leaves is aborted when nobody waits any more
 * @returns the arrival @throws Fault with a sentence; what was bought is bought only once, however often it is tried
 */
export async function takeFromBank(
  site: Pick<OpenedSite, 'data' | 'arrivals' | 'jobs' | 'now' | 'checking'>,
  bank: ImageBank,
  { id, price, folder, key }: z.infer<typeof BankTake>,
  personId: number,
  leaves: AbortSignal,
): Promise<number> {
  const image = await bank.image(id, leaves);
  if (image.terms.ends !== null && image.terms.ends < site.now().slice(0, 10))
    throw new Fault(
      'clash',
      `The licence of “${image.title}” ended on ${image.terms.ends}.`,
      'Choose another image.',
    );
  if (priceText(image) !== priceText({ price }))
    throw new Fault(
      'moved-on',
      `“${image.title}” is ${priceText(image)} now, not ${priceText({ price })}. Nothing was bought.`,
      'Search again to see the price.',
    );
  return site.jobs.run('fetch', `Bringing in “${image.title}”`, async (job) => {
    const signal = AbortSignal.any([job.signal, leaves]);
    const { name } = await bank.facts(signal);
    const order = await bank.order(id, key, signal);
    const file = await bank.file(order.receipt, signal);
    const total = Number(file.headers['content-length'] ?? 0);
    let got = 0;
    file.on('data', (chunk: Buffer) => job.progress((got += chunk.length), total, 'bytes fetched'));
    addAbortSignal(signal, file);
    return takeIn(site, file, {
      personId,
      givenName: order.file,
      folder,
      below: '',
      inside: false,
      most: LIMITS.fileBytes,
      words: wordsFromBank(image, order, name),
    });
  });
}
