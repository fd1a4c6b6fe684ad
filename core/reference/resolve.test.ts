import { describe, expect, test } from 'vitest';
import { learnPublished, SiteMap } from './resolve.ts';

describe('resolving', () => {
  const site = new SiteMap(
    [
      'index.html',
      'img/a b.png',
      'img/a%20b.png',
      'img/Ä.png'.normalize('NFD'),
      'img/Logo.png',
      'docs/index.html',
      'docs/x#1.png',
      'docs/p.html',
      'v2/a.png',
    ],
    [['latest', 'v2']],
    [{ host: 'site.example', prefix: '/hill/' }],
  );
  const to = (url: string, page = 'docs/p.html', base?: string) => {
    const target = site.resolve(url, page, base);
    return target.to === 'file'
      ? target.path
      : target.to === 'missing'
        ? `missing ${target.path}${target.near ? ` near ${target.near}` : ''}`
        : target.to;
  };
  test.each([
    ['../img/a%20b.png', 'img/a b.png'],
    ['../img/a b.png?v=2#x', 'img/a b.png'],
    ['../img/a%2520b.png', 'img/a%20b.png'],
    ['/img/%C3%84.png', 'img/Ä.png'.normalize('NFD')],
    ['\\img\\Logo.png', 'img/Logo.png'],
    ['  /img/Lo\ngo.png ', 'img/Logo.png'],
    ['/img/logo.PNG', 'missing img/logo.PNG near img/Logo.png'],
    ['x%231.png', 'docs/x#1.png'],
    ['./', 'docs/index.html'],
    ['../docs', 'docs/index.html'],
    ['../../up.png', 'above'],
    ['/../up.png', 'above'],
    ['../img/100%.png', 'missing img/100%.png'],
    ['https://www.site.example/hill/img/Logo.png', 'img/Logo.png'],
    ['//site.example/hill/img/Logo.png', 'img/Logo.png'],
    ['/hill/img/Logo.png', 'img/Logo.png'],
    ['https://other.example/img/Logo.png', 'external'],
    ['data:image/png,x', 'none'],
    ['/latest/a.png', 'v2/a.png'],
    ['http://[', 'none'],
    ['../img//Logo.png', 'img/Logo.png'],
    ['..//img/./Logo.png', 'img/Logo.png'],
    ['.//x%231.png', 'docs/x#1.png'],
    ['/img///Logo.png?x#y', 'img/Logo.png'],
    ['/hill//img/Logo.png', 'img/Logo.png'],
    ['https://site.example/hill//img//Logo.png', 'img/Logo.png'],
    ['/latest//a.png', 'v2/a.png'],
    ['..//', 'index.html'],
    ['/a//../../img/Logo.png', 'img/Logo.png'],
    ['/a//../../../img/Logo.png', 'above'],
    ['../img//none.png', 'missing img/none.png'],
    ['/img//logo.PNG', 'missing img/logo.PNG near img/Logo.png'],
  ])('%s', (url, expected) => {
    expect(to(url)).toBe(expected);
  });
  test('base href: relative, rooted, absolute', () => {
    expect(to('Logo.png', 'docs/p.html', '../img/')).toBe('img/Logo.png');
    expect(to('Logo.png', 'docs/p.html', '/img/')).toBe('img/Logo.png');
    expect(to('Logo.png', 'docs/p.html', 'https://other.example/')).toBe('external');
  });
  test('where the site is published is learned from what the pages say of themselves', () => {
    const pages = [
      { path: 'a/b.html', canonical: ['https://www.site.example/hill/a/b.html'] },
      { path: 'index.html', canonical: ['https://site.example/hill/'] },
      { path: 'c.html', canonical: ['https://elsewhere.example/z.html'] },
    ];
    expect(learnPublished(pages)).toEqual([{ host: 'site.example', prefix: '/hill/' }]);
  });
});
