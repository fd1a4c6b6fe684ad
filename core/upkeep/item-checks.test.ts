import { describe, expect, test } from 'vitest';
import { NO_WORDS, type Words } from '../describe/fields.ts';
import { SITE_RULE } from '../intake/rules.ts';
import type { ItemCheck } from './checks.ts';
import { itemFindings, type CheckInput, type LibraryHabits } from './item-checks.ts';

const HABITS: LibraryHabits = {
  today: '2026-05-10',
  soon: '2026-06-09',
  ruleOf: () => SITE_RULE,
  languages: false,
  licences: false,
};
/** An image of which there is nothing to be said. */
const GOOD: CheckInput = {
  path: 'images/dome-at-dusk.jpg',
  state: 'here',
  kind: 'image',
  mime: 'image/jpeg',
  bytes: 300_000,
  width: 1600,
  height: 1000,
  duration: null,
  pages: null,
  unreadable: null,
  use: 'placed',
  nameFaults: [],
  words: { ...NO_WORDS, alt: 'The dome before a red evening sky' },
  copies: 0,
  alike: 0,
  isSize: false,
  sameAlt: false,
  disagreeing: 0,
  shown: 1,
  unsized: 0,
  widest: 800,
  contentMime: 'image/jpeg',
  shades: 0.2,
  opaque: true,
  tellsPlace: false,
  changedOutside: false,
  movedFrom: null,
  leftBehind: 0,
  sameBytes: [],
  shownOn: [],
  uncredited: [],
  selling: [],
};
const found = (
  more: Partial<Omit<CheckInput, 'words'>> & { words?: Partial<Words> },
  habits: Partial<LibraryHabits> = {},
) => itemFindings({ ...GOOD, ...more, words: { ...GOOD.words, ...more.words } }, { ...HABITS, ...habits });
const checks = (...of: Parameters<typeof found>): ItemCheck[] => found(...of).map((one) => one.check);

test('of a good item nothing is said', () => {
  expect(found({})).toEqual([]);
});

describe('words', () => {
  test('no alt text, unless it is decorative; a poor one', () => {
    expect(checks({ words: { alt: ' ' } })).toEqual(['no-alt']);
    expect(checks({ words: { alt: '', decorative: true } })).toEqual([]);
    expect(checks({ words: { alt: 'DSC_0192.jpg' } })).toEqual(['poor-alt']);
  });
  test('one alt text on two pictures: not of a size, and not of what is decorative', () => {
    expect(checks({ sameAlt: true })).toEqual(['same-alt']);
    expect(checks({ sameAlt: true, isSize: true })).toEqual([]);
    expect(checks({ sameAlt: true, words: { alt: '', decorative: true } })).toEqual([]);
  });
  test('a language is missing only where others have one and something is said', () => {
    expect(checks({}, { languages: true })).toEqual(['no-language']);
    expect(checks({ words: { language: 'en' } }, { languages: true })).toEqual([]);
    expect(checks({ words: { alt: '' } }, { languages: true })).toEqual(['no-alt']);
  });
  test('documents need a title and no alt text', () => {
    const pdf = { path: 'a/b.pdf', kind: 'document', mime: 'application/pdf', contentMime: null } as const;
    expect(checks({ ...pdf, words: { alt: '' } })).toEqual(['no-title']);
    expect(checks({ ...pdf, words: { alt: '', title: 'Plan' } })).toEqual([]);
  });
});

describe('places and names', () => {
  const rule = { ...SITE_RULE, folder: 'images', leastWidth: 2000, kinds: ['image'] as const };
  test('against the rule of its folder', () => {
    expect(checks({}, { ruleOf: () => rule })).toEqual(['rules']);
  });
  test('of a size only its file and its copies are looked at: words, names, use and rights are its image’s', () => {
    const size = {
      isSize: true,
      path: 'IMG 1 (2).jpg',
      words: { alt: '' },
      use: 'unused',
      copies: 1,
    } as const;
    expect(checks({ ...size, nameFaults: ['spaces'] }, { ruleOf: () => rule })).toEqual(['copies']);
    expect(checks({ ...size, copies: 0, unreadable: 'It cannot be read.', tellsPlace: true })).toEqual([
      'unreadable',
      'private',
    ]);
  });
  test('in the root, unless its place there is a convention', () => {
    expect(checks({ path: 'dome.jpg' })).toEqual(['no-folder']);
    expect(
      checks({ path: 'apple-touch-icon.png', bytes: 9000, mime: 'image/png', contentMime: 'image/png' }),
    ).toEqual([]);
  });
});

describe('weight', () => {
  const weigh = (more: Parameters<typeof found>[0]) => found({ bytes: 1_000_000, width: 4000, ...more });
  test('more than twice as wide as it is ever shown; nothing is known where a page leads to the whole file', () => {
    expect(weigh({})).toMatchObject([{ check: 'too-large', saves: 840_000 }]);
    expect(weigh({ width: 1700 })).toEqual([]);
    expect(weigh({ widest: null })).toEqual([]);
    expect(weigh({ shown: 0, use: 'placed' })).toEqual([]);
    expect(weigh({ bytes: 50_000 })).toEqual([]);
  });
  test('a photograph as PNG, if nothing shines through; a drawing as JPEG', () => {
    const png = { path: 'images/a.png', mime: 'image/png', contentMime: 'image/png', width: 1200 };
    expect(weigh(png)).toMatchObject([{ check: 'format', saves: 750_000 }]);
    expect(weigh({ ...png, opaque: false })).toEqual([]);
    expect(weigh({ ...png, shades: 0.01 })).toEqual([]);
    expect(weigh({ width: 1200, shades: 0.01 })).toMatchObject([{ check: 'format', saves: 0 }]);
    expect(weigh({ width: 1200, shades: null })).toEqual([]);
  });
  test('no smaller sizes: only when no place offers any', () => {
    expect(weigh({ width: 1500, unsized: 1 })).toMatchObject([{ check: 'no-sizes' }]);
    expect(weigh({ width: 1500, unsized: 1, shown: 2 })).toEqual([]);
    expect(weigh({ width: 900, unsized: 1 })).toEqual([]);
  });
  test('a video by its bits a second, a PDF by its bytes a page', () => {
    const film = {
      path: 'a/b.mp4',
      kind: 'video',
      mime: 'video/mp4',
      contentMime: 'video/mp4',
      words: { title: 'T' },
    } as const;
    expect(checks({ ...film, bytes: 11_000_000, duration: 10 })).toEqual(['heavy-film']);
    expect(checks({ ...film, bytes: 9_000_000, duration: 10 })).toEqual([]);
    expect(checks({ ...film, bytes: 9_000_000, duration: null })).toEqual([]);
    const pdf = {
      path: 'a/b.pdf',
      kind: 'document',
      mime: 'application/pdf',
      contentMime: null,
      words: { title: 'T' },
    } as const;
    expect(checks({ ...pdf, bytes: 4_000_000, pages: 2 })).toEqual(['heavy-pdf']);
    expect(checks({ ...pdf, bytes: 4_000_000, pages: 3 })).toEqual([]);
  });
});

describe('rights', () => {
  test('a licence is missed where somebody else is named, or where others have one', () => {
    expect(checks({ words: { creator: 'Ben' } })).toEqual(['no-licence']);
    expect(checks({}, { licences: true })).toEqual(['no-licence']);
    expect(checks({ words: { licence: 'CC BY' } }, { licences: true })).toEqual(['no-credit']);
    expect(checks({ words: { licence: 'CC BY', credit: 'Ben' } }, { licences: true })).toEqual([]);
  });
  test('a licence is over the day after its last; ending from thirty days before; other dates say nothing', () => {
    const ends = (licenceEnd: string) => checks({ words: { licence: 'L', credit: 'Ben', licenceEnd } });
    expect(ends('2026-05-09')).toEqual(['licence-over']);
    expect(ends('2026-05-10')).toEqual(['licence-ending']);
    expect(ends('2026-06-09')).toEqual(['licence-ending']);
    expect(ends('2026-06-10')).toEqual([]);
    expect(ends('end of term')).toEqual([]);
  });
  test('a licence that ends is told with the pages that show the item', () => {
    const said = (shownOn: string[], use: 'placed' | 'unused' = 'placed') =>
      found({ use, shownOn, words: { licence: 'L', credit: 'Ben', licenceEnd: '2026-05-20' } }).find(
        ({ check }) => check === 'licence-ending',
      )!.why;
    expect(said(['a.html', 'b.html'])).toBe(
      'Its licence expires on 2026-05-20. It is still on “a.html” and “b.html”.',
    );
    expect(said([])).toBe('Its licence expires on 2026-05-20. It is still in use.');
    expect(said([], 'unused')).toBe('Its licence expires on 2026-05-20.');
  });
});

describe('files', () => {
  test('another type than its name says; other names of one type, and what cannot be told apart, are none', () => {
    expect(checks({ contentMime: 'image/png' })).toEqual(['other-type']);
    expect(
      checks({ path: 'favicon.ico', mime: 'image/vnd.microsoft.icon', contentMime: 'image/x-icon' }),
    ).toEqual([]);
    const docx = 'application/vnd.openxmlformats-officedocument.wordprocessingml.document';
    expect(
      checks({
        path: 'a/b.docx',
        kind: 'document',
        mime: docx,
        contentMime: 'application/zip',
        words: { title: 'T' },
      }),
    ).toEqual([]);
    expect(checks({ contentMime: null })).toEqual([]);
  });
  test('a record without file is told only when others took the file and words would be lost', () => {
    expect(checks({ state: 'absent', changedOutside: true })).toEqual(['missing']);
    expect(checks({ state: 'absent', changedOutside: true, words: { alt: '' } })).toEqual(['missing']);
    expect(checks({ state: 'absent' })).toEqual([]);
    expect(checks({ state: 'absent' })).toEqual([]);
    expect(checks({ state: 'aside', copies: 3 })).toEqual([]);
  });
  test('place inside, changed by others, unreadable, copies and look-alikes', () => {
    expect(
      checks({
        tellsPlace: true,
        changedOutside: true,
        unreadable: 'It ends too early.',
        copies: 1,
        alike: 2,
      }),
    ).toEqual(['copies', 'look-alikes', 'unreadable', 'private', 'outside']);
  });
});
