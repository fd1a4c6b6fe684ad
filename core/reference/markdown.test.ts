import { describe, expect, test } from 'vitest';
import { readPage } from './read.ts';
import { SiteMap } from './resolve.ts';
import { placementsOf } from './survey.ts';
import { references, sourceOf, urls, utf8 } from './test/reading.ts';

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
    ['---\ntitle: T\nimage: cover.png\n---\n\n![a](x&amp;y.png)', ['cover.png', 'x&y.png']],
  ])('%s', (markdown, expected) => {
    expect(urls('p.md', markdown).sort()).toEqual([...expected].sort());
  });
  test('a relative address that leads nowhere, from its file or from the root, is broken with less certainty; values are not', () => {
    const site = new SiteMap(['docs/p.md', 'docs/p.html', 'media/there.png', 'docs/near.png']);
    const markdown =
      '---\nimage: none.png\n---\n![a](../media/x.png) ![b](media/there.png) ![c](near.png) <img src="y.png"> ![d](/z.png) [e](w.pdf) [f](page)';
    const broken = (page: string, content: string) =>
      placementsOf(page, readPage(page, sourceOf(utf8(content)), true), site)
        .filter((one) => one.state === 'broken')
        .map((one) => [one.url, one.unsure ?? false]);
    expect(broken('docs/p.md', markdown)).toEqual([
      ['../media/x.png', true],
      ['y.png', true],
      ['w.pdf', true],
    ]);
    expect(broken('docs/p.html', '<img src="../media/x.png">')).toEqual([['../media/x.png', false]]);
  });
  test('title from front matter, else from the first heading; offsets behind multi-byte text', () => {
    expect(readPage('p.md', sourceOf(utf8('---\ntitle: "Häuser"\n---\n# x'))).title).toBe('Häuser');
    expect(readPage('p.md', sourceOf(utf8('# *Große* Sterne #\n'))).title).toBe('Große Sterne');
    const [one] = references('p.md', '\ufeffÄö ![ü](grün.png)');
    expect(one!.url).toBe('grün.png');
  });
});
