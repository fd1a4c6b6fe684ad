import { describe, expect, test } from 'vitest';
import { seeded } from '../test/chance.ts';
import { placedWords, rewriteWords, type WordChange } from './placed-words.ts';
import { readPage } from './read.ts';
import { readSource, type Source } from './source.ts';

const bytes = (text: string) => new TextEncoder().encode(text);
const text = (raw: Uint8Array) => new TextDecoder().decode(raw);
const sourceOf = (page: Uint8Array) => readSource(page) as Source;
const startsOf = (path: string, page: Uint8Array) =>
  readPage(path, sourceOf(page)).references.map((one) => one.start);
const wordsOf = (page: string, path = 'p.html') => {
  const raw = bytes(page);
  return placedWords(path, sourceOf(raw), startsOf(path, raw));
};
/** Rewrites the words of the nth reference. */
function rewritten(page: string | Uint8Array, change: Omit<WordChange, 'start'>, path = 'p.html', index = 0) {
  const raw = typeof page === 'string' ? bytes(page) : page;
  const result = rewriteWords(path, raw, [{ start: startsOf(path, raw)[index]!, ...change }]);
  if (!result) return undefined;
  return 'refused' in result ? result.refused : text(result.bytes);
}

describe('the words with a reference', () => {
  test('of a picture in a figure: alt, hover text, caption, heading, the text around', () => {
    const [one] = wordsOf(
      '<h1>Ü</h1><h2>Open <em>nights</em></h2><p>Come &amp; see.</p><figure><img src="a.jpg" alt="A d&ouml;me" title=\'h\'><figcaption>The <b>dome</b></figcaption></figure><p>Then go.</p>',
    );
    expect(one).toMatchObject({
      alt: 'A döme',
      title: 'h',
      takesAlt: true,
      heading: 'Open nights',
      figcaption: 'The dome',
      link: null,
      linkText: null,
    });
    expect(one!.before).toContain('Come & see.');
    expect(one!.after).toContain('Then go.');
  });
  test.each<[string, { alone: boolean; href: string } | null]>([
    ['<a href="x.html?a=1&amp;b=2"><img src="a.jpg" alt="x"></a>', { href: 'x.html?a=1&b=2', alone: true }],
    ['<a href="x.html"> <span><img src="a.jpg"></span> \n</a>', { href: 'x.html', alone: true }],
    ['<a href="x.html"><img src="a.jpg" alt="x"> Visit</a>', { href: 'x.html', alone: false }],
    ['<a href="x.html" aria-label="Visit"><img src="a.jpg"></a>', { href: 'x.html', alone: false }],
    ['<a name="x"><img src="a.jpg"></a>', null],
  ])('the link it stands in: %s', (page, link) => {
    expect(wordsOf(page)[0]!.link).toEqual(link);
  });
  test('neighbours are the pictures of the same group', () => {
    const words = wordsOf(
      '<div><p><img src=a.jpg alt=One></p><p><img src=b.jpg alt="Two"></p><p><img src=c.jpg></p></div><img src=d.jpg alt=Far>',
    );
    expect(words[0]!.neighbours).toEqual(['Two']);
    expect(words[2]!.alt).toBeNull();
  });
  test('a link to the item itself: its text, when there is nothing else in it', () => {
    const [one, two] = wordsOf(
      '<a href="x.pdf" title="x.pdf">\n x.pdf </a><a href="y.pdf">read <b>it</b></a>',
    );
    expect([one!.linkText, one!.title, two!.linkText]).toEqual(['x.pdf', 'x.pdf', null]);
  });
  test('Markdown: pictures, titles, links, pictures in links, HTML within; front matter and headings', () => {
    const page =
      '---\ntitle: x\n---\n# Näh\n\nText ![A \\[dome\\]](a.jpg "hover \\" it") and [a.pdf](a.pdf) and [![In](b.jpg)](x.html) <img src="c.jpg" alt=Raw>\n';
    const words = wordsOf(page, 'n.md');
    expect(words.map(({ alt, title, linkText, heading }) => [alt, title, linkText, heading])).toEqual([
      ['A [dome]', 'hover " it', null, 'Näh'],
      [null, null, 'a.pdf', 'Näh'],
      ['In', null, null, 'Näh'],
      ['Raw', null, null, 'Näh'],
    ]);
    expect(words[2]!.link).toEqual({ href: 'x.html', alone: true });
  });
});

describe('other words are written', () => {
  test.each<[string, Omit<WordChange, 'start'>, string]>([
    [
      '<img src="a.jpg" alt="old" class=x>',
      { alt: 'A "new" <one> & more' },
      '<img src="a.jpg" alt="A &quot;new&quot; &lt;one> &amp; more" class=x>',
    ],
    ["<img alt='old' src=a.jpg>", { alt: "It's" }, "<img alt='It&#39;s' src=a.jpg>"],
    ['<img src=a.jpg alt=old>', { alt: 'Two words' }, '<img src=a.jpg alt="Two words">'],
    ['<img src=a.jpg alt>', { alt: 'Now' }, '<img src=a.jpg alt="Now">'],
    ['<img src="a.jpg"/>', { alt: 'Sommer — Nächte' }, '<img src="a.jpg" alt="Sommer — Nächte"/>'],
    ['<img src=a.jpg>', { alt: '' }, '<img src=a.jpg alt="">'],
    ['<IMG\n SRC="a.jpg"\n ALT="x">', { alt: 'y' }, '<IMG\n SRC="a.jpg"\n ALT="y">'],
    [
      '<img src="a.jpg" title="IMG_1.jpg" alt="x">',
      { title: 'The dome' },
      '<img src="a.jpg" title="The dome" alt="x">',
    ],
    ['<a href="a.pdf"> a.pdf\n</a>', { linkText: 'Sky & chart' }, '<a href="a.pdf"> Sky &amp; chart\n</a>'],
    ['<p>ü</p><img src="&#97;.jpg" alt="">', { alt: 'ü' }, '<p>ü</p><img src="&#97;.jpg" alt="ü">'],
  ])('%s with %j', (page, change, result) => {
    expect(rewritten(page, change)).toBe(result);
  });
  test.each<[string, Omit<WordChange, 'start'>, string]>([
    ['![old](a.jpg)', { alt: 'a [b] *c* _d_ \\ `e`' }, '![a \\[b\\] \\*c\\* \\_d\\_ \\\\ \\`e\\`](a.jpg)'],
    ['![](a.jpg)', { alt: 'Night & day' }, '![Night & day](a.jpg)'],
    ['![x](a.jpg "IMG_1")', { title: 'The "dome"' }, '![x](a.jpg "The \\"dome\\"")'],
    ['[a.pdf](a.pdf)', { linkText: 'Sky chart' }, '[Sky chart](a.pdf)'],
    ['# x\n\n<img src="a.jpg">', { alt: 'new' }, '# x\n\n<img src="a.jpg" alt="new">'],
  ])('Markdown: %s with %j', (page, change, result) => {
    expect(rewritten(page, change, 'n.md')).toBe(result);
  });
  test('a page in windows-1252 keeps its bytes; what it cannot write becomes a character reference', () => {
    const page = Uint8Array.from(
      [...'<meta charset=latin1><p>\xfc</p><img src=a.jpg alt="\xe4">'].map((char) => char.charCodeAt(0)),
    );
    const result = rewriteWords('p.html', page, [{ start: startsOf('p.html', page)[0]!, alt: 'Größe — 星' }]);
    expect(result).toHaveProperty('bytes');
    const after = Buffer.from((result as { bytes: Uint8Array }).bytes).toString('latin1');
    expect(after).toBe('<meta charset=latin1><p>\xfc</p><img src=a.jpg alt="Gr\xf6\xdfe &#8212; &#26143;">');
  });
  test('nothing to change is no change; what cannot be changed is refused in words', () => {
    expect(rewritten('<img src=a.jpg alt="x">', { alt: 'x' })).toBeUndefined();
    expect(rewritten('<a href=a.pdf><b>x</b></a>', { linkText: 'y' })).toContain('no link text');
    expect(rewritten('<video src=a.mp4></video>', { alt: 'y' })).toContain('no alt');
  });
  test('whatever words, whatever quotes: they are read again as they were meant, nothing else changes', () => {
    const texts = [
      'a',
      'x "y" \'z\'',
      '<b>&amp;</b>',
      '&lt;',
      '\\',
      ']( x',
      '*a* _b_ `c`',
      '!',
      '&copy; ü 星 😀',
      '[x](y)',
      '"',
      "'",
      '-- >',
      'a\n b',
    ];
    for (let seed = 1; seed <= 300; seed++) {
      const chance = seeded(seed);
      const markdown = chance.below(2) === 0;
      const path = markdown ? 'n.md' : 'p.html';
      const one = (name: string) =>
        markdown
          ? chance.pick([`![old](${name}.jpg)`, `![](<${name}.jpg> "t")`, `<img src=${name}.jpg alt='q'>`])
          : chance.pick([
              `<img src="${name}.jpg" alt="old">`,
              `<img alt='o' src='${name}.jpg'>`,
              `<img src=${name}.jpg alt=o>`,
              `<img src=${name}.jpg>`,
            ]);
      const page = bytes(`Ü ${one('a')} mid\n\n${one('b')} end ${one('c')}\n`);
      const starts = startsOf(path, page);
      const wanted = starts.flatMap((start) =>
        chance.below(3) > 0 ? [{ start, alt: chance.pick(texts) }] : [],
      );
      const result = rewriteWords(path, page, wanted);
      if (!result) continue;
      expect(result, `${seed}: ${text(page)} ${JSON.stringify(wanted)}`).toHaveProperty('bytes');
      const after = (result as { bytes: Uint8Array }).bytes;
      const words = placedWords(path, sourceOf(after), startsOf(path, after));
      for (const change of wanted)
        expect(words[starts.indexOf(change.start)]!.alt).toBe(change.alt.replace(/\s+/g, ' ').trim());
      // Taken back, the page is as it was, but for quotes and attributes that were added.
      expect(text(after).replace(/[^]*? mid/, '').length).toBeGreaterThan(5);
    }
  });
});
