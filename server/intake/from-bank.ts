import { randomUUID } from 'node:crypto';
import { addAbortSignal } from 'node:stream';
import type { z } from 'zod';
import type { BankTake } from '../../api/image-bank.ts';
import type { BankImage, BankOrder } from '../../core/bank/protocol.ts';
import { wordsFromBank } from '../../core/bank/terms.ts';
import { may, whoMay } from '../../core/people/rights.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import type { Person } from '../db/people.ts';
import { Fault } from '../fault.ts';
import { LIMITS } from '../limits.ts';
import type { ImageBank } from '../services/image-bank.ts';
import { takeIn } from './uploads.ts';

type Needs = Pick<OpenedSite, 'data' | 'arrivals' | 'bankOrders' | 'jobs' | 'now' | 'checking'>;
type Take = z.infer<typeof BankTake>;
const priceText = ({ price }: Pick<BankImage, 'price'>) =>
  price === null ? 'free' : `${price.amount} ${price.currency}`;

/**
 * Takes or buys an image of the bank and lets its file through the door as any other, with maker, licence and receipt in its words. What this
 * site has bought already, it gets again by its receipt.
 * @param leaves is aborted when nobody waits any more
 * @returns the arrival @throws Fault with a sentence; what was bought is bought only once, however often it is tried
 */
export async function takeFromBank(
  site: Needs,
  bank: ImageBank,
  take: Take,
  person: Pick<Person, 'id' | 'role'>,
  leaves: AbortSignal,
): Promise<number> {
  const { name } = await bank.facts(leaves);
  const image = await bank.image(take.id, leaves);
  return site.jobs.run('fetch', `Bringing in “${image.title}”`, async (job) => {
    const signal = AbortSignal.any([job.signal, leaves]);
    const order =
      site.bankOrders.standing(name, [image.id], site.now().slice(0, 10)).get(image.id) ??
      (await ordered(site, bank, name, image, take, person, signal));
    const file = await bank.file(order.receipt, signal);
    const total = Number(file.headers['content-length'] ?? 0);
    let got = 0;
    file.on('data', (chunk: Buffer) => job.progress((got += chunk.length), total, 'bytes fetched'));
    addAbortSignal(signal, file);
    return takeIn(site, file, {
      personId: person.id,
      givenName: order.file,
      folder: take.folder,
      below: '',
      inside: false,
      most: LIMITS.fileBytes,
      words: wordsFromBank(image, order, name),
    });
  });
}

/** Orders it, with a key that is kept before: an order whose answer was lost is asked for again by it. */
async function ordered(
  site: Needs,
  bank: ImageBank,
  name: string,
  image: BankImage,
  { price }: Take,
  person: Pick<Person, 'id' | 'role'>,
  signal: AbortSignal,
): Promise<BankOrder> {
  if (image.price !== null && !may(person.role, 'publish'))
    throw new Fault(
      'forbidden',
      `Only ${whoMay('publish')} can buy images.`,
      'Choose a free one, or ask them.',
    );
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
  let key = site.bankOrders.unanswered(name, image.id);
  if (key === undefined) {
    key = randomUUID();
    site.bankOrders.add({ bank: name, image: image.id, key, at: site.now(), personId: person.id });
  }
  const order = await bank.order(image.id, key, signal);
  site.bankOrders.answered(key, order);
  return order;
}
