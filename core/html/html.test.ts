import { describe, expect, it } from 'vitest';
import { KEPT_BLOCK, KEPT_INLINE, type RichNode } from '../document/rich.ts';
import { BOX, readHtml } from './read-html.ts';
import { writeHtml } from './write-html.ts';

const PAGE = `<!doctype html>
<html lang=en>
<head><title>Visit</title><script>let p = "<main>";</script></head>
<body class="wide">
<header><p>Not edited here</p></header>
<main id=top>
  <h1 class="big">Visit  us</h1>
  <!-- the way -->
  <P CLASS='lead'>From the <em>bus&nbsp;stop</em> at
     <a href="water.html" target=_blank rel="noopener">Corvane Water</a> it is a
     walk of twenty minutes&hellip;
  <p>Open <b class="x">Fridays</b> <span data-when='dusk'>from <i>dusk</i></span>.<br>
     Four crowns</p>
  <ul class=list>
    <li><img src=clock.svg alt="A clock"> Fridays</li>
    <li>Four crowns
      <ol start=3><li>children free</ol>
    <li><p>Line 12</p></li>
  </ul>
  <form action="/go"><input name=q></form>
  <div class="two"><section>
    Loose text <svg width=1><path d=""/></svg> here
    <p>Inner</p>
  </section></div>
  <table border=1><caption>Prices</caption>
    <thead><tr><th>Who<th>Price</thead>
    <tbody>
    <tr><td>Adults</td><td align=right>4</td></tr>
    <tr><td>Children</td><td align=right>0</td></tr>
    </tbody>
  </table>
  <hr class="end">
</main>
<footer>Imprint</footer>
</body>
</html>
`;
const FRAGMENT = '<p>One</p>\n<p>Two &amp; three</p>\n';

type Editable = RichNode & { content: Editable[] };
const of = (text: string) => {
  const read = readHtml(text);
  return { read, doc: structuredClone(read.doc) as Editable };
};
/** All nodes of a type, in order. */
const all = (node: RichNode, type: string): Editable[] => [
  ...(node.type === type ? [node as Editable] : []),
  ...(node.content ?? []).flatMap((one) => all(one, type)),
];
const words = (node: RichNode): string => node.text ?? (node.content ?? []).map(words).join('');
/** The paragraph, heading or cell whose words begin so. */
const that = (doc: RichNode, start: string): Editable =>
  [...all(doc, 'paragraph'), ...all(doc, 'heading')].find((node) => words(node).startsWith(start))!;
function replace(node: RichNode, one: string, by: string) {
  const text = (node.content ?? []).find((part) => part.text?.includes(one))!;
  text.text = text.text!.replace(one, by);
}
/** What is written, which reads as what the editor held. */
function written(read: ReturnType<typeof readHtml>, doc: RichNode): string {
  const { text, differs } = writeHtml(read, doc);
  expect(differs).toBeUndefined();
  return text;
}
const paragraph = (text: string): Editable => ({
  type: 'paragraph',
  content: [{ type: 'text', text } as Editable],
});

describe('reading HTML', () => {
  it('shows what the main part of a page holds, and keeps what it has no form for', () => {
    const { read, doc } = of(PAGE);
    expect(read.part).toBe('main');
    expect(doc.content.map(({ type }) => type)).toEqual([
      'heading',
      'paragraph',
      'paragraph',
      'bulletList',
      KEPT_BLOCK,
      BOX,
      'table',
      'horizontalRule',
    ]);
    expect(words(doc.content[1]!)).toBe(
      'From the bus\u00a0stop at Corvane Water it is a walk of twenty minutes…',
    );
    expect(read.asItIs).toEqual([
      { what: 'form', times: 1 },
      { what: 'drawing', times: 1 },
    ]);
    expect(all(doc, KEPT_INLINE)).toHaveLength(1);
    expect(words(doc)).not.toContain('Not edited here');
  });

  it('reads a fragment whole, and a page whose tags are left out', () => {
    expect(of(FRAGMENT).read.part).toBeNull();
    const { read, doc } = of('<!doctype html><title>x</title><p>One<p>Two');
    expect(read.part).toBe('body');
    expect(doc.content.map(words)).toEqual(['One', 'Two']);
  });

  it('keeps a place that a browser has to mend', () => {
    const text = '<p>Good</p><div><b>Open <p>across</b> blocks</div><p>Good too</p>';
    const { read, doc } = of(text);
    expect(doc.content.map(({ type }) => type)).toEqual(['paragraph', KEPT_BLOCK, 'paragraph']);
    replace(doc.content[2]!, 'too', 'as well');
    expect(written(read, doc)).toBe(text.replace('Good too', 'Good as well'));
  });

  it('passes over an end tag of nothing', () => {
    const text = '<p>One <div>two</div></p><p>Three</p>';
    const { read, doc } = of(text);
    expect(doc.content.map(({ type }) => type)).toEqual(['paragraph', BOX, 'paragraph']);
    replace(doc.content[2]!, 'Three', 'Four');
    expect(written(read, doc)).toBe(text.replace('Three', 'Four'));
  });

  it.each([
    ['stray end tags', '<p>One</b> two</p><p>Three</p></p>'],
    ['text in tables', '<table>lost<tr><td>1</td></tr></table><p>x</p>'],
    ['deep nesting', `${'<div>'.repeat(3000)}x`],
    ['nothing', ''],
    ['only blanks', '  \n '],
    ['open comments', '<p>One</p><!-- open <p>Two</p>'],
    ['tags cut off', '<p>One</p><p class="x'],
    ['templates', '<ul>{% for one in all %}<li>{{ one.title }}</li>{% endfor %}</ul><p>{{ text }}</p>'],
    ['NUL and references to nothing', '<p>a&#0;b&bogus;c &copy d&#xD800;</p>'],
  ])('leaves %s as written', (_, text) => {
    const { read, doc } = of(text);
    expect(written(read, doc)).toBe(text);
  });
});

describe('writing HTML', () => {
  it('writes nothing else when nothing is changed', () => {
    const { read, doc } = of(PAGE);
    expect(written(read, doc)).toBe(PAGE);
  });

  it.each([
    ['Visit us', 'Visit', 'Find', 'Visit  us', 'Find  us'],
    ['From the bus', 'walk', 'way', 'walk of', 'way of'],
    ['Open Fridays', 'Four crowns', 'Five crowns', 'Four crowns</p>', 'Five crowns</p>'],
    ['Line 12', '12', '14', 'Line 12', 'Line 14'],
    ['children free', 'free', 'half', 'children free', 'children half'],
    ['Loose text', 'here', 'there', '</svg> here', '</svg> there'],
    ['Adults', 'Adults', 'Grown-ups & <all>', 'Adults', 'Grown-ups &amp; &lt;all&gt;'],
  ])('of a changed word in “%s”, that word alone', (start, one, by, before, after) => {
    const { read, doc } = of(PAGE);
    replace(that(doc, start), one, by);
    expect(written(read, doc)).toBe(PAGE.replace(before, after));
  });

  it('keeps a link’s other attributes when its address changes, and an image’s when its alt text does', () => {
    const { read, doc } = of(PAGE);
    for (const text of that(doc, 'From the').content)
      for (const mark of text.marks ?? []) if (mark.type === 'link') mark.attrs!['href'] = '/pools & more';
    all(doc, 'image')[0]!.attrs!['alt'] = 'Clock “at dusk”';
    expect(written(read, doc)).toBe(
      PAGE.replace('href="water.html"', 'href="/pools &amp; more"').replace('"A clock"', '"Clock “at dusk”"'),
    );
  });

  it('gives no image an alt text of nothing that had none', () => {
    const { read, doc } = of('<p><img src=a.png> old</p>');
    replace(doc.content[0]!, 'old', 'new');
    expect(written(read, doc)).toBe('<p><img src=a.png> new</p>');
  });

  it('puts new blocks where the others stand, laid out like them', () => {
    const { read, doc } = of(PAGE);
    doc.content.splice(1, 0, paragraph('New here'));
    const items = all(doc, 'bulletList')[0]!.content;
    items.push({ type: 'listItem', content: [paragraph('Parking')] });
    expect(written(read, doc)).toBe(
      PAGE.replace('Visit  us</h1>\n', 'Visit  us</h1>\n  <p>New here</p>\n').replace(
        '<li><p>Line 12</p></li>\n',
        '<li><p>Line 12</p></li>\n    <li>Parking</li>\n',
      ),
    );
  });

  it('adds a row to the body of a table, and takes one out', () => {
    const { read, doc } = of(PAGE);
    const table = all(doc, 'table')[0]!;
    const row = (...cells: string[]): Editable => ({
      type: 'tableRow',
      content: cells.map((text) => ({ type: 'tableCell', content: [paragraph(text)] })),
    });
    table.content.splice(1, 1, row('Schools', '2'));
    table.content.push(row('Dogs', '0'));
    expect(written(read, doc)).toBe(
      PAGE.replace(
        '<tr><td>Adults</td><td align=right>4</td></tr>',
        '<tr><td>Schools</td><td>2</td></tr>',
      ).replace(
        '<tr><td>Children</td><td align=right>0</td></tr>\n',
        '<tr><td>Children</td><td align=right>0</td></tr>\n    <tr><td>Dogs</td><td>0</td></tr>\n',
      ),
    );
  });

  it('keeps the look of a paragraph that is split or made a heading, and gives no id twice', () => {
    const { read, doc } = of('<p id="a" class="lead">One two</p>');
    const attrs = doc.content[0]!.attrs!;
    doc.content = [
      { type: 'heading', attrs: { ...attrs, level: 2 }, content: paragraph('One').content },
      { ...paragraph('two'), attrs },
    ];
    expect(written(read, doc)).toBe('<h2 id="a" class="lead">One</h2>\n<p class="lead">two</p>');
  });

  it('writes nothing of an empty paragraph that came of one that stays, and keeps one that stood there', () => {
    const { read, doc } = of('<p class="a">One</p>\n<p></p>\n<p>Two</p>');
    const empty = { type: 'paragraph', attrs: doc.content[0]!.attrs! } as Editable;
    doc.content.splice(0, 0, empty);
    replace(doc.content[1]!, 'One', 'Once');
    expect(written(read, doc)).toBe('<p class="a">Once</p>\n<p></p>\n<p>Two</p>');
  });

  it('nests marks as they were, and new ones within', () => {
    const { read, doc } = of(
      '<p><span class="a"><em>all of it</em></span> <i class=b>one</i><i class=b>two</i></p>',
    );
    const [first] = doc.content[0]!.content;
    first!.marks!.push({ type: 'bold' });
    replace(doc.content[0]!, 'two', 'three');
    expect(written(read, doc)).toBe(
      '<p><span class="a"><em><strong>all of it</strong></em></span> <i class=b>one</i><i class=b>three</i></p>',
    );
  });

  it('writes links, images, lists and line breaks that are new', () => {
    const { read, doc } = of('<p>One</p>');
    doc.content.push(
      {
        type: 'paragraph',
        content: [
          { type: 'text', text: 'See ' },
          { type: 'text', text: 'this', marks: [{ type: 'link', attrs: { href: 'a.html?x=1&y="2"' } }] },
          { type: 'hardBreak' },
          { type: 'image', attrs: { src: 'b.png', alt: 'B', width: 20, height: 10 } },
        ] as Editable[],
      },
      {
        type: 'orderedList',
        attrs: { start: 3 },
        content: [{ type: 'listItem', content: [paragraph('Three')] }],
      },
    );
    expect(written(read, doc)).toBe(
      '<p>One</p>\n<p>See <a href="a.html?x=1&amp;y=&quot;2&quot;">this</a><br><img src="b.png" alt="B" width="20" height="10"></p>\n' +
        '<ol start="3">\n<li>Three</li>\n</ol>',
    );
  });

  it('keeps what it has no form for, wherever that is moved', () => {
    const { read, doc } = of(PAGE);
    const [form] = doc.content.splice(4, 1);
    doc.content.push(form!);
    expect(written(read, doc)).toContain(
      '<hr class="end">\n  <form action="/go"><input name=q></form>\n</main>',
    );
  });

  it('lets no text become markup', () => {
    const { read, doc } = of('<p>One</p>');
    replace(doc.content[0]!, 'One', '<script>alert(1)</script> &lt;b&gt;');
    expect(written(read, doc)).toBe('<p>&lt;script&gt;alert(1)&lt;/script&gt; &amp;lt;b&amp;gt;</p>');
  });

  it('says what HTML can’t say as it looks', () => {
    const { read, doc } = of('<p>One</p>');
    // A list within a heading isn't one any more once it is read.
    doc.content = [
      {
        type: 'box',
        content: [
          {
            type: 'heading',
            attrs: { level: 1 },
            content: [{ type: 'image', attrs: { src: '' }, content: [] }],
          },
        ],
      },
    ];
    doc.content[0]!.attrs = { name: 'section' };
    expect(writeHtml(read, doc).differs).not.toBeUndefined();
  });
});

describe('any edit of a page', () => {
  const random = (seed: number) => () => {
    seed = (Math.imul(seed, 1103515245) + 12345) >>> 0;
    return (seed >>> 8) / 0x1000000;
  };
  it.each(Array.from({ length: 60 }, (_, seed) => seed))(
    'reads again as it was left, and keeps all else (seed %i)',
    (seed) => {
      const { read, doc } = of(PAGE);
      const next = random(seed * 7919 + 1);
      const some = <One>(list: readonly One[]): One => list[Math.floor(next() * list.length)]!;
      const flows = () =>
        [doc, ...all(doc, BOX), ...all(doc, 'listItem')].filter(({ content }) => content.length > 0);
      for (let times = 1 + Math.floor(next() * 6); times > 0; times--) {
        const flow = some(flows());
        const at = Math.floor(next() * flow.content.length);
        const what = Math.floor(next() * 6);
        const texts = all(doc, 'paragraph').filter(({ content }) => content?.some(({ text }) => text));
        if (what === 0) flow.content.splice(at, 0, paragraph(`new ${times}`));
        else if (
          what === 1 &&
          flow.content.length > 1 &&
          flow.content[at]!.type !== KEPT_BLOCK &&
          all(flow.content[at]!, KEPT_INLINE).length === 0
        )
          flow.content.splice(at, 1);
        else if (what === 2) some(some(texts).content.filter(({ text }) => text)).text = `other ${times}`;
        else if (what === 3) some(some(texts).content.filter(({ text }) => text)).marks = [{ type: 'bold' }];
        else if (what === 4)
          doc.content.push(...doc.content.splice(Math.floor(next() * doc.content.length), 1));
        else if (flow.content[at]!.type === 'paragraph')
          flow.content[at] = {
            ...flow.content[at]!,
            type: 'heading',
            attrs: { ...flow.content[at]!.attrs, level: 2 },
          };
      }
      const text = written(read, doc);
      expect(text.startsWith(PAGE.slice(0, PAGE.indexOf('<main')))).toBe(true);
      expect(text.endsWith(PAGE.slice(PAGE.indexOf('</main>')))).toBe(true);
      expect(text).toContain('<form action="/go"><input name=q></form>');
      expect(text).toContain('<!-- the way -->');
    },
  );
});
