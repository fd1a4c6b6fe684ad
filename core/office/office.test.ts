import { strToU8, zipSync } from 'fflate';
import { expect, test } from 'vitest';
import { openPackage, readXml, relationsOf } from './package.ts';
import { readOdt } from './read-odt.ts';
import { readSlides } from './read-slides.ts';
import { wordNotes } from './word-notes.ts';

const PIXEL = Uint8Array.from(
  atob('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNkYPhfDwAChwGA60e6kgAAAABJRU5ErkJggg=='),
  (sign) => sign.charCodeAt(0),
);
const packed = (files: Record<string, string | Uint8Array>) =>
  openPackage(
    zipSync(
      Object.fromEntries(
        Object.entries(files).map(([name, part]) => [name, typeof part === 'string' ? strToU8(part) : part]),
      ),
    ),
  );
const NAMES =
  'xmlns:office="o" xmlns:text="t" xmlns:style="s" xmlns:fo="f" xmlns:table="b" xmlns:draw="d" xmlns:xlink="x" xmlns:svg="v" xmlns:presentation="p"';
const odt = (body: string, styles = '') =>
  packed({
    'content.xml': `<office:document-content ${NAMES}><office:automatic-styles>${styles}</office:automatic-styles><office:body><office:text>${body}</office:text></office:body></office:document-content>`,
    'styles.xml': `<office:document-styles ${NAMES}><office:styles><style:style style:name="Base" style:family="paragraph"><style:text-properties fo:font-size="14pt" fo:font-weight="bold"/></style:style></office:styles></office:document-styles>`,
    'Pictures/a.png': PIXEL,
  });
const REL = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
const relations = (...all: string[][]) =>
  `<Relationships>${all.map(([id, type, target, mode]) => `<Relationship Id="${id}" Type="${REL}/${type}" Target="${target}"${mode ? ` TargetMode="${mode}"` : ''}/>`).join('')}</Relationships>`;

test('text in OpenDocument keeps its headings, lists, tables, looks and images', () => {
  const { html, notes } = readOdt(
    odt(
      `<text:h text:outline-level="2">Terms</text:h>
       <text:p text:style-name="P1">A <text:span text:style-name="T1">red</text:span><text:s text:c="2"/>line<text:note><text:note-citation>1</text:note-citation><text:note-body><text:p>Below.</text:p></text:note-body></text:note></text:p>
       <text:list text:style-name="L1"><text:list-item><text:p>One</text:p><text:list><text:list-item><text:p>Within</text:p></text:list-item></text:list></text:list-item></text:list>
       <table:table><table:table-row><table:table-cell table:number-columns-spanned="2"><text:p>Both</text:p></table:table-cell><table:covered-table-cell/></table:table-row></table:table>
       <text:p><draw:frame svg:width="2cm"><draw:image xlink:href="Pictures/a.png"/><svg:title>A dot</svg:title></draw:frame></text:p>`,
      `<style:style style:name="P1" style:family="paragraph" style:parent-style-name="Base"><style:paragraph-properties fo:text-align="center"/></style:style>
       <style:style style:name="T1" style:family="text"><style:text-properties fo:color="#c00000"/></style:style>
       <text:list-style style:name="L1"><text:list-level-style-number text:level="1" style:num-format="1" text:start-value="3"/><text:list-level-style-bullet text:level="2"/></text:list-style>`,
    ),
  );
  expect(html).toContain('<h2>Terms</h2>');
  expect(html).toContain(
    '<p style="font-weight:bold;font-size:14pt;text-align:center">A <span style="color:#c00000">red</span>\u00a0\u00a0line<sup>1</sup></p>',
  );
  expect(html).toContain('<ol start="3"><li><p>One</p><ul><li><p>Within</p></li></ul></li></ol>');
  expect(html).toContain('<td colspan="2"><p>Both</p></td>');
  expect(html).toMatch(/<img src="data:image\/png;base64,[\w+/=]+" alt="A dot" style="width:2cm">/);
  expect(html).toContain('<ol class="asides"><li><p>Below.</p></li></ol>');
  expect(notes).toEqual([]);
});

test('nothing in a document becomes an element, an address or a style of its own', () => {
  const { html, notes } = readOdt(
    odt(
      `<text:p text:style-name="P1">&lt;script&gt;1&lt;/script&gt; &amp; <text:a xlink:href="javascript:alert(1)">here</text:a></text:p>
       <text:p><draw:frame><draw:image xlink:href="http://evil.example/a.png"/></draw:frame></text:p>
       <text:tracked-changes><text:p>gone</text:p></text:tracked-changes><office:annotation><text:p>aside</text:p></office:annotation>`,
      `<style:style style:name="P1" style:family="paragraph"><style:text-properties fo:color="red;background:url(http://evil.example)" fo:font-size="expression(1)"/></style:style>`,
    ),
  );
  expect(html).toContain(
    '<p>&lt;script&gt;1&lt;/script&gt; &amp; <span class="link" title="javascript:alert(1)">here</span></p>',
  );
  expect(html).not.toMatch(/evil|gone|aside|<a |expression/);
  expect(notes).toHaveLength(3);
});

test('slides are text and images in their order, with what is to be said', () => {
  const slide = (shapes: string, more = '') =>
    `<p:sld xmlns:p="p" xmlns:a="a" xmlns:r="r"${more}><p:cSld><p:spTree>${shapes}</p:spTree></p:cSld></p:sld>`;
  const shape = (kind: string, words: string, level = 0) =>
    `<p:sp><p:nvSpPr><p:nvPr><p:ph type="${kind}"/></p:nvPr></p:nvSpPr><p:txBody><a:p><a:pPr lvl="${level}"/><a:r><a:rPr b="1"/><a:t>${words}</a:t></a:r></a:p></p:txBody></p:sp>`;
  const { html } = readSlides(
    packed({
      '_rels/.rels': relations(['a', 'officeDocument', 'ppt/presentation.xml']),
      'ppt/presentation.xml':
        '<p:presentation xmlns:p="p" xmlns:r="r"><p:sldIdLst><p:sldId r:id="s2"/><p:sldId r:id="s1"/></p:sldIdLst></p:presentation>',
      'ppt/_rels/presentation.xml.rels': relations(
        ['s1', 'slide', 'slides/slide1.xml'],
        ['s2', 'slide', 'slides/slide2.xml'],
      ),
      'ppt/slides/slide1.xml': slide(shape('sldNum', '7') + shape('body', 'A &lt;torch&gt;', 1), ' show="0"'),
      'ppt/slides/slide2.xml': slide(
        `${shape('body', 'Below')}${shape('title', 'Open nights')}<p:pic><p:nvPicPr><p:cNvPr descr="A moon"/></p:nvPicPr><p:blipFill><a:blip r:embed="i1"/></p:blipFill></p:pic>`,
      ),
      'ppt/slides/_rels/slide2.xml.rels': relations(
        ['i1', 'image', '../media/moon.png'],
        ['n1', 'notesSlide', '../notesSlides/n.xml'],
        ['x', 'hyperlink', 'http://evil.example', 'External'],
      ),
      'ppt/notesSlides/n.xml': `<p:notes xmlns:p="p" xmlns:a="a"><p:cSld><p:spTree>${shape('body', 'Say this.')}</p:spTree></p:cSld></p:notes>`,
      'ppt/media/moon.png': PIXEL,
    }),
  );
  const words = html
    .replace(/<img [^>]*alt="([^"]*)"[^>]*>/g, '[$1]')
    .replace(/<[^>]+>/g, '|')
    .replace(/\|+/g, '|');
  expect(words).toBe(
    '|Slide 1 of 2|Open nights|Below|[A moon]|Notes|Say this.|Slide 2 of 2, hidden|A &lt;torch&gt;|',
  );
});

test('what a text document holds that is not shown is told', () => {
  const word = (body: string, more: Record<string, string> = {}) =>
    packed({
      '_rels/.rels': relations(['a', 'officeDocument', 'word/document.xml']),
      'word/document.xml': `<w:document xmlns:w="w"><w:body>${body}</w:body></w:document>`,
      ...more,
    });
  expect(wordNotes(word('<w:p/>'))).toEqual([]);
  const all = wordNotes(
    word('<w:p><w:ins w:id="1"/><w:object/></w:p><w:altChunk r:id="x"/>', {
      'word/vbaProject.bin': 'x',
      'word/_rels/document.xml.rels': relations(['c', 'comments', 'comments.xml']),
    }),
  );
  expect(all.join(' ')).toMatch(/tracked changes.*Comments.*another form.*embedded objects.*macros/);
  expect(() => wordNotes(packed({ 'content.xml': '' }))).toThrow('It holds no text.');
});

test('relationships lead to parts, from wherever they are told, and never outside', () => {
  const from = packed({
    'a/b/_rels/c.xml.rels': relations(
      ['1', 'x', '../d.xml'],
      ['2', 'y', '/e/f.xml'],
      ['3', 'z', 'http://evil.example', 'External'],
    ),
  });
  expect([...relationsOf(from, 'a/b/c.xml')]).toEqual([
    ['1', { type: 'x', target: 'a/d.xml' }],
    ['2', { type: 'y', target: 'e/f.xml' }],
  ]);
});

test('XML that was made to harm is refused', () => {
  expect(() => readXml('<a>'.repeat(2000) + '</a>'.repeat(2000))).toThrow('too deep');
  expect(() => readXml('<!DOCTYPE a [<!ENTITY b "cc">]><a>&b;</a>')).toThrow('damaged');
});
