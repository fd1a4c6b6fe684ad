import { describe, expect, test } from 'vitest';
import { cssRules, selectorsAt } from './css-rules.ts';
import { urls } from './test/reading.ts';

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

describe('what a rule holds for', () => {
  const at = (text: string, mark: string) => selectorsAt(cssRules(text), [text.indexOf(mark)])[0];
  test('the innermost rule around a place, within at-rules too', () => {
    const css =
      '/* .no { } */ @media print { .a, b > c { background: url(x) } } .d::before{content:url("y")} @font-face { src: url(f) }';
    expect(at(css, 'url(x)')).toBe('.a, b > c');
    expect(at(css, 'url("y")')).toBe('.d::before');
    expect(at(css, 'url(f)')).toBeUndefined();
  });
  test('sheets that are cut off or wrong are read as far as they go', () => {
    expect(at('.a { background: url(x', 'url(x')).toBe('.a');
    expect(at('} .b { x: url(z) } .c {{', 'url(z)')).toContain('.b');
    expect(cssRules('')).toEqual([]);
  });
});
