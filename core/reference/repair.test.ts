import { describe, expect, test } from 'vitest';
import { servedPath } from '../address/path.ts';
import { Repairs } from './repair.ts';
import { guessRoots, SiteMap } from './resolve.ts';

describe('what a broken reference likely means', () => {
  const items = [
    'img/Moon.jpg',
    'img/deep/saturn.png',
    'old/saturn.png',
    'a/star.webp',
    'shop/star-wheel.jpg',
    'talks/dome.mp3',
    'b/galaxy-ring.jpg',
  ];
  const repairs = () =>
    Repairs.of(items, [
      { from: '/gone/pic%20ture.jpg', to: '/img/deep/saturn.png' },
      { from: '/gone/x.png', to: '/not/there.png' },
    ]);
  test.each([
    ['img/moon.jpg', 'img/Moon.jpg', 'case', true],
    ['IMG/MOON.JPG', 'img/Moon.jpg', 'case', true],
    ['gone/pic ture.jpg', 'img/deep/saturn.png', 'redirect', true],
    ['img/saturn.png', 'img/deep/saturn.png', 'name', false],
    ['img/deep/er/saturn.png', 'img/deep/saturn.png', 'name', true],
    ['x/y/saturn.png', 'old/saturn.png', 'name', false],
    ['a/star.png', 'a/star.webp', 'extension', true],
    ['z/star.png', 'a/star.webp', 'extension', false],
    ['shop/starwheel.jpg', 'shop/star-wheel.jpg', 'alike', false],
    ['shop/star-wheel-640x480.jpg', 'shop/star-wheel.jpg', 'alike', false],
    ['galaxi-ring.jpg', 'b/galaxy-ring.jpg', 'alike', false],
  ])('%s: %s (%s)', async (missing, path, reason, sure) => {
    expect((await (await repairs()).for(missing))[0]).toEqual({ path, reason, sure });
  });
  test('nothing that is of another kind, or not alike at all; a redirect into nothing is none', async () => {
    const known = await repairs();
    for (const missing of ['x/dome.jpg', 'quasar.jpg', 'gone/x.png', 'abc.jpg'])
      expect(await known.for(missing)).toEqual([]);
  });
});

describe('public folders', () => {
  const files = (...paths: string[]) => new Set(paths);
  test.each<[string, Set<string>, string[], string[]]>([
    ['a plain site', files('index.html', 'img/a.png', 'img/b.png'), ['img/a.png', 'img/b.png'], ['']],
    [
      'sources of a generator',
      files('content/p.md', 'static/img/a.png', 'static/img/b.png'),
      ['img/a.png', 'img/b.png'],
      ['static'],
    ],
    [
      'two public folders',
      files('src/assets/a.png', 'src/assets/b.png', 'public/c.png', 'public/d.png'),
      ['a.png', 'b.png', 'c.png', 'd.png'],
      ['public', 'src/assets'],
    ],
    ['both at once', files('x/a.png', 'x/b.png', 'c.png'), ['a.png', 'b.png', 'c.png'], ['x', '']],
    ['nothing is named from the root', files('a/b.png'), [], ['']],
    ['one hit is chance', files('a/b.png', 'c.png'), ['b.png', 'c.png'], ['']],
  ])('%s', async (_what, there, named, roots) =>
    expect((await guessRoots(there, named)).sort()).toEqual([...roots].sort()),
  );

  test('addresses lead through them, and files are served without them', () => {
    const site = new SiteMap(
      ['static/img/a.png', 'img/a.png', 'content/p.md'],
      [],
      [{ host: 's.example', prefix: '/docs/' }],
      ['static'],
    );
    expect(site.resolve('/img/a.png', 'content/p.md')).toEqual({ to: 'file', path: 'static/img/a.png' });
    expect(site.resolve('https://s.example/docs/img/a.png', 'content/p.md')).toEqual({
      to: 'file',
      path: 'static/img/a.png',
    });
    expect(site.resolve('/img/A.png', 'x.html')).toEqual({
      to: 'missing',
      path: 'static/img/A.png',
      near: 'static/img/a.png',
    });
    expect(site.follow({ url: 'img/a.png', loose: true }, 'content/p.md')).toEqual({
      to: 'file',
      path: 'static/img/a.png',
    });
    expect(site.follow({ url: 'img/a.png' }, 'content/p.md').to).toBe('missing');
    expect([
      servedPath('static/img/a.png', ['static']),
      servedPath('statics/a.png', ['static']),
      servedPath('a.png', ['']),
    ]).toEqual(['img/a.png', 'statics/a.png', 'a.png']);
  });
});
