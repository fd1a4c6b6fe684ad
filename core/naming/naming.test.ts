import { describe, expect, test } from 'vitest';
import { clashKey, folderOf } from '../address/path.ts';
import { seeded } from '../test/chance.ts';
import { compose, Counting, type NamingFacts } from './compose.ts';
import { followsPattern } from './follows.ts';
import { inLetters } from './letters.ts';
import { newNames } from './names.ts';
import { newPiece, PLAIN_PATTERN, type NamePattern, type NamePiece } from './pattern.ts';

const item = (id: number, path: string, more: Partial<NamingFacts> = {}): NamingFacts => ({
  id,
  path,
  kind: 'image',
  title: '',
  alt: '',
  caption: '',
  tags: [],
  takenAt: null,
  addedAt: '2026-03-04T05:06:07.000Z',
  width: 1200,
  height: 800,
  pages: [],
  own: {},
  ...more,
});
const pattern = (pieces: NamePiece[], more: Partial<NamePattern> = {}): NamePattern => ({
  ...PLAIN_PATTERN,
  pieces,
  ...more,
});
const stemOf = (one: NamePattern, facts: NamingFacts) => compose(one, facts, new Counting(one)).stem;

describe('pieces', () => {
  const full = item(7, 'events/2026/IMG_2041.JPG', {
    title: 'The Dome at Night — “first light”',
    alt: 'An open dome under stars',
    tags: ['Open night', 'dome'],
    takenAt: '2026-08-12T23:14:05',
    pages: ['Perseids & friends'],
    own: { Season: 'Late summer' },
  });
  test.each<[NamePiece, string]>([
    [{ piece: 'text', text: 'Open Night!' }, 'open-night'],
    [{ piece: 'title' }, 'the-dome-at-night-first-light'],
    [{ piece: 'title', words: 2 }, 'the-dome'],
    [
      { piece: 'title', find: 'DOME', replace: 'observatory dome' },
      'the-observatory-dome-at-night-first-light',
    ],
    [{ piece: 'title', case: 'upper', words: 2 }, 'THE-DOME'],
    [{ piece: 'alt' }, 'an-open-dome-under-stars'],
    [{ piece: 'tags', most: 1 }, 'open-night'],
    [{ piece: 'tags', most: 5 }, 'open-night-dome'],
    [{ piece: 'folder', levels: 1 }, '2026'],
    [{ piece: 'folder', levels: 2 }, 'events-2026'],
    [{ piece: 'own', field: 'Season' }, 'late-summer'],
    [{ piece: 'page' }, 'perseids-and-friends'],
    [{ piece: 'taken', form: 'year' }, '2026'],
    [{ piece: 'taken', form: 'month' }, '2026-08'],
    [{ piece: 'taken', form: 'day' }, '2026-08-12'],
    [{ piece: 'taken', form: 'compact' }, '20260812'],
    [{ piece: 'taken', form: 'time' }, '2026-08-12-231405'],
    [{ piece: 'added', form: 'day' }, '2026-03-04'],
    [{ piece: 'counter', start: 8, step: 2, width: 3, restart: 'never' }, '008'],
    [{ piece: 'size' }, '1200x800'],
    [{ piece: 'present', part: 'all' }, 'img-2041'],
    [{ piece: 'present', part: 'words' }, 'img'],
    [{ piece: 'present', part: 'number' }, '2041'],
    [{ piece: 'present', part: 'characters', from: 5, to: 6 }, '20'],
  ])('%j gives %s', (piece, stem) => {
    expect(stemOf(pattern([piece]), full)).toBe(stem);
  });

  test('separator, case, small words and a limit hold for the whole name; counters and dates are never cut off', () => {
    const pieces = [newPiece('title'), newPiece('counter')];
    expect(stemOf(pattern(pieces, { separator: '_', case: 'title' }), full)).toBe(
      'The_Dome_At_Night_First_Light_001',
    );
    expect(stemOf(pattern(pieces, { stopWords: 'en' }), full)).toBe('dome-night-first-light-001');
    expect(stemOf(pattern(pieces, { words: 2 }), full)).toBe('the-dome-001');
    expect(
      stemOf(pattern([newPiece('title')], { stopWords: 'en' }), item(1, 'a.png', { title: 'To be' })),
    ).toBe('to-be');
  });

  test('what a piece lacks is told and left out', () => {
    const one = pattern([newPiece('title'), newPiece('taken'), newPiece('counter')]);
    expect(compose(one, item(1, 'a/b.jpg'), new Counting(one))).toEqual({
      stem: '001',
      lacks: ['title', 'date taken'],
      counted: [1],
    });
  });

  test('an item that keeps its name for what it lacks uses up no number', () => {
    const one = pattern([newPiece('title'), newPiece('counter')], { lacking: 'keep-name' });
    const items = ['Moon', '', 'Mars'].map((title, at) => item(at + 1, `a/${at}.jpg`, { title }));
    expect(newNames(items, one, new Map()).map(({ to, counted }) => [to, counted])).toEqual([
      ['a/moon-001.jpg', [1]],
      ['a/1.jpg', []],
      ['a/mars-002.jpg', [2]],
    ]);
  });

  test.each<['never' | 'folder' | 'kind' | 'month' | 'page' | 'name', string[]]>([
    ['never', ['a-1', 'b-2', 'a-3', 'a-4']],
    ['folder', ['a-1', 'b-2', 'a-1', 'a-2']],
    ['kind', ['a-1', 'b-2', 'a-1', 'a-3']],
    ['month', ['a-1', 'b-2', 'a-3', 'a-1']],
    ['page', ['a-1', 'b-1', 'a-2', 'a-3']],
    ['name', ['a-1', 'b-1', 'a-1', 'a-2']],
  ])('a counter that starts anew: %s', (restart, stems) => {
    const one = pattern([newPiece('title'), { piece: 'counter', start: 1, step: 1, width: 1, restart }]);
    const counting = new Counting(one);
    const items = [
      item(1, 'x/1.jpg', { title: 'a' }),
      item(2, 'x/2.jpg', { title: 'b', pages: ['Visit'] }),
      item(3, 'y/3.mp4', { title: 'a', kind: 'video' }),
      item(4, 'y/4.jpg', { title: 'a', takenAt: '2020-01-01T00:00:00' }),
    ];
    expect(items.map((facts) => compose(one, facts, counting).stem)).toEqual(stems);
  });

  test.each([
    ['Über die Straße, É', 'ascii', 'Uber die Strasse, E'],
    ['Über die Straße', 'german', 'Ueber die Strasse'],
    ['U\u0308ber', 'german', 'Ueber'],
    ['Привет, мир', 'ascii', 'Privet, mir'],
    ['北京 2026', 'ascii', 'Bei Jing 2026'],
    ['Über', 'keep', 'Über'],
    ['Über den Привет, हिन्दी 北京', 'latin', 'Uber den Привет, हिन्दी 北京'],
    ['Göttin हिन्दी', 'german', 'Goettin हिन्दी'],
  ] as const)('%s in letters %s', (text, letters, written) => {
    expect(inLetters(text, letters)).toBe(written);
  });
});

describe('the new names of many', () => {
  const names = (
    items: NamingFacts[],
    one: NamePattern,
    taken: [string, string[]][] = [],
    typed: [number, string][] = [],
  ) => newNames(items, one, new Map(taken), [], new Map(typed));

  test('of two that want one name the later gets a number; files that stay are never taken over', () => {
    const found = names(
      [
        item(1, 'a/1.jpg', { title: 'Moon' }),
        item(2, 'a/2.jpg', { title: 'moon!' }),
        item(3, 'b/3.jpg', { title: 'Moon' }),
      ],
      pattern([newPiece('title')]),
      [['a', ['MOON.JPG']]],
    );
    expect(found.map(({ to }) => to)).toEqual(['a/moon-2.jpg', 'a/moon-3.jpg', 'b/moon.jpg']);
    expect(found[0]).toMatchObject({ notes: ['numbered'], takenBy: 'a/MOON.JPG' });
    expect(found[1]).toMatchObject({ notes: ['numbered'], takenBy: 'a/MOON.JPG' });
  });

  test('who is called so already keeps the name, whatever the order', () => {
    const found = names(
      [item(1, 'a/x.jpg', { title: 'moon' }), item(2, 'a/moon.jpg', { title: 'moon' })],
      pattern([newPiece('title')]),
    );
    expect(found.map(({ to }) => to)).toEqual(['a/moon-2.jpg', 'a/moon.jpg']);
  });

  test('an exchange needs no numbers', () => {
    const found = names(
      [item(1, 'a/one.jpg', { title: 'two' }), item(2, 'a/two.jpg', { title: 'one' })],
      pattern([newPiece('title')]),
    );
    expect(found.map(({ to, notes }) => [to, notes])).toEqual([
      ['a/two.jpg', []],
      ['a/one.jpg', []],
    ]);
  });

  test('an empty name is kept and told; with keep-name so is one that lacks a piece', () => {
    const items = [item(1, 'a/IMG_1.JPG', { title: '!!' }), item(2, 'a/IMG_2.JPG', { title: 'Sky' })];
    expect(names(items, pattern([newPiece('title')])).map(({ to, notes }) => [to, notes])).toEqual([
      ['a/IMG_1.JPG', ['kept']],
      ['a/sky.jpg', []],
    ]);
    const both = pattern([newPiece('title'), newPiece('taken')], { lacking: 'keep-name' });
    expect(names(items, both).map(({ to }) => to)).toEqual(['a/IMG_1.JPG', 'a/IMG_2.JPG']);
  });

  test('a name that is too long is cut at a word, with room for a number', () => {
    const title = Array.from({ length: 40 }, (_, at) => `wort${at}`).join(' ');
    const [one, two] = names(
      [item(1, 'a/1.jpg', { title }), item(2, 'a/2.jpg', { title })],
      pattern([{ piece: 'title' }]),
    );
    expect(one!.notes).toEqual(['cut']);
    expect(one!.to.length).toBeLessThanOrEqual(122);
    expect(one!.to).toMatch(/wort\d+\.jpg$/);
    expect(two!.to).toBe(one!.to.replace('.jpg', '-2.jpg'));
  });

  test('a typed name stands as it is, before all others, and its faults are told', () => {
    const items = [
      item(1, 'a/1.jpg', { title: 'Moon' }),
      item(2, 'a/2.jpg'),
      item(3, 'a/3.jpg'),
      item(4, 'a/4.jpg'),
    ];
    const found = names(
      items,
      pattern([newPiece('title')]),
      [['a', ['sun.jpg']]],
      [
        [2, 'moon'],
        [3, 'Sun'],
        [4, 'a/b'],
      ],
    );
    expect(found.map(({ to }) => to)).toEqual(['a/moon-2.jpg', 'a/moon.jpg', 'a/Sun.jpg', 'a/4.jpg']);
    expect(found.map(({ fault }) => fault !== undefined)).toEqual([false, false, true, true]);
    expect(found[2]!.fault).toContain('sun.jpg');
  });

  test('reserved names get a word behind them', () => {
    expect(names([item(1, 'a/1.jpg', { title: 'CON' })], pattern([newPiece('title')]))[0]!.to).toBe(
      'a/con-file.jpg',
    );
  });

  test('whatever the pattern and the items: no two names clash, none is taken, folder and extension stay', () => {
    for (let seed = 1; seed <= 150; seed++) {
      const chance = seeded(seed);
      const words = ['moon', 'Moon', 'MOON ', 'mo\u0308nd', 'mönd', '', '…', 'dome night', 'con', '北'];
      const items = Array.from({ length: 30 }, (_, at) =>
        item(
          at + 1,
          `${chance.pick(['a', 'b'])}/${chance.pick(['moon', 'x', 'dome-night'])}-${at}${chance.pick(['.jpg', '.JPG', '.png'])}`,
          {
            title: chance.pick(words),
            tags: [chance.pick(words)].filter(Boolean),
            takenAt: chance.pick([null, '2026-08-12T01:02:03']),
          },
        ),
      );
      const one = pattern(
        Array.from({ length: chance.whole(1, 3) }, () =>
          newPiece(chance.pick(['title', 'tags', 'taken', 'counter', 'present', 'folder'])),
        ),
        {
          separator: chance.pick(['-', '_', '']),
          letters: chance.pick(['latin', 'ascii', 'german', 'keep']),
          lacking: chance.pick(['leave-out', 'keep-name']),
        },
      );
      const taken = new Map([
        ['a', ['Moon.jpg', 'mönd.png', '001.jpg']],
        ['b', ['dome-night.jpg']],
      ]);
      const typed = new Map([[chance.whole(1, 30), chance.pick(['moon', 'free'])]]);
      const found = newNames(items, one, taken, [], typed).filter((name) => name.fault === undefined);
      const keys = found.map(({ to }) => clashKey(to));
      expect(new Set(keys).size, `seed ${seed}`).toBe(keys.length);
      for (const { from, to } of found) {
        expect(folderOf(to)).toBe(folderOf(from));
        expect(to.slice(to.lastIndexOf('.')).toLowerCase()).toBe(
          from.slice(from.lastIndexOf('.')).toLowerCase(),
        );
        expect(to.length).toBeLessThanOrEqual(122);
      }
      const others = [...taken].flatMap(([folder, all]) => all.map((name) => clashKey(`${folder}/${name}`)));
      expect(
        keys.filter((key) => others.includes(key)),
        `seed ${seed}`,
      ).toEqual([]);
    }
  });
});

test('of sizes without a plain name, the one that leads keeps its size in its name', () => {
  const items = [
    item(1, 'a/sky-400.jpg', { title: 'Night Sky', width: 400, height: 300 }),
    item(2, 'a/sky-800.jpg', { title: 'Night Sky', width: 800, height: 600 }),
  ];
  const variants = [
    { id: 1, of: 2, suffix: '-400' },
    { id: 2, of: 2, suffix: '-800' },
  ];
  const renamed = newNames(items, pattern([newPiece('title')]), new Map(), variants);
  expect(renamed.map(({ to }) => to)).toEqual(['a/night-sky-400.jpg', 'a/night-sky-800.jpg']);
});

test('variants follow their image, also when a number was needed or it kept its name', () => {
  const items = [
    item(1, 'a/dome.jpg', { title: 'Moon' }),
    item(2, 'a/dome-400.jpg', { title: 'something else', width: 400, height: 267 }),
  ];
  const variants = [{ id: 2, of: 1, suffix: '-400' }];
  const one = pattern([newPiece('title')]);
  const renamed = newNames(items, one, new Map([['a', ['moon.jpg']]]), variants);
  expect(renamed.map(({ to, notes }) => [to, notes])).toEqual([
    ['a/moon-2.jpg', ['numbered']],
    ['a/moon-2-400.jpg', ['follows']],
  ]);
  const kept = newNames([item(1, 'a/dome.jpg'), items[1]!], one, new Map(), variants);
  expect(kept.map(({ to }) => to)).toEqual(['a/dome.jpg', 'a/dome-400.jpg']);
});

describe('following a pattern', () => {
  const events = pattern([
    { piece: 'text', text: 'Event' },
    newPiece('taken'),
    newPiece('title'),
    newPiece('counter'),
  ]);
  test.each([
    ['event-2026-08-12-open-night-001.jpg', true],
    ['event-2026-08-12-open-night-001-2.jpg', true],
    ['event-2026-08-12-open-night-001-400w.jpg', true],
    ['event-open-night-017.jpg', true],
    ['event-2026-08-12-012.jpg', true],
    ['event-12.jpg', false],
    ['open-night-001.jpg', false],
    ['Event-2026-08-12-open-night-001.jpg', false],
    ['IMG_2041.JPG', false],
  ])('%s: %s', (name, follows) => {
    expect(followsPattern(`a/${name}`, events)).toBe(follows);
  });

  test('is answered at once, whatever the pattern and the name', () => {
    const titles = pattern(
      Array.from({ length: 60 }, () => newPiece('title')),
      { separator: '' },
    );
    expect(followsPattern(`a/${'a'.repeat(250)}!.jpg`, titles)).toBe(false);
    expect(followsPattern(`a/${'a'.repeat(250)}.jpg`, titles)).toBe(true);
  });

  test('what a pattern composes always follows it', () => {
    for (let seed = 1; seed <= 200; seed++) {
      const chance = seeded(seed);
      const one = pattern(
        Array.from({ length: chance.whole(1, 4) }, () =>
          newPiece(chance.pick(['title', 'tags', 'taken', 'added', 'counter', 'size', 'folder', 'present'])),
        ),
        {
          separator: chance.pick(['-', '_', '.', '']),
          case: chance.pick(['lower', 'upper', 'title', 'as-written']),
        },
      );
      const facts = item(1, 'open-nights/IMG_1.JPG', {
        title: chance.pick(['', 'Das große Haus', 'A b 12']),
        tags: chance.pick([[], ['Mond', 'x y']]),
        takenAt: chance.pick([null, '2026-08-12T01:02:03']),
      });
      const [name] = newNames([facts], one, new Map());
      if (name!.notes.includes('kept')) continue;
      expect(followsPattern(name!.to, one), `${seed}: ${name!.to}`).toBe(true);
    }
  });
});
