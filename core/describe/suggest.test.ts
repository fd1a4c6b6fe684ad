import { describe, expect, test } from 'vitest';
import { sentenceOf, suggestionsFor, type SuggestionFacts } from './suggest.ts';

const NOTHING: SuggestionFacts = {
  path: 'img/IMG_2041.jpg',
  words: { alt: '', decorative: false, title: '', caption: '', longDescription: '', tags: [] },
  embedded: {},
  contexts: [],
  alike: [],
  textInside: '',
};
const context = {
  page: 'visit.html',
  pageTitle: 'Visit',
  heading: 'Open nights',
  figcaption: 'The dome under the stars',
  before: '',
  after: '',
  neighbours: [],
  link: null,
  alt: 'The open dome, seen from the moor',
};
const altsOf = (facts: Partial<SuggestionFacts>) =>
  suggestionsFor({ ...NOTHING, ...facts }).filter((one) => one.field === 'alt');

describe('suggestions', () => {
  test('every source is named, the most trusted first', () => {
    const found = altsOf({
      path: 'img/dome-by-night-800.jpg',
      contexts: [context],
      embedded: { alt: 'Dome at night', title: 'Night dome', caption: 'Taken in August' },
      alike: [{ name: 'dome-large.jpg', words: { alt: 'A white dome', title: '', caption: '' } }],
      textInside: 'CORVANE HILL',
    });
    expect(found.map((one) => [one.text, one.source])).toEqual([
      ['Dome at night', 'alt text in the file'],
      ['The open dome, seen from the moor', 'alt text on “Visit”'],
      ['A white dome', 'words of dome-large.jpg, which looks the same'],
      ['Night dome', 'title in the file'],
      ['Taken in August', 'caption in the file'],
      ['CORVANE HILL', 'text read in the image'],
      ['Dome by night', 'words in the file name'],
      // What only says again what stands beside it is trusted half.
      ['The dome under the stars', 'caption on “Visit”'],
      ['Open nights', 'heading on “Visit”'],
    ]);
  });
  test('a camera’s name says nothing; what the record has already is not offered; the same words once', () => {
    expect(altsOf({})).toEqual([]);
    const words = { ...NOTHING.words, alt: 'The open dome, seen from the moor' };
    expect(altsOf({ words, contexts: [{ ...context, figcaption: '', heading: '' }] })).toEqual([]);
    const twice = altsOf({ contexts: [context], embedded: { alt: 'the open dome, seen from the moor' } });
    expect(twice.filter((one) => /open dome/i.test(one.text))).toHaveLength(1);
  });
  test('words that break a rule are trusted less', () => {
    const [one] = altsOf({ embedded: { alt: 'IMG_2041.JPG' } });
    expect(one!.confidence).toBeLessThan(0.5);
  });
  test.each([
    ['a/open-night-2026.jpg', 'Open night 2026'],
    ['dome_by_day-400x300.png', 'Dome by day'],
    ['moon@2x.png', 'Moon'],
    ['DSC_0001.JPG', ''],
    ['12.png', ''],
  ])('%s says %s', (path, said) => expect(sentenceOf(path)).toBe(said));
});
