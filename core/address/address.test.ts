import { describe, expect, test } from 'vitest';
import { isConventional, isItemPath, isPagePath, kindOf, mimeOf, rolesOf } from './kinds.ts';
import { cleanName, nameFaults, numberedName, safeName } from './name.ts';
import { clashKey, encodePath, extensionOf, folderOf, isWithin, pathFault, stemOf } from './path.ts';
import { addressOf, readRedirects, redirectsAfter, writeRedirects } from './redirects.ts';

const decoded = (bytes: Uint8Array) => new TextDecoder().decode(bytes);

describe('names', () => {
  test.each([
    ['IMG_1234.JPG', ['camera', 'upper-case']],
    ['DSC00012.jpg', ['camera', 'upper-case']],
    ['P1020304.jpg', ['camera', 'upper-case']],
    ['PXL_20240101_101112.jpg', ['camera', 'upper-case']],
    ['20240101_101112.jpg', ['camera']],
    ['Screenshot 2024-08-12 at 22.41.07.png', ['camera', 'spaces', 'upper-case']],
    ['3f2a9c0b1d4e5f60718293a4.jpg', ['no-words']],
    ['12.png', ['no-words']],
    ['the-dome-at-dusk.jpg', []],
    ['image-of-the-moon.jpg', []],
    ['größe.png', []],
    ['open_night.jpg', ['low-lines']],
    [`the-${'long-'.repeat(20)}road.jpg`, ['long', 'stuffed']],
    ['moon-moon-photo-moon.jpg', ['stuffed']],
    ['moon-to-moon.jpg', []],
    ['a (1)&b.png', ['no-words', 'spaces', 'characters']],
  ])('%s: %j', (name, faults) => {
    expect(nameFaults(name)).toEqual(faults);
  });
  test.each([
    ['Größe & Höhe (2).JPG', 'grosse-and-hohe-2.jpg'],
    ['Tinker’s Wheel.png', 'tinkers-wheel.png'],
    ['  --x--  .gif', 'x.gif'],
    ['???.gif', 'file.gif'],
    ['AUX.png', 'aux-file.png'],
    ['星空.png', '星空.png'],
  ])('cleans %s to %s', (name, clean) => {
    expect(cleanName(name)).toBe(clean);
    expect(cleanName(clean)).toBe(clean);
  });
  test.each([
    'हिन्दी-किताब.png', // Hindi
    'বাংলা-বই.png', // Bengali
    'தமிழ்-நூல்.png', // Tamil
    'ภาษาไทย.png', // Thai
    'مُعَلِّم.png', // Arabic with its vowels
    'می‌خواهم.png', // Persian with a joiner
    'がっこう.png', // Japanese: without its marks, "school" would be "cuckoo"
    '학교.png', // Korean
    'йод-ёлка.png', // Cyrillic
    'άλφα.png', // Greek
    'שָׁלוֹם.png', // Hebrew
    '学校.png',
  ])('names of other scripts stay as they are: %s', (name) => {
    const composed = name.normalize('NFC');
    expect(safeName(name)).toBe(composed);
    expect(cleanName(name.normalize('NFD'))).toBe(composed);
    expect(nameFaults(composed)).toEqual([]);
  });
  test('joiners stay only where letters are joined', () => {
    expect(safeName('a\u200db\u200c.png')).toBe('ab.png');
    expect(safeName('\u200cمی.png')).toBe('می.png');
  });
  test('a safe name never leads anywhere, whatever came', () => {
    for (const given of [
      '../../x.png',
      '..\\x.png',
      '/etc/x',
      'a\u0000b.png',
      '.htaccess',
      '-rf.png',
      'x.png.',
      'nul',
      '\u202e',
      'e\u0301'.repeat(300) + '.png',
    ]) {
      const safe = safeName(given);
      expect(pathFault(safe), given).toBeUndefined();
      expect(safe).not.toContain('/');
      expect(safe).toBe(safe.normalize('NFC'));
      expect(safe.length).toBeLessThanOrEqual(120);
    }
  });
  test('numbers go before the extension', () => {
    expect([numberedName('a.tar.gz', 2), numberedName('readme', 3)]).toEqual(['a.tar-2.gz', 'readme-3']);
  });
});

describe('paths', () => {
  test.each(['', '/a', 'a/', 'a//b', '../a', 'a/../b', './a', 'a\\b', 'a\u0007', `${'é'.repeat(130)}.png`])(
    '%j is no path of a site',
    (path) => {
      expect(pathFault(path)).toMatch(/\.$/);
    },
  );
  test('parts of a path', () => {
    expect([extensionOf('a/B.PNG'), extensionOf('.htaccess'), stemOf('a/b.c.d'), folderOf('x')]).toEqual([
      '.png',
      '',
      'b.c',
      '',
    ]);
    expect([isWithin('a', 'a/b'), isWithin('a', 'ab'), isWithin('', 'x')]).toEqual([true, false, true]);
    expect(clashKey('A/E\u0301.png')).toBe(clashKey('a/é.PNG'));
  });
  test('addresses are percent-encoded as the URL standard resolves them', () => {
    for (const path of ['a b/c.png', 'ü%20.png', 'q?#&.png', "o'(1),[2].png", '星.png']) {
      expect(decodeURIComponent(new URL(addressOf(path), 'http://x.example').pathname)).toBe(`/${path}`);
      expect(encodePath(path)).toMatch(/^[\x21-\x7e]+$/);
    }
  });
});

describe('redirects', () => {
  const moves = (...pairs: [string, string][]) => new Map(pairs);
  test('no chains, no loops, none over a file that stands there', async () => {
    let list = await redirectsAfter([], moves(['a.png', 'b.png']));
    list = await redirectsAfter(list, moves(['b.png', 'c d.png']));
    expect(list).toEqual([
      { from: '/a.png', to: '/c%20d.png' },
      { from: '/b.png', to: '/c%20d.png' },
    ]);
    expect(await redirectsAfter(list, moves(['c d.png', 'a.png']))).toEqual([
      { from: '/b.png', to: '/a.png' },
      { from: '/c%20d.png', to: '/a.png' },
    ]);
  });
  test('what is written is read again; anything else is an error in words', async () => {
    const list = [{ from: '/x%2Cy.png', to: '/z.png' }];
    expect(await readRedirects(decoded(await writeRedirects(list)))).toEqual({ redirects: list, faults: [] });
  });
  test.each([
    ['old,new', 'It is not of the form “from,to,status”.'],
    ['/a,//evil.example/b,301', 'must begin with one slash'],
    ['/a,https://evil.example/b,301', 'must begin with one slash'],
    ['/a,/\\evil.example,301', 'percent-encoded'],
    ['/a,/b c,301', 'percent-encoded'],
    ['/a,/{env.SECRET},301', 'percent-encoded'],
    ['/a,/ü,301', 'percent-encoded'],
    ['/a%zz,/b,301', 'no valid sequence'],
    ['/a,/b%c3%28,301', 'no valid sequence'],
    ['/a,/b%0d%0aSet-Cookie:x,301', 'a line break'],
  ])('the line %j is told with its number, stays, and the others are used', async (line, why) => {
    const text = `from,to,status\r\n/a.png,/b.png,301\r\n${line}\r\n/c.png,/d.png,301\r\n`;
    const { redirects, faults } = await readRedirects(text);
    expect(redirects.map((one) => one.from)).toEqual(['/a.png', '/c.png']);
    expect(faults).toEqual([{ line: 3, text: line, why: expect.stringContaining(why) as string }]);
    expect(await readRedirects(decoded(await writeRedirects(redirects, faults)))).toMatchObject({
      redirects,
      faults: [{ text: line }],
    });
  });
  test('an old address may hold what a bad name held', async () => {
    expect((await readRedirects('from,to,status\n/a%0Ab%5Cc.png,/a-b-c.png,301\n')).faults).toEqual([]);
  });
});

test('kinds, types and conventions come from one table', () => {
  expect([
    isItemPath('a.svg'),
    isPagePath('a.svg'),
    isItemPath('a.html'),
    isPagePath('a.webmanifest'),
  ]).toEqual([true, true, false, true]);
  expect([kindOf('a.MP4'), kindOf('a.xlsx'), kindOf('a.woff2'), kindOf('a.unknown')]).toEqual([
    'video',
    'document',
    'other',
    'other',
  ]);
  expect([mimeOf('a.JPG'), mimeOf('x.bin')]).toEqual(['image/jpeg', 'application/octet-stream']);
  expect(
    ['favicon.ico', 'sub/apple-touch-icon-180.png', '.well-known/x.pdf', 'a/icon.png'].map(isConventional),
  ).toEqual([true, true, true, false]);
});

test('roles by the ending, asked again and again, are those of the path', () => {
  const paths = [
    'a.PNG',
    'b/.png',
    '.png',
    'c.d/e',
    'x.html',
    'y.svg',
    'z',
    'png',
    'q.tar.gz',
    'a.jpg/b',
    'i.Css',
  ];
  for (const path of [...paths, ...paths.toReversed(), ...paths])
    expect(rolesOf(path), path).toEqual({ item: isItemPath(path), page: isPagePath(path) });
});
