import { describe, expect, test } from 'vitest';
import { fieldFault, TEXT_FIELD_KEYS } from '../describe/fields.ts';
import { BankImage, BankOrder, BankQuery } from './protocol.ts';
import { termsInWords, wordsFromBank } from './terms.ts';

const image = BankImage.parse({
  id: 'ML-20100',
  title: '  Snow hill ',
  keywords: ['snow', 'snow', ' hill '],
  maker: 'Adela Quickbeam',
  width: 4000,
  height: 3000,
  terms: { kind: 'site', ends: '2027-11-30', credit: 'Adela Quickbeam / Moorlight Images' },
  price: { amount: '18.00', currency: 'EUR' },
});

describe('what a bank says', () => {
  test.each([
    ['a date that is none', { terms: { kind: 'free', ends: '2027-02-30', credit: null } }],
    ['a licence of another kind', { terms: { kind: 'borrowed', ends: null, credit: null } }],
    ['a number that leads elsewhere', { id: '../orders/1' }],
    ['no pixels', { width: 0 }],
    ['half a price', { price: { amount: '12', currency: '' } }],
    ['ten thousand keywords', { keywords: Array.from({ length: 10_000 }, (_, at) => `word ${at}`) }],
    ['a title without end', { title: 'x'.repeat(100_000) }],
  ])('%s is no answer', (_what, wrong) => {
    expect(BankImage.safeParse({ ...image, ...wrong }).success).toBe(false);
  });

  test('is asked in words that it knows', () => {
    expect(BankQuery.parse({ words: ' snow hill ', page: '2' })).toEqual({ words: 'snow hill', page: 2 });
    for (const wrong of [{ shape: 'round' }, { page: '0' }, { other: 'x' }])
      expect(BankQuery.safeParse(wrong).success).toBe(false);
  });
});

test('a licence is told in one sentence', () => {
  expect(termsInWords({ kind: 'free', ends: null, credit: null })).toBe(
    'You may use it on any page, free of charge.',
  );
  expect(termsInWords(image.terms)).toBe(
    'You may use it on this site until 2027-11-30; its credit has to stand near it: “Adela Quickbeam / Moorlight Images”.',
  );
  expect(termsInWords({ kind: 'editorial', ends: null, credit: null })).toContain('not to advertise or sell');
});

test('the record says where it is from, whose it is, what is allowed and until when; every field takes it', () => {
  const order = BankOrder.parse({ receipt: 'R-48000', terms: image.terms, file: 'ML-20100.jpg' });
  const words = wordsFromBank(image, order, 'Moorlight Images');
  expect(words).toEqual({
    title: 'Snow hill',
    tags: ['snow', 'hill'],
    creator: 'Adela Quickbeam',
    credit: 'Adela Quickbeam / Moorlight Images',
    source: 'Moorlight Images, image ML-20100',
    licence: 'Licence for one site, with credit, receipt R-48000',
    licenceEnd: '2027-11-30',
  });
  for (const field of TEXT_FIELD_KEYS) if (words[field]) expect(fieldFault(field, words[field])).toBeFalsy();
  const free = wordsFromBank(
    image,
    { ...order, terms: { kind: 'free', ends: null, credit: null } },
    'Moorlight Images',
  );
  expect(Object.keys(free)).not.toContain('licenceEnd');
  expect(Object.keys(free)).not.toContain('credit');
});
