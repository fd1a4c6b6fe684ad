import { describe, expect, test } from 'vitest';
import type { SitePath } from '../address/path.ts';
import { SiteMap } from './resolve.ts';
import { rewritePage } from './rewrite.ts';
import { latin1, text, utf8 } from './test/reading.ts';

describe('rewriting', () => {
  /** Moves one file and answers the rewritten page. */
  function move(
    content: string | Uint8Array,
    from: SitePath,
    to: SitePath,
    page = 'docs/p.html',
    others: string[] = [],
  ) {
    const bytes = typeof content === 'string' ? utf8(content) : content;
    const before = new SiteMap([page, from, ...others], [], [{ host: 'site.example', prefix: '/' }]);
    const moves = new Map([[from, to]]);
    return rewritePage(page, bytes, moves, before, before.withMoves(moves));
  }
  const moved = (...args: Parameters<typeof move>) => {
    const result = move(...args);
    return result && 'bytes' in result ? text(result.bytes) : result;
  };

  test.each([
    ['<img src="../img/a.png">', '<img src="../img/b.png">'],
    ['<img src=../img/a.png>', '<img src=../img/b.png>'],
    ["<img src='/img/a.png?v=1#f'>", "<img src='/img/b.png?v=1#f'>"],
    ['<img src="https://site.example/img/a.png">', '<img src="https://site.example/img/b.png">'],
    ['<img src=" ./../img/./a.png ">', '<img src=" ./../img/./b.png ">'],
    ['<img srcset="../img/a.png 1x, /img/a.png 2x">', '<img srcset="../img/b.png 1x, /img/b.png 2x">'],
    [
      '<p style="background:url(&quot;../img/a.png&quot;)">',
      '<p style="background:url(&quot;../img/b.png&quot;)">',
    ],
    ['<style>p{b:url(../img/\\61.png)}</style>', '<style>p{b:url(../img/b.png)}</style>'],
    ['<img src="../im&#x67;/a.png">', '<img src="../im&#x67;/b.png">'],
    [
      '<!-- ../img/a.png -->é\r\n<img src="../img/a.png" title="a.png">',
      '<!-- ../img/a.png -->é\r\n<img src="../img/b.png" title="a.png">',
    ],
    ['<base href="/img/"><img src="a.png">', '<base href="/img/"><img src="b.png">'],
    ['<img src="..//img///a.png">', '<img src="..//img///b.png">'],
    ['<img src="/img//./a.png?x">', '<img src="/img//./b.png?x">'],
  ])('%s', (before, after) => {
    expect(moved(before, 'img/a.png', 'img/b.png')).toBe(after);
  });

  test.each([
    ['../img/a.png', '../pics/2024/a.png'],
    ['/img/a.png', '/pics/2024/a.png'],
    ['../img/a.png#x', '../pics/2024/a.png#x'],
    ['https://site.example/img/a.png', 'https://site.example/pics/2024/a.png'],
  ])('to another folder: %s', (before, after) => {
    expect(moved(`<img src="${before}">`, 'img/a.png', 'pics/2024/a.png')).toBe(`<img src="${after}">`);
  });

  test.each([
    [
      'é ![x](../img/a.png "a.png")\r\n`../img/a.png`',
      'é ![x](../img/b%20%282%29.png "a.png")\r\n`../img/a.png`',
    ],
    ['[r]: <../img/a.png>', '[r]: <../img/b%20%282%29.png>'],
    ['x <img src="/img/a.png">', 'x <img src="/img/b%20%282%29.png">'],
  ])('Markdown: %s', (before, after) => {
    expect(moved(before, 'img/a.png', 'img/b (2).png', 'docs/p.md')).toBe(after);
  });

  test.each([
    ['..//img///a.png', '..//pics///a.png'],
    ['.././img/a.png', '.././pics/a.png'],
    ['/img//a.png', '/pics//a.png'],
  ])('the spelling around the changed part stays: %s', (before, after) => {
    expect(moved(`<img src="${before}">`, 'img/a.png', 'pics/a.png')).toBe(`<img src="${after}">`);
  });
  test.each([
    ['..//img///a.png', '../img/a.png'],
    ['/img/.//a.png?x', '/img/a.png?x'],
  ])('tidied: %s', (before, after) => {
    const site = new SiteMap(['docs/p.html', 'img/a.png']);
    const bytes = utf8(`<img src="${before}">`);
    const tidied = rewritePage(
      'docs/p.html',
      bytes,
      new Map(),
      site,
      site,
      undefined,
      new Map([[10, 'img/a.png']]),
    );
    expect(tidied && 'bytes' in tidied && text(tidied.bytes)).toBe(`<img src="${after}">`);
    expect(rewritePage('docs/p.html', bytes, new Map(), site, site)).toBeUndefined();
  });

  test('names that need it are percent-encoded, also commas in srcset and quotes', () => {
    expect(moved('<img srcset="/a.png 1x">', 'a.png', `b, c'"&é#.png`)).toBe(
      '<img srcset="/b%2C%20c%27%22%26%C3%A9%23.png 1x">',
    );
  });

  test('an address written with raw letters stays readable', () => {
    expect(moved('<img src="/bilder/größe.png">', 'bilder/größe.png', 'bilder/höhe.png')).toBe(
      '<img src="/bilder/höhe.png">',
    );
  });

  test('a Latin-1 page keeps all its other bytes', () => {
    const bytes = latin1('<meta charset=latin1>\xe9<img src="gr\xf6.png">\xe9');
    const result = move(bytes, 'gr\u00f6.png', 'hö.png', 'p.html');
    expect(result).toHaveProperty('bytes');
    const after = (result as { bytes: Uint8Array }).bytes;
    expect(String.fromCharCode(...after)).toBe('<meta charset=latin1>\xe9<img src="h%C3%B6.png">\xe9');
  });

  test('a drawing that moves takes its own relative references along', () => {
    expect(
      moved('<svg><image href="a.png"/></svg>', 'img/d.svg', 'x/y/d.svg', 'img/d.svg', ['img/a.png']),
    ).toBe('<svg><image href="../../img/a.png"/></svg>');
  });

  test('a page without references to it is left alone', () => {
    expect(move('<img src="other.png">a.png', 'img/a.png', 'img/b.png')).toBeUndefined();
  });

  test('a srcdoc with doubly encoded addresses is refused, not guessed', () => {
    const result = move(
      '<iframe srcdoc="<img src=&quot;/a&amp;amp;b.png&quot;>"></iframe>',
      'a&b.png',
      'c.png',
    );
    expect(result).toHaveProperty('refused');
  });

  test('every other byte of the page is the same', () => {
    const html = 'x'.repeat(1000) + '<img src="/img/a.png">' + '\u00e9\r\n\t'.repeat(100);
    const result = move(html, 'img/a.png', 'img/long-new-name.png') as {
      bytes: Uint8Array;
      changes: { start: number; end: number; insert: string }[];
    };
    expect(result.changes).toHaveLength(1);
    const [change] = result.changes;
    const before = utf8(html);
    expect(result.bytes.slice(0, change!.start)).toEqual(before.slice(0, change!.start));
    expect(result.bytes.slice(change!.start + change!.insert.length)).toEqual(before.slice(change!.end));
  });
});
