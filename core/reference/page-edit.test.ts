import { describe, expect, test } from 'vitest';
import { seeded } from '../test/chance.ts';
import { addressStyle, galleryHtml, readGalleryMark, type Placed } from './markup.ts';
import { editPage, elementsOf, markupFor, type PageEdit } from './page-edit.ts';
import { readPage } from './read.ts';
import { readSource } from './source.ts';

const bytesOf = (text: string, encoding: 'utf8' | 'latin1' = 'utf8') =>
  new Uint8Array(Buffer.from(text, encoding));
const textOf = (bytes: Uint8Array, encoding: 'utf8' | 'latin1' = 'utf8') =>
  Buffer.from(bytes).toString(encoding);
const style = (page: string, fromRoot = false) => addressStyle(page, fromRoot, (path) => path);
const moon: Placed = {
  path: 'img/moon & "co", full.jpg',
  kind: 'image',
  mime: 'image/jpeg',
  width: 1400,
  height: 1050,
  words: {
    alt: 'The <full> moon & "haze"',
    decorative: false,
    title: 'Moon',
    caption: 'Über dem Hügel – 星',
  },
};
const placing = { caption: true, classes: 'wide', shownWidth: 600 };

function edited(page: string, text: string, edits: PageEdit[], encoding: 'utf8' | 'latin1' = 'utf8') {
  const result = editPage(page, bytesOf(text, encoding), edits, style(page));
  if (!result) return undefined;
  return 'refused' in result ? result : textOf(result.bytes, encoding);
}
const at = (text: string, mark: string) => Buffer.byteLength(text.slice(0, text.indexOf(mark)));

describe('smaller sizes beside a picture', () => {
  const sizes = [
    { path: 'img/a.jpg', width: 2000 },
    { path: 'img/a-480.jpg', width: 480 },
  ];
  const offer = (page: string, text: string, shownWidth = 600) =>
    edited(page, text, [{ do: 'offer', start: at(text, 'img/a.jpg'), sizes, shownWidth }]);
  const list = (to = '') =>
    `srcset="${to}img/a-480.jpg 480w, ${to}img/a.jpg 2000w" sizes="(max-width: 600px) 100vw, 600px"`;

  test('all else of the element stays, however it is written', () => {
    for (const [before, after] of [
      ['<img src="img/a.jpg" alt="x">', `<img src="img/a.jpg" ${list()} alt="x">`],
      [
        "<p>ä<IMG\n alt='' SRC = 'img/a.jpg'\n/></p>",
        `<p>ä<IMG\n alt='' SRC = 'img/a.jpg' ${list()}\n/></p>`,
      ],
      ['<img src=img/a.jpg>', `<img src=img/a.jpg ${list()}>`],
      ['<template><img src="img/a.jpg"></template>', `<template><img src="img/a.jpg" ${list()}></template>`],
    ] as const)
      expect(offer('p.html', before)).toBe(after);
  });
  test('addresses are as the page needs them', () => {
    expect(
      edited('sub/p.html', '<img src="../img/a.jpg">', [{ do: 'offer', start: 10, sizes, shownWidth: 600 }]),
    ).toBe(`<img src="../img/a.jpg" ${list('../')}>`);
  });
  test('where there is a list already, or several sources, nothing is done and it is said', () => {
    for (const text of [
      '<img src="img/a.jpg" srcset="img/a.jpg 2x">',
      '<img src="img/a.jpg" sizes="50vw">',
      '<picture><source srcset="b.webp"><img src="img/a.jpg"></picture>',
      '<video poster="img/a.jpg"></video>',
    ])
      expect(offer('p.html', text), text).toEqual({ refused: expect.stringContaining('At line 1') });
  });
  test('several pictures of one page at once', () => {
    const text = '<img src="img/a.jpg"><img src="img/a.jpg" width="9">';
    const starts = [at(text, 'img/a.jpg'), text.lastIndexOf('img/a.jpg')];
    expect(
      edited(
        'p.html',
        text,
        starts.map((start) => ({ do: 'offer', start, sizes, shownWidth: 600 })),
      ),
    ).toBe(`<img src="img/a.jpg" ${list()}><img src="img/a.jpg" ${list()} width="9">`);
  });
});

describe('placing', () => {
  test('before a block on its own line: indented alike, with the page’s line ends, nothing else changes', () => {
    const page = '\ufeff<main>\r\n    <p>ä</p>\r\n    <h2>x</h2>\r\n</main>\r\n';
    const lines = markupFor('sub/p.html', moon, placing, style('sub/p.html'));
    const out = edited('sub/p.html', page, [{ do: 'insert', at: at(page, '<h2>'), lines, what: 'image' }]);
    expect(out).toBe(
      '\ufeff<main>\r\n    <p>ä</p>\r\n    <figure class="wide">\r\n' +
        '      <img src="../img/moon%20%26%20%22co%22%2C%20full.jpg" alt="The &lt;full&gt; moon &amp; &quot;haze&quot;" width="600" height="450" loading="lazy">\r\n' +
        '      <figcaption>Über dem Hügel – 星</figcaption>\r\n    </figure>\r\n    <h2>x</h2>\r\n</main>\r\n',
    );
  });
  test('behind the last block, and in the middle of a line', () => {
    const page = '<main><p>a</p></main>';
    const lines = ['<hr>'];
    expect(edited('p.html', page, [{ do: 'insert', at: at(page, '</main>'), lines, what: 'x' }])).toBe(
      '<main><p>a</p>\n<hr></main>',
    );
  });
  test('a single-byte page takes what it lacks as character references', () => {
    const page = '<meta charset="iso-8859-1"><p>\u00e4</p><p>b</p>';
    const lines = markupFor('p.html', moon, placing, style('p.html'));
    const out = edited(
      'p.html',
      page,
      [{ do: 'insert', at: page.indexOf('<p>b'), lines, what: 'x' }],
      'latin1',
    );
    expect(out).toContain('<figcaption>Über dem Hügel &#8211; &#26143;</figcaption>');
  });
  test('a picture without words gets no alt attribute; a decorative one an empty one', () => {
    const words = { alt: '', decorative: false, title: '', caption: '' };
    const html = (decorative: boolean) =>
      markupFor(
        'p.html',
        { ...moon, words: { ...words, decorative } },
        { ...placing, classes: '' },
        style('p.html'),
      ).join('\n');
    expect(html(false)).not.toContain('alt=');
    expect(html(true)).toContain(' alt="" ');
    expect(html(true)).not.toContain('figure');
  });
  test('other sizes, films, sounds and documents', () => {
    const sized = {
      ...moon,
      path: 'm-1200.jpg',
      sizes: [
        { path: 'm-1200.jpg', width: 1200 },
        { path: 'm-480.jpg', width: 480 },
      ],
    };
    expect(markupFor('p.html', sized, { ...placing, caption: false }, style('p.html', true))[0]).toContain(
      'src="/m-1200.jpg" srcset="/m-480.jpg 480w, /m-1200.jpg 1200w" sizes="(max-width: 600px) 100vw, 600px"',
    );
    const film = { ...moon, path: 'f.mp4', kind: 'video' as const, mime: 'video/mp4' };
    expect(markupFor('p.html', film, { ...placing, caption: false, classes: '' }, style('p.html'))).toEqual([
      '<video src="f.mp4" width="1400" height="1050" controls preload="metadata" aria-label="Moon"></video>',
    ]);
    const paper = {
      ...moon,
      path: 'docs/sky-chart_2024.pdf',
      kind: 'document' as const,
      words: { ...moon.words, title: '' },
    };
    expect(markupFor('p.html', paper, { ...placing, classes: '' }, style('p.html'))).toEqual([
      '<p><a href="docs/sky-chart_2024.pdf">Sky chart 2024</a></p>',
    ]);
    expect(markupFor('notes/n.md', paper, placing, style('notes/n.md'))).toEqual([
      '[Sky chart 2024](../docs/sky-chart_2024.pdf)',
    ]);
    // How heavy it is, where that is known.
    const weighed = { ...paper, linkText: 'Sky chart 2024 (PDF, 340 kB)' };
    expect(markupFor('p.html', weighed, { ...placing, classes: '' }, style('p.html'))).toEqual([
      '<p><a href="docs/sky-chart_2024.pdf">Sky chart 2024 (PDF, 340 kB)</a></p>',
    ]);
    expect(markupFor('notes/n.md', weighed, placing, style('notes/n.md'))).toEqual([
      '[Sky chart 2024 (PDF, 340 kB)](../docs/sky-chart_2024.pdf)',
    ]);
  });
  test('Markdown: between two paragraphs, with empty lines around', () => {
    const page = '# T\n\nOne.\n\nTwo.\n';
    const lines = markupFor('n.md', moon, placing, style('n.md'));
    expect(edited('n.md', page, [{ do: 'insert', at: page.indexOf('Two'), lines, what: 'x' }])).toBe(
      '# T\n\nOne.\n\n![The \\<full\\> moon & "haze"](img/moon%20%26%20%22co%22%2C%20full.jpg)\n\n*Über dem Hügel – 星*\n\nTwo.\n',
    );
    expect(edited('n.md', 'One.', [{ do: 'insert', at: 4, lines: ['x'], what: 'x' }])).toBe('One.\n\nx\n');
  });
  test.each([
    ['inside a tag', '<p class="a">b</p>', 5],
    ['inside a comment', '<!-- here --><img src=a.png>', 6],
    ['inside an address', '<img src="a/b.png">', 12],
  ])('a spot %s is refused, with a reason', (_where, page, spot) => {
    const lines = ['<img src="x.png"><img src="y.png">'];
    const out = editPage(
      'p.html',
      bytesOf(page),
      [{ do: 'insert', at: spot, lines, what: 'x' }],
      style('p.html'),
    );
    const harmless = out && 'bytes' in out && /<!--[^]*x\.png[^]*-->/.test(textOf(out.bytes));
    expect(out && 'refused' in out ? out.refused : harmless).toBeTruthy();
  });
});

describe('changing what stands there', () => {
  const page =
    '<p><a href="x.html"><IMG class=left src="old.jpg" srcset="old-2.jpg 2x" sizes="10vw" alt="old" width=200 height=100 id="i"></a>' +
    '<picture><source srcset="s.webp"><img src="t.jpg"></picture></p>';
  test('another picture: the element keeps what is its own', () => {
    expect(
      edited('p.html', page, [
        { do: 'exchange', start: at(page, 'old.jpg'), item: { ...moon, path: 'new.jpg' }, shownWidth: null },
      ]),
    ).toBe(
      page.replace(
        '<IMG class=left src="old.jpg" srcset="old-2.jpg 2x" sizes="10vw" alt="old" width=200 height=100 id="i">',
        '<IMG src="new.jpg" alt="The &lt;full&gt; moon &amp; &quot;haze&quot;" width="1400" height="1050" class=left id="i">',
      ),
    );
    const inPicture = edited('p.html', page, [
      { do: 'exchange', start: at(page, 't.jpg'), item: moon, shownWidth: null },
    ]);
    expect(inPicture).toMatchObject({ refused: expect.stringContaining('picture element') as string });
  });
  test('width and height follow only where they were the old ones', () => {
    const resize = (from: { width: number; height: number }) =>
      edited('p.html', page, [
        { do: 'resize', start: at(page, 'old.jpg'), from, to: { width: 300, height: 90 } },
      ]);
    expect(resize({ width: 200, height: 100 })).toBe(
      page.replace('width=200 height=100', 'width=300 height=90'),
    );
    expect(resize({ width: 400, height: 200 })).toBeUndefined();
  });
  test.each([
    ['<img src="a.png">', '<img style="object-position: 30% 40%" src="a.png">'],
    [
      '<img style="color: red;" src="a.png">',
      '<img style="color: red; object-position: 30% 40%" src="a.png">',
    ],
    [
      "<img src='a.png' style='object-position:left; x: y'>",
      "<img src='a.png' style='object-position: 30% 40%; x: y'>",
    ],
    ['<img src="a.png" style="">', '<img src="a.png" style="object-position: 30% 40%">'],
    ['<img src="a.png" style="object-position: 30% 40%">', undefined],
  ])('focal point: %s', (before, after) => {
    expect(edited('p.html', before, [{ do: 'focus', start: at(before, 'a.png'), position: '30% 40%' }])).toBe(
      after,
    );
  });
});

test('a gallery is read again as it was made', () => {
  for (const from of [{ folder: 'bilder ö/a b' }, { tag: 'Äpfel & "Birnen"' }, { gathered: true as const }]) {
    const gallery = { from, side: 240, quality: 70, captions: true, classes: 'wide' };
    const small = { path: 'img/s.jpg', width: 240, height: 180 };
    const html = galleryHtml(
      gallery,
      [
        { ...moon, small },
        { ...moon, words: { ...moon.words, alt: '', title: 'A' }, small },
      ],
      style('p.html'),
    ).join('\n');
    const source = readSource(bytesOf(html));
    if ('unread' in source) throw new Error(source.unread);
    const [list] = elementsOf(source).filter((one) => one.name === 'ul');
    const value = (name: string) => list!.node.attrs.find((one) => one.name === name)!.value;
    expect(readGalleryMark(value('data-gallery'), value('class'))).toEqual(gallery);
    const found = readPage('p.html', source).references;
    expect(found.map((one) => one.place)).toEqual(['a href', 'img src', 'a href', 'img src']);
    expect(html).not.toContain('alt=""');
  }
  expect(readGalleryMark('folder=a', '')).toBeUndefined();
});

test('whatever is placed wherever on whatever page: the rest is read as before, or the edit is refused', () => {
  const PIECES = [
    '<p>ä ',
    '</p>',
    '<img src="a.png" alt="ü">',
    '<div>',
    '</div>',
    '<!-- c -->',
    '\r\n',
    '  ',
    '<style>p{b:url(s.png)}</style>',
    '<a href=b.pdf>x</a>',
    '<table><tr><td>',
    '</table>',
    '&amp;',
    '<script>var x = "<p>";</script>',
    '<br/>',
    "<b title='",
  ];
  let done = 0;
  let refused = 0;
  for (let seed = 1; seed <= 1500; seed++) {
    const next = seeded(seed * 104729).below;
    const text = Array.from({ length: 4 + next(12) }, () => PIECES[next(PIECES.length)]!).join('');
    const bytes = bytesOf(text);
    const spot = next(bytes.length + 1);
    const page = next(4) === 0 ? 'n.md' : 'p.html';
    const lines = markupFor(page, moon, { ...placing, caption: next(2) === 0 }, style(page));
    const result = editPage(page, bytes, [{ do: 'insert', at: spot, lines, what: 'x' }], style(page));
    if (!result || 'refused' in result) {
      refused++;
      continue;
    }
    done++;
    const [change] = result.changes;
    const inserted = change!.insert.length;
    // Every other byte is where it was.
    expect(Buffer.compare(result.bytes.subarray(0, spot), bytes.subarray(0, spot)), `seed ${seed}`).toBe(0);
    expect(Buffer.compare(result.bytes.subarray(spot + inserted), bytes.subarray(spot)), `seed ${seed}`).toBe(
      0,
    );
    const read = (content: Uint8Array) => {
      const source = readSource(content);
      if ('unread' in source) throw new Error(source.unread);
      return readPage(page, source, true).references;
    };
    const others = read(result.bytes).filter((one) => one.start < spot || one.start >= spot + inserted);
    expect(
      others.map((one) => one.url),
      `seed ${seed}: ${text}`,
    ).toEqual(read(bytes).map((one) => one.url));
  }
  expect(done).toBeGreaterThan(400);
  expect(refused).toBeGreaterThan(20);
});
