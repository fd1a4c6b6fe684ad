import { describe, expect, test } from 'vitest';
import { safeDrawing } from './svg.ts';

const svg = (inside: string, attributes = '') =>
  `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="9" height="9"${attributes}>${inside}</svg>`;

describe('drawings made safe', () => {
  test.each<[string, string, string]>([
    ['a script', svg('<script>alert(1)</script><rect/>'), 'scripts'],
    [
      'a script of another name space',
      svg('<x:script xmlns:x="http://www.w3.org/2000/svg">1</x:script>'),
      'scripts',
    ],
    ['a handler', svg('<rect onclick="alert(1)"/>'), 'event handlers'],
    ['a handler on the root, in capitals', svg('', ' ONLOAD="alert(1)"'), 'event handlers'],
    ['a script address', svg('<a xlink:href="java\nscript:alert(1)"><rect/></a>'), ''],
    ['a script address, hidden', svg('<a href="&#106;avascript:alert(1)"><rect/></a>'), 'scripts'],
    [
      'foreign content',
      svg(
        '<foreignObject><body xmlns="http://www.w3.org/1999/xhtml"><img src="x" onerror="alert(1)"/></body></foreignObject>',
      ),
      'foreign content',
    ],
    ['an image from elsewhere', svg('<image href="http://tracker.example/x.png"/>'), 'loads from elsewhere'],
    ['another drawing', svg('<use xlink:href="other.svg#a"/>'), 'loads from elsewhere'],
    ['a page as data', svg('<image href="data:text/html,alert(1)"/>'), ''],
    [
      'an import',
      svg('<style>@import url(http://x.example/a.css); rect{fill:red}</style>'),
      'loads from elsewhere',
    ],
    ['a style that loads', svg('<rect style="fill:url(http://x.example/a.svg#g)"/>'), 'loads from elsewhere'],
    ['a fill that loads', svg('<rect fill="url( \'http://x.example/a.svg#g\' )"/>'), 'loads from elsewhere'],
    [
      'an animated link',
      svg('<a><animate attributeName="href" to="javascript:alert(1)"/></a>'),
      'animated links',
    ],
    ['an animated handler', svg('<set attributeName="onclick" to="alert(1)"/>'), 'animated links'],
    [
      'an entity of the disk',
      `<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]>${svg('<text>&x;</text>')}`,
      'entities',
    ],
    [
      'an entity that holds a script',
      `<!DOCTYPE svg [<!ENTITY x "<script>alert(1)</script>">]>${svg('&x;')}`,
      'scripts',
    ],
    [
      'an instruction',
      `<?xml-stylesheet href="http://x.example/a.css"?>${svg('<rect/>')}`,
      'instructions to programs',
    ],
  ])('%s goes', (_what, source, removed) => {
    const safe = safeDrawing(source);
    expect(safe.text).not.toMatch(
      /alert|script|https?:\/\/(?!www\.w3\.org)|passwd|other\.svg|onclick|onerror|ENTITY|stylesheet/i,
    );
    if (removed) expect(safe.removed).toContain(removed);
    expect(safe.removed.length).toBeGreaterThan(0);
    // Made safe once, there is nothing left to take out.
    expect(safeDrawing(safe.text).removed).toEqual([]);
  });

  test('what draws stays: gradients, references inside, images as data, styles, text, links', () => {
    const source = svg(
      `<defs><linearGradient id="g"><stop offset="0" stop-color="#fff"/></linearGradient></defs>
       <style>.a{fill:url(#g);stroke:red}</style><rect class="a" fill="url(#g)" style="opacity:.5"/>
       <image href="data:image/png;base64,AAAA"/><use xlink:href="#g"/><text>Größe &amp; &lt;mehr&gt;</text>
       <a href="https://www.w3.org/"><circle r="1"/></a>`,
      ' viewBox="0 0 9 9"',
    );
    const { text, removed } = safeDrawing(source);
    expect(removed).toEqual([]);
    for (const part of [
      'viewBox="0 0 9 9"',
      '<linearGradient id="g">',
      'fill:url(#g)',
      'fill="url(#g)"',
      'opacity:.5',
      'data:image/png;base64,AAAA',
      'xlink:href="#g"',
      'Größe &amp; &lt;mehr&gt;',
      'href="https://www.w3.org/"',
    ])
      expect(text).toContain(part);
  });

  test('entities that a drawing program wrote are put in; growing and circular ones are refused', () => {
    const own = `<!DOCTYPE svg [<!ENTITY ns "http://www.w3.org/2000/svg"><!ENTITY c "#123456">]><svg xmlns="&ns;"><rect fill="&c;"/></svg>`;
    expect(safeDrawing(own).text).toContain('fill="#123456"');
    const levels = Array.from({ length: 7 }, (_, i) => `<!ENTITY l${i + 1} "${`&l${i};`.repeat(30)}">`).join(
      '',
    );
    expect(() =>
      safeDrawing(`<!DOCTYPE svg [<!ENTITY l0 "lol">${levels}]>${svg('<text>&l7;</text>')}`),
    ).toThrow(/without bound/);
    expect(() =>
      safeDrawing(`<!DOCTYPE svg [<!ENTITY a "&b;"><!ENTITY b "&a;">]>${svg('<text>&a;</text>')}`),
    ).toThrow(/hold one another/);
  });

  test.each([
    '',
    'no drawing',
    '<html xmlns="http://www.w3.org/1999/xhtml"/>',
    '<svg',
    svg('<rect>'),
    svg('&none;'),
  ])('what is no whole drawing is refused: %s', (source) => expect(() => safeDrawing(source)).toThrow());

  test('what is nested too deeply, or begins again and again, is refused at once', () => {
    expect(() => safeDrawing(svg(`${'<g>'.repeat(50_000)}${'</g>'.repeat(50_000)}`))).toThrow(
      /nested too deeply/,
    );
    expect(() => safeDrawing(`${'<!DOCTYPE ['.repeat(50_000)}${svg('<rect/>')}`)).toThrow();
    expect(() =>
      safeDrawing(`<!DOCTYPE svg [${'<!ENTITY a SYSTEM '.repeat(20_000)}]>${svg('<rect/>')}`),
    ).toThrow(/document type is too long/);
  });
});
