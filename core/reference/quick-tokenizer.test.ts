import { expect, test } from 'vitest';
import { seeded } from '../test/chance.ts';
import { canNameFile } from './file-address.ts';
import { htmlReferences } from './html.ts';
import { readPage } from './read.ts';
import { readSource } from './source.ts';

const PARTS = [
  'text',
  ' ',
  '\n',
  '\r\n',
  '\r',
  '\t',
  '&amp;',
  '&notit;',
  '&#x41;',
  '&',
  'a < b',
  '<',
  '</',
  '<>',
  '< img src=no.png>',
  '<!',
  '<?x',
  'ü',
  '--',
  '<p>',
  '</p>',
  '<table>',
  '<tr>',
  '<td>',
  '</table>',
  '<caption>',
  '<colgroup>',
  '<col>',
  '<select>',
  '<option>',
  '</select>',
  '<svg>',
  '</svg>',
  '<math>',
  '<desc>',
  '<foreignObject>',
  '<![CDATA[x <img src=cdata.png>]]>',
  '<template>',
  '</template>',
  '<noscript>',
  '</noscript>',
  '<script>',
  '</script>',
  '<!-- c -->',
  '<!--',
  '-->',
  '<style>',
  '</style>',
  'b{background:url(s.png)}',
  '<title>',
  '</title>',
  '<textarea>',
  '\n\n',
  '</textarea>',
  '<xmp>',
  '</xmp>',
  '<iframe>',
  '</iframe>',
  '<frameset>',
  '<frame src=f.png>',
  '</frameset>',
  '<body background=b.png>',
  '</body>',
  '</html>',
  '<head>',
  '</head>',
  '<html>',
  '<img src="a.png" alt="x &amp; y">',
  "<img srcset='a.png 1x, b.png 2x'>",
  '<a href=c.jpg>',
  '<IMG ALT=\'a"b\r\nc\' SRC="A\rB.png">',
  '<a hREF="x&amp;y.png" HREF="no.png" data-a.b="j.png">',
  "<X-y\u00e9 sRc='\u00e9\n&#x41;.png'>",
  '<img src="',
  "<img data-src='k.png",
  '">',
  '<a href="d%2Ejpg?x#y">',
  '<a href="e.html">',
  '<a href="f.p&#110;g ">',
  '<area href="ü.jpgé">',
  '<a href="#x" style="background:url(g.png)">',
  '</a>',
  '<image href=i.png>',
  '<base href=d/>',
  '<plaintext>',
  '<video poster=p.jpg>',
  '<link rel=canonical href=//x.example/y.html>',
  '<meta http-equiv=refresh content="0; url=r.png">',
  '<div style="background:url(e.png)">',
  '</div>',
  '<br/>',
];

test('what is skipped changes nothing: the same references at the same places, whatever the text', () => {
  let found = 0;
  for (let seed = 1; seed <= 4000; seed++) {
    const chance = seeded(seed * 101);
    const rare = new Set([
      '<plaintext>',
      '<!--',
      '<frameset>',
      '<iframe>',
      '<xmp>',
      '<textarea>',
      '<script>',
      '<title>',
      '<style>',
    ]);
    let text = chance.below(3) === 0 ? '<!doctype html>' : '';
    for (let i = 0; i < 40; i++) {
      const part = PARTS[chance.below(PARTS.length)]!;
      if (rare.has(part) && chance.below(3) > 0) continue;
      text += part;
    }
    const source = readSource(new TextEncoder().encode(text));
    if ('unread' in source) throw new Error(source.unread);
    for (const xml of [false, true]) {
      const quick = htmlReferences(source, xml);
      expect(quick, text).toEqual(htmlReferences(source, xml, true, false));
      found += quick.references.length;
      // Without links, it is those that could be media files.
      const path = xml ? 'x.svg' : 'x.html';
      const all = readPage(path, source, true).references;
      expect(readPage(path, source).references, text).toEqual(
        all.filter((one) => canNameFile(one.url, false)),
      );
    }
  }
  expect(found).toBeGreaterThan(10_000);
});

test('long texts, entities and scripts are passed over to the next tag', () => {
  const text = `<p>${'word &amp; word\r\n'.repeat(5000)}<img src=a.png><script>${'x < 1; '.repeat(5000)}</script><img src=b.png>`;
  const source = readSource(new TextEncoder().encode(text));
  if ('unread' in source) throw new Error(source.unread);
  const { references } = htmlReferences(source, false);
  expect(references.map(({ start, end }) => text.slice(start, end))).toEqual(['a.png', 'b.png']);
});
