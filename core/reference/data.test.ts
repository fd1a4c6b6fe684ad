import { describe, expect, test } from 'vitest';
import { readPage } from './read.ts';
import { readSource } from './source.ts';

function read(path: string, text: string, links = false) {
  const bytes = new TextEncoder().encode(text);
  const source = readSource(bytes);
  if ('unread' in source) throw new Error(source.unread);
  return { source, references: readPage(path, source, links).references };
}
const urls = (path: string, text: string, links = false) =>
  read(path, text, links).references.map((one) => one.url);

describe('JSON', () => {
  test.each([
    ['{"image": "img/a.png", "n": 3, "t": true}', ['img/a.png']],
    ['["\\/img\\/a.png", "\\u0062.png"]', ['/img/a.png', 'b.png']],
    ['{"a.png": "a key is none", "text": "see a.png for more", "v": "1.5.3"}', []],
    ['{"deep": {"er": [{"src": "https://site.example/x.jpg?w=2"}]}}', ['https://site.example/x.jpg?w=2']],
    ['// a comment with b.png\n{"a": "a.png",}', ['a.png']],
    ['{"broken": "a.png", ', ['a.png']],
    ['{"style": "css/site.css", "script": "x.js", "page": "about.html"}', ['css/site.css', 'x.js']],
    ['{"data": "data:image/png;base64,AA.png", "mail": "mailto:a@b.png"}', []],
    ['{"template": "{{ base }}/a.png", "spaced": "a b.png"}', []],
  ])('%s', (json, expected) => expect(urls('data/d.json', json)).toEqual(expected));

  test('each stands under its pointer, at its very bytes, behind a mark and many-byte text', () => {
    const { references, source } = read('d.json', '\ufeff{"süß/e~": [0, {"ü": "bilder/ö.png"}]}');
    expect(references).toMatchObject([
      { place: 'json /s\u00c3\u00bc\u00c3\u009f~1e~0/1/\u00c3\u00bc', loose: true },
    ]);
    const [one] = references;
    expect(Buffer.from(source.bytes.subarray(one!.start, one!.end)).toString()).toBe('bilder/ö.png');
  });

  test('a manifest’s icons are relative to the manifest, and may be broken', () => {
    const [icon] = read('app.webmanifest', '{"icons":[{"src":"icon.png"}]}').references;
    expect(icon).toMatchObject({ url: 'icon.png' });
    expect(icon!.loose).toBeUndefined();
  });
});

describe('YAML', () => {
  test.each([
    ['image: img/a.png\ntitle: The a.png of it', ['img/a.png']],
    ["list:\n  - \"a\\x2epng\"\n  - 'it''s.png'\n  - b.png # c.png", ['a.png', "it's.png", 'b.png']],
    ['a: &x one.png\nb: *x', ['one.png']],
    ['a: |\n  block.png\n', []],
    ['one: a.png\n---\ntwo: b.png', ['a.png', 'b.png']],
    ['a: [x.png, {src: y.jpg}]', ['x.png', 'y.jpg']],
    ['bad: [a.png', ['a.png']],
  ])('%s', (yaml, expected) => expect(urls('data/d.yml', yaml)).toEqual(expected));
});

describe('front matter', () => {
  test.each([
    ['---\ncover: img/a.png\n---\ntext ![b](b.png)', ['img/a.png', 'b.png']],
    [
      '+++\ncover = "img/a.png"\nlist = [\'b.png\', "c.png"]\n[more]\nx = 1\n+++\n# T',
      ['img/a.png', 'b.png', 'c.png'],
    ],
    ['{\n  "cover": "a.png"\n}\n\n# T ![b](b.png)', ['a.png', 'b.png']],
    ['---\r\ncover: a.png\r\n---\r\n', ['a.png']],
    ['text\n---\ncover: a.png\n---\n', []],
  ])('%s', (text, expected) => expect(urls('p.md', text)).toEqual(expected));

  test('the title of each kind', () => {
    for (const text of [
      '---\ntitle: "Ä b"\n---\n',
      '+++\ntitle = "Ä b"\n+++\n',
      '{\n "title": "Ä b",\n "x": 1\n}\n',
    ]) {
      const source = readSource(new TextEncoder().encode(text));
      expect('raw' in source && readPage('p.md', source).title).toBe('Ä b');
    }
  });
});

describe('XML, feeds, sitemaps', () => {
  test.each([
    ['<rss><channel><item><enclosure url="/talk.mp3" length="3"/></item></channel></rss>', ['/talk.mp3']],
    [
      '<urlset><url><loc>https://s.example/</loc><image:image><image:loc>https://s.example/a.jpg</image:loc></image:image></url></urlset>',
      ['https://s.example/a.jpg'],
    ],
    ['<a><!-- <b src="no.png"/> --><b src="a&amp;b.png"/></a>', ['a&b.png']],
    [
      '<item><description><![CDATA[<p><img src="a.png" srcset="b.png 2x"></p>]]></description></item>',
      ['a.png', 'b.png'],
    ],
    ['<entry><content type="html">&lt;p&gt;&lt;img src=&quot;a.png&quot;&gt;</content></entry>', ['a.png']],
    ['<item><guid>https://s.example/a.png</guid><id>b.png</id></item>', []],
    ['<i><title>a.png is a picture</title><logo>\n  logo.svg\n</logo></i>', ['logo.svg']],
    ['<a xmlns="http://x.example/n.png"><b/></a>', []],
    ["<a><b x='c.png'>", ['c.png']],
    ['<?xml version="1.0"?><!DOCTYPE a [<!ENTITY e "no.png">]><a href="yes.png"/>', ['yes.png']],
  ])('%s', (xml, expected) => expect(urls('feed.xml', xml)).toEqual(expected));

  test('xml:base of the whole', () => {
    const [one] = read(
      'feed.atom',
      '<feed xml:base="https://s.example/blog/"><link href="a.png"/></feed>',
    ).references;
    expect(one).toMatchObject({ url: 'a.png', base: 'https://s.example/blog/' });
  });
  test('pages are named too when they are asked for', () => {
    expect(
      urls('sitemap.xml', '<urlset><url><loc>https://s.example/a.html</loc></url></urlset>', true),
    ).toEqual(['https://s.example/a.html']);
  });
});

test('data in pages: JSON-LD and import maps are read, scripts are not', () => {
  expect(
    urls(
      'p.html',
      '<script type="application/ld+json">{"image": "img/a.png"}</script><script>x = "no.png"</script>' +
        '<script type=importmap>{"imports": {"x": "./x.mjs"}}</script><img src=b.png>',
    ),
  ).toEqual(['img/a.png', './x.mjs', 'b.png']);
});

test('whatever is cut off or torn anywhere: reading ends, and every address lies where it is said to', () => {
  const files = {
    'd.json': '{"a": ["img/ä.png", {"b": "\\u0061.png"}], "c": "x.css"}',
    'd.yml': 'ä: img/ä.png\nb:\n  - "c.png"\n  - {d: \'e.png\'}\n',
    'd.xml':
      '<r ä="ö.png"><b><![CDATA[<img src="c.png">]]></b><d>e.png</d><content>&lt;img src=f.png&gt;</content></r>',
    'd.md': '---\na: b.png\n---\n# T\n![ä](ö.png) <img src=c.png>\n\n[r]: d.png\n',
    'd.html':
      '<!doctype html><img src="ä.png" srcset="b.png 2x, c.png 3x"><style>a{b:url(d.png)}</style><script type="application/json">{"x":"e.png"}</script>',
    'd.css': '@import "a.css"; b{c:url( "ä.png" ) url(c\\20 d.png)}',
  };
  let read = 0;
  for (const [path, text] of Object.entries(files)) {
    const whole = new TextEncoder().encode(text);
    for (let at = 0; at <= whole.length; at++)
      for (const bytes of [
        whole.subarray(0, at),
        whole.subarray(at),
        Uint8Array.from(whole, (b, i) => (i === at ? 0x22 : b)),
        Uint8Array.from(whole, (b, i) => (i === at ? 0xff : b)),
      ]) {
        const source = readSource(bytes);
        if ('unread' in source) continue;
        for (const one of readPage(path, source, true).references) {
          expect(one.start).toBeLessThanOrEqual(one.end);
          expect(one.end).toBeLessThanOrEqual(bytes.length);
          read++;
        }
      }
  }
  expect(read).toBeGreaterThan(1000);
});
