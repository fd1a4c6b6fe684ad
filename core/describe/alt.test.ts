import { describe, expect, test } from 'vitest';
import { ALT_RULES, altFindings, type AltFacts, type AltRuleName, type PlacementContext } from './alt.ts';

const context = (more: Partial<PlacementContext> = {}): PlacementContext => ({
  page: 'index.html',
  pageTitle: 'Home',
  heading: 'Open nights',
  figcaption: '',
  before: 'Come and look through the great telescope.',
  after: '',
  neighbours: [],
  link: null,
  ...more,
});
type Given = Partial<AltFacts['words']> & Partial<Omit<AltFacts, 'words'>>;
const facts = ({
  path = 'img/dome.jpg',
  contexts = [],
  sameAlt = [],
  textInside = '',
  ...words
}: Given): AltFacts => ({
  path,
  contexts,
  sameAlt,
  textInside,
  words: { alt: '', decorative: false, title: '', caption: '', longDescription: '', tags: [], ...words },
});
const found = (given: Given) => altFindings(facts(given)).map((one) => one.rule);
const link = (href: string, targetTitle = '', alone = true) =>
  context({ link: { href, alone, targetTitle } });

describe('good words', () => {
  test.each<Given>([
    { alt: 'The dome stands open under the Milky Way' },
    { decorative: true },
    { alt: 'Photographers wait for the eclipse' },
    { alt: 'Dome', path: 'img/dome.jpg' },
    { alt: 'A child turns a star wheel', contexts: [context()] },
    { alt: 'Opening times', contexts: [link('visit/opening-times.html')] },
    { alt: 'A picture framer at work on the prints' },
    { alt: 'The moon, large', contexts: [link('img/moon-large.jpg')] },
    { alt: 'OPEN NIGHT every Friday at eight', textInside: 'OPEN NIGHT\nevery Friday' },
    { alt: 'Red, white and blue bunting over the dome' },
  ])('%j: nothing to say', (given) => expect(found(given)).toEqual([]));
});

describe('each rule', () => {
  test.each<[AltRuleName, Given]>([
    ['missing', {}],
    ['missing', { alt: '   ' }],
    ['decorative-link', { decorative: true, contexts: [link('visit.html', 'Visit us')] }],
    ['file-name', { alt: 'IMG_2041.JPG' }],
    ['file-name', { alt: 'dsc 00341' }],
    ['file-name', { alt: 'dome-night-2', path: 'x/dome-night-2.jpg' }],
    ['placeholder', { alt: 'Image' }],
    ['placeholder', { alt: 'alt text' }],
    ['placeholder', { alt: 'TODO' }],
    ['placeholder', { alt: 'Lorem ipsum dolor' }],
    ['image-of', { alt: 'Image of the dome at night' }],
    ['image-of', { alt: 'A photo of the dome' }],
    ['image-of', { alt: 'Bild von der Kuppel' }],
    ['image-of', { alt: 'Une photo de la coupole' }],
    ['too-short', { alt: 'Site plan', path: 'maps/site-plan.png' }],
    ['too-short', { alt: 'Visitors by month', tags: ['chart'] }],
    ['too-long', { alt: 'word '.repeat(40) + 'many different things here that go on' }],
    ['repeats-caption', { alt: 'The dome at dusk', caption: 'The dome, at dusk.' }],
    ['repeats-caption', { alt: 'The dome at dusk', contexts: [context({ figcaption: 'the dome at dusk' })] }],
    ['repeats-neighbour', { alt: 'Come and look through the great telescope', contexts: [context()] }],
    [
      'repeats-neighbour',
      { alt: 'Star trails over moor', contexts: [context({ neighbours: ['Star trails over moor'] })] },
    ],
    ['same-elsewhere', { alt: 'The night sky', sameAlt: ['moon.jpg'] }],
    ['stuffing', { alt: 'telescope shop telescope sale best telescope' }],
    ['stuffing', { alt: 'stars, moon, sky, dome, night, telescope, shop' }],
    [
      'functional',
      { alt: 'A blue door with brass handle', contexts: [link('visit/tickets.html', 'Book a ticket')] },
    ],
    ['text-inside', { alt: 'A poster on a wall', textInside: 'PERSEIDS Friday 12 August gates open' }],
    ['text-inside', { decorative: true, textInside: 'PERSEIDS Friday August' }],
  ])('%s: %j', (rule, given) => {
    const all = altFindings(facts(given));
    const one = all.find((finding) => finding.rule === rule);
    expect(one, all.map((finding) => finding.rule).join()).toMatchObject({
      severity: ALT_RULES[rule].severity,
      remedy: ALT_RULES[rule].remedy,
    });
    expect(one!.says).toMatch(/[.”]$/);
  });

  test('every rule is tried above, and none is broken twice by one fault', () => {
    expect(found({ alt: 'IMG_2041.JPG' })).toEqual(['file-name']);
    expect(found({})).toEqual(['missing']);
  });

  test('the worst stands first; what a finding is about is told', () => {
    const all = altFindings(
      facts({ alt: `Image of ${'a long and winding road '.repeat(8)}`, sameAlt: ['x.jpg'] }),
    );
    expect(all.map((one) => one.severity)).toEqual(
      [...all.map((one) => one.severity)].sort((a, b) => 'fdh'.indexOf(a[0]!) - 'fdh'.indexOf(b[0]!)),
    );
    expect(all.find((one) => one.rule === 'image-of')!.about).toBe('Image of');
  });

  test('a link with words of its own, or one that the alt text names, is no fault', () => {
    expect(found({ alt: 'A blue door', contexts: [link('visit.html', 'Visit', false)] })).toEqual([]);
    expect(found({ alt: 'Book your ticket', contexts: [link('x.html', 'Book a ticket')] })).toEqual([]);
  });
});
