import type { Words } from '../describe/fields.ts';
import { cleanTag } from '../describe/record.ts';
import type { BankImage, BankOrder, Terms } from './protocol.ts';

export const LICENCE_NAMES: Record<Terms['kind'], string> = {
  free: 'Free to use',
  credit: 'Free with credit',
  site: 'Licence for one site',
  editorial: 'News and reports only',
};

/** What a licence allows, in one sentence. */
export function termsInWords({ kind, ends, credit }: Terms): string {
  const what = {
    free: 'You may use it on any page, free of charge',
    credit: 'You may use it on any page, free of charge',
    site: 'You may use it on this site',
    editorial: 'You may use it in news and reports, but not to advertise or sell anything',
  }[kind];
  const until = ends === null ? '' : ` until ${ends}`;
  const named = credit === null ? '' : `; its credit has to stand near it: “${credit}”`;
  return `${what}${until}${named}.`;
}

/** A licence as a record keeps it: by that it is known later what it asks for (`describe/licence.ts`). */
export function licenceText({ kind, credit }: Pick<Terms, 'kind' | 'credit'>, receipt: string): string {
  const named = credit !== null && kind !== 'credit' ? ', with credit' : '';
  return `${LICENCE_NAMES[kind]}${named}, receipt ${receipt}`;
}

/** Where an image is from, as its record says it: by that it is known again. */
export const bankSource = (bank: string, { id }: Pick<BankImage, 'id'>): string => `${bank}, image ${id}`;

/** What the record of an image gets that came from a bank: nobody has to look up later where it is from and what is allowed. */
export function wordsFromBank(image: BankImage, order: BankOrder, bank: string): Partial<Words> {
  const { terms, receipt } = order;
  return {
    title: image.title,
    tags: [...new Set(image.keywords.map(cleanTag).filter(Boolean))].slice(0, 50),
    creator: image.maker,
    ...(terms.credit === null ? {} : { credit: terms.credit }),
    source: bankSource(bank, image),
    licence: licenceText(terms, receipt),
    ...(terms.ends === null ? {} : { licenceEnd: terms.ends }),
  };
}
