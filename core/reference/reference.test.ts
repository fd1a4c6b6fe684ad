import { describe, expect, test } from 'vitest';
import type { SitePath } from '../address/path.ts';
import { rawFromText } from './atoms.ts';
import { NameIndex } from './mention.ts';
import { isMediaAddress, readPage, textAround, textWithout } from './read.ts';
import { learnPublished, SiteMap } from './resolve.ts';
import { rewritePage } from './rewrite.ts';
import { bytesOf, lineAt, lineStarts, readSource, type Source } from './source.ts';

const utf8 = (text: string) => new TextEncoder().encode(text);
const latin1 = (text: string) => Uint8Array.from(text, (char) => char.charCodeAt(0));
const text = (bytes: Uint8Array) => new TextDecoder('utf-8', { ignoreBOM: true }).decode(bytes);

function sourceOf(bytes: Uint8Array): Source {
  const source = readSource(bytes);
  if ('unread' in source) throw new Error(source.unread);
  return source;
}

function references(path: string, content: string | Uint8Array) {
  const source = sourceOf(typeof content === 'string' ? utf8(content) : content);
  return readPage(path, source).references.map((one) => ({
    ...one,
    raw: source.raw.slice(one.start, one.end),
  }));
}

const urls = (path: string, content: string | Uint8Array) => references(path, content).map((one) => one.url);

describe('references in HTML', () => {
  test.each([
    ['<img src="a.png">', ['a.png']],
    ["<IMG SRC='a.png'>", ['a.png']],
    ['<img src=a.png>', ['a.png']],
    ['<img src=a.png/>', []],
    ['<img\n  alt="x"\n  src =\n "a.png"\n>', ['a.png']],
    ['<img src="a.png" src="b.png">', ['a.png']],
    ['<img srcset="a.png 1x, b,c.png 2x,d.png" src="e.png">', ['a.png', 'b,c.png', 'd.png', 'e.png']],
    ['<source srcset="a.webp, b.webp 2x">', ['a.webp', 'b.webp']],
    ['<video src=a.mp4 poster=p.jpg><track src=t.vtt></video>', ['a.mp4', 'p.jpg', 't.vtt']],
    ['<audio><source src="a.mp3"></audio>', ['a.mp3']],
    ['<a href="plan.pdf#page=2">', ['plan.pdf#page=2']],
    ['<td background="a.gif">', ['a.gif']],
    ['<body background=a.gif>', ['a.gif']],
    ['<object data="a.svg"></object><embed src="b.swf">', ['a.svg', 'b.swf']],
    ['<input type=image src=go.png>', ['go.png']],
    [
      '<svg><image href="a.png"/><image xlink:href="b.png"/><title/><use href="c.svg#x"/></svg>',
      ['a.png', 'b.png', 'c.svg#x'],
    ],
    [
      '<link rel=icon href=i.png><link rel=preload imagesrcset="a.png 1x, b.png 2x">',
      ['i.png', 'a.png', 'b.png'],
    ],
    ['<meta property="og:image" content="https://x.example/a.png">', ['https://x.example/a.png']],
    ['<meta name=description content="See a.png for more">', []],
    ['<div data-src="lazy.jpg" data-bg="b.jpg" data-json=\'{"a":"c.jpg"}\'>', ['lazy.jpg', 'b.jpg']],
    ['<img data-srcset="a.jpg 1x, b.jpg 2x">', ['a.jpg', 'b.jpg']],
    ['<div style="background: url(a.png), url(&quot;b.png&quot;)">', ['a.png', 'b.png']],
    ['<div style=\'background:url("a b.png")\'>', ['a b.png']],
    ['<style>p{background:url( a.png )} @import "b.css"; /* url(c.png) */</style>', ['a.png', 'b.css']],
    ['<template><img src=a.png></template><noscript><img src=b.png></noscript>', ['a.png', 'b.png']],
    ['<!-- <img src="a.png"> --><![if IE]><img src=b.png><![endif]>', ['b.png']],
    ['<textarea><img src=a.png></textarea><title><img src=b.png></title>', []],
    ['<script>x = "<img src=a.png>"</script><img src=b.png>', ['b.png']],
    [
      '<img src="a&amp;b.png"><img src="a&copy=1.png"><img src="a&eacute;.png">',
      ['a&b.png', 'a&copy=1.png', 'aé.png'],
    ],
    ['<iframe srcdoc="<img src=&quot;a.png&quot;>"></iframe>', ['a.png']],
    ['<a href="#a.png"><a href="mailto:x@a.png"><img src="data:image/png;base64,x.png">', []],
    ['<base href="img/"><img src="a.png">', ['a.png']],
    ['<param name=movie value="a.swf">', ['a.swf']],
  ])('%s', (html, expected) => {
    expect(urls('p.html', html)).toEqual(expected);
  });

  test('offsets are bytes of the file: behind a BOM, multi-byte text and CRLF', () => {
    const html = '\ufeff<p>Größe 星\r\n<img alt="é" src="bilder/größe.png">\r\n';
    const [one] = references('p.html', html);
    expect(one!.line).toBe(2);
    expect(text(utf8(html).slice(one!.start, one!.end))).toBe('bilder/größe.png');
    expect(one!.url).toBe('bilder/größe.png');
  });

  test('old pages: Latin-1 and windows-1252 are decoded as declared, or when UTF-8 fails', () => {
    expect(urls('p.html', latin1('<meta charset=iso-8859-1><img src="gr\u00f6.png">'))).toEqual(['grö.png']);
    expect(urls('p.html', latin1('<img src="gr\u00f6.png">'))).toEqual(['grö.png']);
  });

  test('alt of an img: its text, empty, or null when there is none', () => {
    const found = references(
      'p.html',
      '<img src=a.png alt="A &amp; B"><img src=b.png alt><img src=c.png><a href=d.png>',
    );
    expect(found.map((one) => one.alt)).toEqual(['A & B', '', null, undefined]);
  });

  test('XHTML: a self-closed script swallows nothing', () => {
    expect(
      urls(
        'p.xhtml',
        '<html><head><script src="a.js"/><title/></head><body><img src="a.png"/></body></html>',
      ),
    ).toEqual(['a.js', 'a.png']);
  });

  test('a drawing: CDATA style, own links', () => {
    const svg =
      '<?xml version="1.0"?><svg xmlns:xlink="x"><style><![CDATA[.a{fill:url(p.png)}]]></style><image xlink:href="q.jpg"/></svg>';
    expect(urls('d.svg', svg)).toEqual(['p.png', 'q.jpg']);
  });

  test('stray end tags and unclosed elements hide nothing', () => {
    expect(
      urls(
        'p.html',
        '</p></br><table><tr></p><img src=a.png></table></body></html><img src=b.png><style>a{b:url(c.png)}',
      ),
    ).toEqual(['a.png', 'b.png', 'c.png']);
  });

  test('UTF-16 and NUL bytes are not parsed, and it is said', () => {
    expect(readSource(Uint8Array.of(0xff, 0xfe, 0x3c, 0))).toHaveProperty('unread');
    expect(readSource(Uint8Array.of(0x3c, 0, 0x3c))).toHaveProperty('unread');
  });
});

describe('references in CSS', () => {
  test.each([
    ['a{b:url(a.png)}', ['a.png']],
    ['a{b:URL( "a b.png" )}', ['a b.png']],
    ["a{b:url('a\\29 .png')}", ['a).png']],
    ['a{b:url(a\\(1\\).png)}', ['a(1).png']],
    ['a{b:image-set("a.png" 1x, url(b.png) 2x type("image/png"))}', ['a.png', 'b.png']],
    ['@import "x.css"; @import url(y.css) screen;', ['x.css', 'y.css']],
    ['@namespace svg url(http://www.w3.org/2000/a.svg);', []],
    ['@font-face{src:local("x.woff"),url(f.woff2)format("woff2")}', ['f.woff2']],
    ['/* url(a.png) */ :root{--hero:url(h.jpg)}', ['h.jpg']],
    ['a{content:"a.png"}', []],
    ['a{b:url(data:image/png;base64,AA)}', []],
  ])('%s', (css, expected) => {
    expect(urls('s.css', css)).toEqual(expected);
  });
});

describe('references in Markdown', () => {
  test.each([
    ['![a](x.png) and [b](../y.pdf "t")', ['x.png', '../y.pdf']],
    ['![a](<x y.png> "t") [b](c\\_d.pdf)', ['x y.png', 'c_d.pdf']],
    ['![a](x(1).png)', ['x(1).png']],
    ['![a](x\\(1.png)', ['x(1.png']],
    ['[![a](x.png)](y.png)', ['x.png', 'y.png']],
    ['![z][r]\n\n[r]: e.png "title"', ['e.png']],
    ['<https://site.example/a.png>', ['https://site.example/a.png']],
    ['text <img src="h.png"> text\n\n<div><img src=i.png></div>', ['h.png', 'i.png']],
    ['`![n](no.png)`\n\n```\n![n](no.png)\n```\n\n    ![n](no.png)', []],
    ['---\ntitle: T\nimage: no.png\n---\n\n![a](x&amp;y.png)', ['x&y.png']],
  ])('%s', (markdown, expected) => {
    expect(urls('p.md', markdown).sort()).toEqual([...expected].sort());
  });
  test('title from front matter, else from the first heading; offsets behind multi-byte text', () => {
    expect(readPage('p.md', sourceOf(utf8('---\ntitle: "Häuser"\n---\n# x'))).title).toBe('Häuser');
    expect(readPage('p.md', sourceOf(utf8('# *Große* Sterne #\n'))).title).toBe('Große Sterne');
    const [one] = references('p.md', '\ufeffÄö ![ü](grün.png)');
    expect(one!.url).toBe('grün.png');
  });
});

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

describe('mentions', () => {
  const paths = [
    'a.jpg',
    'plain.png',
    'plan.doc',
    'x.png',
    'big/n.png',
    'small/n.png',
    'my photo.jpg',
    'é.png',
    'q&a.pdf',
    'a.tar.gz',
    'CamelCase.png',
  ];
  const index = new NameIndex(paths);
  const mentioned = (content: string) =>
    index
      .search(content)
      .map((one) => one.path)
      .sort();
  test.each([
    ['see a.jpg.', ['a.jpg']],
    ['ba.jpg a.jpgx a.jpg.bak -a.jpg a.jpg2', []],
    ['bg-plain.png pond@2x.png plan.docx', []],
    ['["a.jpg"]', ['a.jpg']],
    ['img/n.png', ['big/n.png', 'small/n.png']],
    ['../big/n.png', ['big/n.png']],
    ['my%20photo.jpg', ['my photo.jpg']],
    ['my photo.jpg', ['my photo.jpg']],
    ['%C3%A9.png', ['é.png']],
    ['e\u0301.png', ['é.png']],
    ['"\\u00e9.png"', ['é.png']],
    ['q&amp;a.pdf', ['q&a.pdf']],
    ['"img\\/a.jpg"', ['a.jpg']],
    ['a.tar.gz', ['a.tar.gz']],
    ['写真a.jpgです', ['a.jpg']],
    ['camelcase.PNG', ['CamelCase.png']],
    ['éa.jpg', []],
    ['"\\na.jpg"', ['a.jpg']],
  ])('%s', (content, expected) => {
    expect(mentioned(content)).toEqual([...expected].sort());
  });
  test('lines are counted, one answer a line', () => {
    expect(index.search('x\na.jpg a.jpg\r\n\nx.png')).toEqual([
      { path: 'a.jpg', line: 2 },
      { path: 'x.png', line: 4 },
    ]);
  });
  test('what a resolved reference says is blanked out, and lines stay', () => {
    const source = sourceOf(utf8('é<img src="a.jpg">\nx.png'));
    const [one] = readPage('p.html', source).references;
    expect(textWithout(source, [one!])).toBe('é<img src="     ">\nx.png');
  });
});

describe('broken addresses', () => {
  test.each([
    ['a.png', true],
    ['{{ src }}.png', false],
    ['${x}.png', false],
    ['img/%s.png', false],
    ['[logo].png', false],
    ['<?php echo 1 ?>.png', false],
    ['a.html', false],
    ['a%20b.png', true],
    ['.png', false],
  ])('%s counts: %s', (url, expected) => {
    expect(isMediaAddress(url)).toBe(expected);
  });
});

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

describe('source', () => {
  test('raw strings are bytes and back', () => {
    const bytes = Uint8Array.from({ length: 256 }, (_, i) => i);
    expect(bytesOf(readSourceRaw(bytes))).toEqual(bytes);
    expect(() => bytesOf('\u0100')).toThrow(RangeError);
    expect(rawFromText('é')).toBe('\u00c3\u00a9');
  });
  test('lines end at LF, CR and CRLF', () => {
    const starts = lineStarts('a\nb\r\nc\rd');
    expect([0, 2, 5, 7].map((at) => lineAt(starts, at))).toEqual([1, 2, 3, 4]);
  });
  test('the text around a placement', () => {
    const source = sourceOf(
      utf8(
        '<h2>Open nights</h2><p>We show <em>Saturn</em>: <img src=a.png> through the refractor &amp; more.</p>',
      ),
    );
    const [one] = readPage('p.html', source).references;
    expect(textAround(source, one!.start, one!.end)).toEqual({
      before: 'Open nights We show Saturn :',
      after: 'through the refractor & more.',
    });
  });
});

function readSourceRaw(bytes: Uint8Array): string {
  return Array.from(bytes, (byte) => String.fromCharCode(byte)).join('');
}
