import { describe, expect, test } from 'vitest';
import { PAINT_ATTRIBUTES } from './html.ts';
import { readSource } from './source.ts';
import { latin1, references, text, urls, utf8 } from './test/reading.ts';

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
    [
      '<svg><rect fill="url(d/patterns.svg#stripe)" stroke="url(\'s.svg#x\') none"/><g filter="url(f.svg#blur)" mask="url(#own)"/></svg>',
      ['d/patterns.svg#stripe', 's.svg#x', 'f.svg#blur'],
    ],
    [
      '<svg><path marker-start="url(m.svg#a)" marker-mid="url(m.svg#b)" marker-end="url(m.svg#c)" clip-path="url(c.svg#d)" cursor="url(hand.png), auto"/></svg>',
      ['m.svg#a', 'm.svg#b', 'm.svg#c', 'c.svg#d', 'hand.png'],
    ],
    [
      '<style>p { background: image("a.png"); background: cross-fade(url(b.png), url("c.png")) }</style>',
      ['a.png', 'b.png', 'c.png'],
    ],
  ])('%s', (html, expected) => {
    expect(urls('p.html', html)).toEqual(expected);
  });

  /**
   * Attributes whose value is an address or holds one (HTML Standard, index of attributes; SVG 2, attribute index and
   * presentation attributes; SVG 1.1 for older drawings). Not those that name no file to be shown: cite, ping, itemid, itemtype,
   * profile, classid, usemap, and action of forms, which is one that servers answer.
   */
  const ADDRESSED = [
    ...[
      'a href',
      'area href',
      'link href',
      'img src',
      'img longdesc',
      'img lowsrc',
      'img dynsrc',
      'audio src',
      'video src',
    ],
    ...[
      'video poster',
      'source src',
      'track src',
      'embed src',
      'iframe src',
      'frame src',
      'script src',
      'input src',
      'object data',
    ],
    ...['body background', 'table background', 'td background', 'th background'],
    ...[
      'image href',
      'image xlink:href',
      'use href',
      'feImage href',
      'pattern href',
      'linearGradient href',
      'radialGradient href',
    ],
    ...[
      'textPath href',
      'mpath href',
      'filter xlink:href',
      'mask xlink:href',
      'cursor xlink:href',
      'tref xlink:href',
      'a xlink:href',
    ],
    ...[
      'font-face-uri xlink:href',
      'color-profile xlink:href',
      'script href',
      'form action',
      'button formaction',
      'input formaction',
    ],
  ];
  test.each(ADDRESSED)('%s', (place) => {
    const [element = '', attribute = ''] = place.split(' ');
    const inSvg = /href$/.test(attribute) && !/^(a|area|link) href$/.test(place);
    const tag = `<${element} ${attribute}="x.svg">`;
    const row = /^t[dh]$/.test(element) ? `<table><tr>${tag}` : tag;
    expect(urls('p.html', inSvg ? `<svg>${tag}</svg>` : row)).toEqual(['x.svg']);
    if (inSvg)
      expect(
        urls('p.svg', `<svg xmlns="http://www.w3.org/2000/svg">${tag.replace('>', '/>')}</svg>`),
      ).toEqual(['x.svg']);
  });
  test.each([...PAINT_ATTRIBUTES])('%s="url(…)" of a drawing, also inline', (attribute) => {
    const drawing = `<svg xmlns="http://www.w3.org/2000/svg"><path ${attribute}="url(x.svg#a)"/></svg>`;
    for (const page of ['p.svg', 'p.html', 'p.xhtml']) expect(urls(page, drawing)).toEqual(['x.svg#a']);
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
