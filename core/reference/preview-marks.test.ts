import { describe, expect, test } from 'vitest';
import { markedPage } from './preview-marks.ts';
import { readPage } from './read.ts';
import { readSource } from './source.ts';

const sourceOf = (text: string, encoding: 'utf8' | 'latin1' = 'utf8') => {
  const source = readSource(new Uint8Array(Buffer.from(text, encoding)));
  if ('unread' in source) throw new Error(source.unread);
  return source;
};
const marked = (path: string, text: string, encoding: 'utf8' | 'latin1' = 'utf8') =>
  markedPage(path, sourceOf(text, encoding))!;

describe('a page as it is looked at', () => {
  test('marks name the references of each element, and where blocks can stand; all else is the page itself', () => {
    const page =
      '<!doctype html>\n<title>Ä</title><main>\n<p>a <img src="ü.png" srcset="b.png 2x" style="background:url(c.png)"></p>\n<h2>x</h2><table><tr><td><p>in</p></td></tr></table></main>';
    const html = marked('p.html', page);
    const starts = readPage('p.html', sourceOf(page)).references.map((one) => one.start);
    expect(html).toContain(
      `<img data-look-at="${starts.join(' ')}" data-look-background="${starts[2]}" src="ü.png"`,
    );
    expect(html).toMatch(/<h2 data-look-before="\d+">x/);
    // In a cell of a table no block is offered; behind the last one of the holder one is.
    expect(html).toContain('<td><p>in');
    expect(html).toMatch(/<table data-look-before="\d+" data-look-behind="\d+">/);
    expect(html.replace(/ data-look-[a-z]+="[^"]*"/g, '')).toBe(page);
  });
  test('spots are byte offsets in the file, behind many-byte text and a mark at the start', () => {
    const page = '\ufeff<body><p>ßß</p>\r\n<p>b</p></body>';
    const [, second] = [...marked('p.html', page).matchAll(/data-look-before="(\d+)"/g)].map((one) =>
      Number(one[1]),
    );
    expect(Buffer.from(page).subarray(second).toString()).toBe('<p>b</p></body>');
  });
  test('other encodings are shown as text', () => {
    expect(marked('p.html', '<meta charset="windows-1252"><p>\u00e4</p>', 'latin1')).toContain('>ä</p>');
  });
  test('a page that would lead away stays', () => {
    const html = marked(
      'p.html',
      '<META HTTP-EQUIV=Refresh content="0;url=http://x.example/"><meta http-equiv="x-ua" content=a>',
    );
    expect(html).toContain('<META http-equiv="x-stay" HTTP-EQUIV=Refresh');
    expect(html).toContain('<meta http-equiv="x-ua"');
  });
  test('Markdown is drawn, without its front matter, with its pictures and blocks marked', () => {
    const page = '---\ntitle: Nö\n---\n\n# Ü\n\n![ä](a.png "t") and <img src="b.png">\n\n- x\n';
    const html = marked('n.md', page);
    const [a] = readPage('n.md', sourceOf(page)).references;
    expect(html).toContain('<h1 data-look-before="');
    expect(html).toContain('Ü</h1>');
    expect(html).toMatch(new RegExp(`<img [^>]*data-look-at="${a!.start}"`));
    expect(html).toContain('alt="ä"');
    expect(html).not.toContain('title: Nö');
    const spots = [...html.matchAll(/data-look-before="(\d+)"/g)].map(
      (one) => Buffer.from(page).subarray(Number(one[1])).toString()[0],
    );
    expect(spots).toEqual(['#', '!', '-']);
  });
  test('of data and style sheets nothing is drawn', () => {
    for (const path of ['d.json', 's.css', 'f.xml', 'x.js'])
      expect(markedPage(path, sourceOf('{}'))).toBeUndefined();
  });
});
