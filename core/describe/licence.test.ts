import { expect, test } from 'vitest';
import { LICENCE_KINDS } from '../bank/protocol.ts';
import { licenceText } from '../bank/terms.ts';
import {
  asksForCredit,
  captionWithCredit,
  creditFor,
  isEditorial,
  isShopPage,
  tellsCredit,
} from './licence.ts';

const words = {
  caption: '',
  licence: 'Free with credit, receipt R-1',
  credit: 'Ada Lind / Moorlight',
  creator: 'Ada Lind',
};

test('of what a bank writes into a record, it is known again whether a credit is asked for and whether it may sell', () => {
  for (const kind of LICENCE_KINDS) {
    const terms = { kind, ends: null, credit: null };
    expect([kind, asksForCredit(licenceText(terms, 'R-1'))]).toEqual([kind, kind === 'credit']);
    expect(asksForCredit(licenceText({ ...terms, credit: 'A. Lind' }, 'R-1'))).toBe(true);
    expect([kind, isEditorial(licenceText(terms, 'R-1'))]).toEqual([kind, kind === 'editorial']);
  }
});

test.each([
  ['CC BY 4.0', true],
  ['CC-BY-SA 4.0', true],
  ['Creative Commons Attribution 4.0 International', true],
  ['CC0 1.0', false],
  ['Own work', false],
  ['', false],
])('the licence “%s” asks for a credit: %s', (licence, asks) => {
  expect(asksForCredit(licence)).toBe(asks);
});

test('a credit is its own line, or who made it; none where none is asked for', () => {
  expect(creditFor(words)).toBe('Ada Lind / Moorlight');
  expect(creditFor({ ...words, credit: ' ' })).toBe('Ada Lind');
  expect(creditFor({ ...words, licence: 'Own work' })).toBe('');
});

test('a credit is told whatever stands between its words, and not by half of it', () => {
  expect(tellsCredit('The dome. Photo: ADA LIND/Moorlight, 2026', words.credit)).toBe(true);
  expect(tellsCredit('Ada Lind\n — Moorlight', words.credit)).toBe(true);
  expect(tellsCredit('Ada Lindqvist / Moorlight', words.credit)).toBe(false);
  expect(tellsCredit('Photo: Ada Lind', words.credit)).toBe(false);
});

test('a caption gets the credit once', () => {
  expect(captionWithCredit(words)).toBe('Ada Lind / Moorlight');
  expect(captionWithCredit({ ...words, caption: 'The dome at dusk' })).toBe(
    'The dome at dusk. Ada Lind / Moorlight',
  );
  expect(captionWithCredit({ ...words, caption: 'Open tonight?' })).toBe(
    'Open tonight? Ada Lind / Moorlight',
  );
  expect(captionWithCredit({ ...words, caption: 'The dome (Ada Lind/Moorlight)' })).toBe(
    'The dome (Ada Lind/Moorlight)',
  );
  expect(captionWithCredit({ ...words, caption: 'The dome', licence: 'CC0' })).toBe('The dome');
});

test.each([
  ['shop/index.html', 'Posters', true],
  ['posters.html', 'Our shop', true],
  ['workshop/index.html', 'Photoshop for beginners', false],
  ['news/2026/eclipse.html', 'Storefronts of the old town', false],
  ['about.html', 'About us', false],
])('%s, “%s” sells something: %s', (path, title, sells) => {
  expect(isShopPage(path, title)).toBe(sells);
});
