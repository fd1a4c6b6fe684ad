import { describe, expect, test } from 'vitest';
import { addressStyle } from './markup.ts';
import { editPage, type PageEdit } from './page-edit.ts';

const style = addressStyle('p.html', false, (path) => path);
/** What becomes of a page; `start` is found by the address that is meant. */
function edited(text: string, address: string, edit: object, page = 'p.html'): string {
  const bytes = new TextEncoder().encode(text);
  const start = Buffer.byteLength(text.slice(0, text.indexOf(address)));
  const one = { start, end: start + Buffer.byteLength(address), ...edit } as PageEdit;
  const result = editPage(page, bytes, [one], style);
  if (!result) return 'as it was';
  return 'refused' in result ? `refused: ${result.refused}` : Buffer.from(result.bytes).toString();
}
const remove = (text: string, address: string, page?: string) =>
  edited(text, address, { do: 'remove' }, page);

describe('removing a placement', () => {
  test('takes what holds only it, with its line: picture, link, figure, paragraph, list item', () => {
    for (const [before, after] of [
      ['<div>\n  <img src="a.png" alt="x">\n</div>', '<div>\n</div>'],
      ['<p>One <img src="a.png"> two</p>', '<p>One  two</p>'],
      ['<p>1</p>\n<p><a href="b.png"><img src="a.png"></a></p>\n<p>2</p>', '<p>1</p>\n<p>2</p>'],
      ['<figure>\n<img src="a.png"><figcaption>C</figcaption></figure>', ''],
      [
        '<ul><li><img src="a.png"></li><li><img src="b.png"></li></ul>',
        '<ul><li><img src="b.png"></li></ul>',
      ],
      ['<picture><source srcset="b.webp"><img src="a.png"></picture>!', '!'],
      ['<figure><img src="a.png"><img src="b.png"></figure>', '<figure><img src="b.png"></figure>'],
      ['<video><source src="a.png"><source src="b.mp4"></video>!', '!'],
    ] as const)
      expect(remove(before, 'a.png'), before).toBe(after);
  });
  test('of a link in a text the words stay; of one alone in its line nothing', () => {
    expect(remove('<p>See <a href="a.pdf">the <b>map</b></a> here.</p>', 'a.pdf')).toBe(
      '<p>See the <b>map</b> here.</p>',
    );
    expect(remove('<ul><li><a href="a.pdf">Map</a></li></ul>', 'a.pdf')).toBe('<ul></ul>');
  });
  test('a background becomes none, in the page and in a style sheet', () => {
    expect(remove('<div style="background: url(&quot;a.png&quot;) red">', 'a.png')).toContain('refused');
    expect(remove(`<div style="background: url('a.png') red">x</div>`, 'a.png')).toBe(
      '<div style="background: none red">x</div>',
    );
    expect(
      remove('.a { background: url( "a.png" ) red } .b { background: url(b.png) }', 'a.png', 'css/s.css'),
    ).toBe('.a { background: none red } .b { background: url(b.png) }');
  });
  test('Markdown: the block, the item of a list, the image in a text, the link around words', () => {
    const md = (text: string) => remove(text, 'a.png', 'n.md');
    expect(md('# One\n\n![x](a.png)\n\nTwo\n')).toBe('# One\n\nTwo\n');
    expect(md('Look ![x](a.png) here.\n')).toBe('Look  here.\n');
    expect(md('- ![x](a.png)\n- ![y](b.png)\n')).toBe('- ![y](b.png)\n');
    expect(md('See [the *map*](a.png).\n')).toBe('See the *map*.\n');
    expect(md('---\nhero: a.png\n---\n![y](b.png)\n')).toContain('refused');
  });
  test('what is not closed, and what is no placement of its own, is refused', () => {
    expect(remove('<p>One <a href="a.png">two', 'a.png')).toContain('is not closed');
    expect(remove('<link rel="icon" href="a.png">', 'a.png')).toContain('no image, film or link');
  });
});

describe('order', () => {
  const up = (text: string, page?: string) => edited(text, 'b.png', { do: 'order', to: 'up' }, page);
  test('changes places with what stands before, whatever lies between; all else stays', () => {
    expect(up('<ul>\n  <li><img src="a.png"></li>\n  <li><img src="b.png" alt="ä"></li>\n</ul>')).toBe(
      '<ul>\n  <li><img src="b.png" alt="ä"></li>\n  <li><img src="a.png"></li>\n</ul>',
    );
    expect(up('<h2>One</h2><p><img src="b.png"></p>')).toBe('<p><img src="b.png"></p><h2>One</h2>');
    expect(up('# One\n\n![x](b.png)\n', 'n.md')).toBe('![x](b.png)\n\n# One\n');
  });
  test('the first and the last stay, and say so', () => {
    expect(up('<div><img src="b.png"><p>x</p></div>')).toContain('It is the first here already');
    expect(edited('<p>x</p><img src="b.png">', 'b.png', { do: 'order', to: 'down' })).toContain('the last');
    expect(up('Text ![x](b.png) text\n', 'n.md')).toContain('it stands in a text');
  });
});

describe('captions', () => {
  const caption = (text: string, to: string | null) => edited(text, 'a.png', { do: 'caption', text: to });
  test('changed, taken away, added with a figure around what stands alone', () => {
    expect(caption('<figure><img src="a.png"><figcaption>Old</figcaption></figure>', 'A & <b>')).toBe(
      '<figure><img src="a.png"><figcaption>A &amp; &lt;b&gt;</figcaption></figure>',
    );
    expect(caption('<figure><img src="a.png">\n<figcaption>Old</figcaption>\n</figure>', null)).toBe(
      '<figure><img src="a.png">\n</figure>',
    );
    expect(caption('<p class="wide"><a href="b.png"><img src="a.png"></a></p>', 'New')).toBe(
      '<figure class="wide"><a href="b.png"><img src="a.png"></a><figcaption>New</figcaption></figure>',
    );
    expect(caption('<ul><li><img src="a.png"></li></ul>', 'New')).toBe(
      '<ul><li><figure><img src="a.png"><figcaption>New</figcaption></figure></li></ul>',
    );
    expect(caption('<div><img src="a.png"></div>', 'New')).toBe(
      '<div><figure><img src="a.png"><figcaption>New</figcaption></figure></div>',
    );
    expect(caption('<img src="a.png">', null)).toBe('as it was');
  });
  test('none is put into the middle of a text', () => {
    expect(caption('<p>One <img src="a.png"> two</p>', 'New')).toContain('it stands in a text');
    expect(caption('<div>One <img src="a.png"></div>', 'New')).toContain('it stands in a text');
    expect(edited('![x](a.png)\n', 'a.png', { do: 'caption', text: 'x' }, 'n.md')).toContain(
      'Markdown has no place',
    );
  });
});

describe('attributes, styles, tracks and a style sheet', () => {
  test('are set, replaced and taken away, on the element or on its figure', () => {
    const set = (text: string, of: object, values: object) =>
      edited(text, 'a.png', { do: 'attributes', ...of, set: values });
    expect(set('<img src="a.png" alt=old title="t">', {}, { alt: 'A "b"', title: null })).toBe(
      '<img src="a.png" alt="A &quot;b&quot;">',
    );
    expect(set('<img src="a.png">', {}, { class: 'wide', width: '3' })).toBe(
      '<img class="wide" width="3" src="a.png">',
    );
    const figure = '<figure><img src="a.png"><figcaption>C</figcaption></figure>';
    expect(set(figure, { of: 'outer' }, { class: 'wide' })).toBe(
      figure.replace('<figure>', '<figure class="wide">'),
    );
  });
  test('a background goes into the style that is there, whatever its quotes', () => {
    const behind = (text: string) =>
      editPage(
        'p.html',
        new TextEncoder().encode(text),
        [
          {
            do: 'style',
            start: text.indexOf('<div'),
            set: { 'background-image': 'url("a.png")', 'background-size': 'cover' },
          },
        ],
        style,
      );
    const text = (result: ReturnType<typeof editPage>) =>
      result && 'bytes' in result ? Buffer.from(result.bytes).toString() : JSON.stringify(result);
    expect(text(behind('<p>x</p><div>y</div>'))).toBe(
      '<p>x</p><div style="background-image: url(&quot;a.png&quot;); background-size: cover">y</div>',
    );
    expect(text(behind(`<div style='color: red;'>y</div>`))).toBe(
      `<div style='color: red; background-image: url("a.png"); background-size: cover'>y</div>`,
    );
    expect(text(behind('<div style=color:red>y</div>'))).toContain('without quotes');
  });
  test('a film gets captions in a language once', () => {
    const track = { src: 'media/talk.vtt', language: 'en', label: 'English' };
    const once = edited('<video src="a.png"></video>', 'a.png', { do: 'captions', track });
    expect(once).toBe(
      '<video src="a.png"><track kind="captions" src="media/talk.vtt" srclang="en" label="English" default></video>',
    );
    expect(edited(once, 'a.png', { do: 'captions', track })).toBe(once);
    expect(edited(once, 'a.png', { do: 'captions', track: null })).toBe('<video src="a.png"></video>');
    expect(edited('<img src="a.png">', 'a.png', { do: 'captions', track })).toContain('no film');
  });
  test('a style sheet is linked behind what the head holds', () => {
    expect(edited('<title>T</title><p>x</p>', '<', { do: 'sheet', href: 'placements.css' })).toBe(
      '<title>T</title><link rel="stylesheet" href="placements.css"><p>x</p>',
    );
    expect(edited('<p>x</p>', '<', { do: 'sheet', href: 'placements.css' })).toContain('no head');
  });
});
