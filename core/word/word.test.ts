import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { describe, expect, test } from 'vitest';
import { ORIGIN, type RichNode } from '../document/rich.ts';
import { KEPT_BLOCK, KEPT_INLINE } from '../document/rich.ts';
import { readWord, wordAsText } from './read-word.ts';
import { blocksOf, docOf, NoSuchText, wordDraftAsText, wordDraftOf } from './draft.ts';
import { editedWord } from './write-word.ts';

const W = 'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"';
const R = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
const PACKAGE = 'http://schemas.openxmlformats.org/package/2006';

/** A document with a body, a bold style, headings, a bulleted and a numbered list. */
function made(body: string, more: Record<string, string> = {}): Uint8Array {
  const level = (format: string) => `<w:lvl w:ilvl="0"><w:numFmt w:val="${format}"/></w:lvl>`;
  const parts: Record<string, string> = {
    '[Content_Types].xml': `<Types xmlns="${PACKAGE}/content-types"><Default Extension="xml" ContentType="application/xml"/></Types>`,
    '_rels/.rels': `<Relationships xmlns="${PACKAGE}/relationships"><Relationship Id="rId1" Type="${R}/officeDocument" Target="word/document.xml"/></Relationships>`,
    'word/_rels/document.xml.rels': `<Relationships xmlns="${PACKAGE}/relationships"><Relationship Id="rId7" Type="${R}/hyperlink" Target="https://corvane.example/" TargetMode="External"/><Relationship Id="rId8" Type="${R}/image" Target="media/dome.png"/></Relationships>`,
    'word/styles.xml': `<w:styles ${W}><w:style w:type="paragraph" w:styleId="Kop1"><w:name w:val="heading 1"/></w:style></w:styles>`,
    'word/numbering.xml': `<w:numbering ${W}><w:abstractNum w:abstractNumId="0">${level('bullet')}</w:abstractNum><w:abstractNum w:abstractNumId="1">${level('decimal')}</w:abstractNum><w:num w:numId="4"><w:abstractNumId w:val="0"/></w:num><w:num w:numId="5"><w:abstractNumId w:val="1"/></w:num></w:numbering>`,
    'word/media/dome.png': 'image',
    'word/theme/theme1.xml': '<a:theme xmlns:a="x"/>',
    'word/document.xml': `<?xml version="1.0" encoding="UTF-8"?><w:document ${W} xmlns:r="${R}"><w:body>${body}<w:sectPr><w:pgSz w:w="11906"/></w:sectPr></w:body></w:document>`,
    ...more,
  };
  return zipSync(Object.fromEntries(Object.entries(parts).map(([name, text]) => [name, strToU8(text)])));
}
const run = (text: string, look = '') =>
  `<w:r w:rsidR="00A1"><w:rPr><w:rFonts w:ascii="Georgia"/>${look}<w:color w:val="1F3864"/></w:rPr><w:t xml:space="preserve">${text}</w:t></w:r>`;
const p = (...runs: string[]) =>
  `<w:p w:rsidR="00B2"><w:pPr><w:jc w:val="both"/></w:pPr>${runs.join('')}</w:p>`;
const item = (id: number, text: string, level = 0) =>
  `<w:p><w:pPr><w:keepNext/><w:numPr><w:ilvl w:val="${level}"/><w:numId w:val="${id}"/></w:numPr><w:spacing w:after="0"/></w:pPr>${run(text)}</w:p>`;
const mainOf = (bytes: Uint8Array) => strFromU8(unzipSync(bytes)['word/document.xml']!);
const changed = (before: Uint8Array, after: Uint8Array) => {
  const [old, now] = [unzipSync(before), unzipSync(after)];
  return Object.keys({ ...old, ...now }).filter(
    (name) => !old[name] || !now[name] || strFromU8(old[name]) !== strFromU8(now[name]),
  );
};
/** Makes another text of it, as an editor does. */
function edited(
  bytes: Uint8Array,
  edit: (doc: RichNode) => void,
  ...rest: [Parameters<typeof editedWord>[2]?]
) {
  const doc = structuredClone(readWord(bytes).doc);
  edit(doc);
  return editedWord(bytes, doc, ...rest);
}
/** The text nodes of a document, in order. */
const texts = (node: RichNode): RichNode[] =>
  node.type === 'text' ? [node] : (node.content ?? []).flatMap(texts);
function reword(doc: RichNode, from: string, to: string) {
  const one = texts(doc).find(({ text }) => text!.includes(from))!;
  one.text = one.text!.replace(from, to);
}

describe('a document read', () => {
  test('headings by any style, looks, links, lists in lists, tables, images', () => {
    const link = `<w:hyperlink r:id="rId7">${run('us')}</w:hyperlink>`;
    const drawing = `<w:r><w:drawing><wp:inline><wp:extent cx="952500" cy="476250"/><wp:docPr id="1" descr="The dome"/><a:blip r:embed="rId8"/></wp:inline></w:drawing></w:r>`;
    const table = `<w:tbl><w:tblGrid><w:gridCol/></w:tblGrid><w:tr><w:trPr><w:tblHeader/></w:trPr><w:tc>${p(run('When'))}</w:tc></w:tr><w:tr><w:tc>${p(run('Friday'))}</w:tc></w:tr></w:tbl>`;
    const { doc, kept } = readWord(
      made(
        `<w:p><w:pPr><w:pStyle w:val="Kop1"/></w:pPr>${run('Open nights')}</w:p>${p(run('Ask '), link, run(' now', '<w:b/>'), drawing)}${item(4, 'one')}${item(5, 'deep', 1)}${item(5, 'two')}${table}`,
      ),
    );
    const plain = (node: RichNode): unknown =>
      node.text !== undefined
        ? [node.text, ...(node.marks ?? []).map(({ type, attrs }) => attrs?.['href'] ?? type)]
        : node.type === 'image'
          ? node.attrs
          : { [node.type]: (node.content ?? []).map(plain) };
    expect(plain(doc)).toEqual({
      doc: [
        { heading: [['Open nights']] },
        {
          paragraph: [
            ['Ask '],
            ['us', 'https://corvane.example/'],
            [' now', 'bold'],
            { key: '1.10', src: 'part:word/media/dome.png', alt: 'The dome', width: 100, height: 50 },
          ],
        },
        {
          bulletList: [
            {
              listItem: [
                { paragraph: [['one']] },
                { orderedList: [{ listItem: [{ paragraph: [['deep']] }] }] },
              ],
            },
          ],
        },
        { orderedList: [{ listItem: [{ paragraph: [['two']] }] }] },
        {
          table: [
            { tableRow: [{ tableHeader: [{ paragraph: [['When']] }] }] },
            { tableRow: [{ tableCell: [{ paragraph: [['Friday']] }] }] },
          ],
        },
      ],
    });
    expect(kept).toEqual([]);
  });

  test('what can’t be edited is kept whole, and told', () => {
    const field = `<w:r><w:fldChar w:fldCharType="begin"/></w:r><w:r><w:instrText>DATE</w:instrText></w:r><w:r><w:fldChar w:fldCharType="separate"/></w:r>${run('4 March')}<w:r><w:fldChar w:fldCharType="end"/></w:r>`;
    const { doc, kept } = readWord(
      made(
        `${p(run('On '), field, run('.'))}<w:p><w:ins w:id="1">${run('new')}</w:ins></w:p>${p(run('See'), '<w:r><w:footnoteReference w:id="2"/></w:r>')}<w:tbl><w:tr><w:tc><w:tcPr><w:gridSpan w:val="2"/></w:tcPr>${p(run('wide'))}</w:tc></w:tr></w:tbl>`,
      ),
    );
    expect(doc.content!.map(({ type }) => type)).toEqual(['paragraph', KEPT_BLOCK, 'paragraph', KEPT_BLOCK]);
    expect(doc.content![0]!.content![1]).toMatchObject({
      type: KEPT_INLINE,
      attrs: { what: 'field', says: '4 March' },
    });
    expect(kept).toEqual([
      { what: 'fields', times: 1 },
      { what: 'tracked changes', times: 1 },
      { what: 'footnotes', times: 1 },
      { what: 'tables with merged cells', times: 1 },
    ]);
    expect(doc.content![3]!.attrs).toMatchObject({ says: 'wide' });
  });

  test('a field over several paragraphs keeps all of them', () => {
    const begin = '<w:r><w:fldChar w:fldCharType="begin"/></w:r>';
    const end = '<w:r><w:fldChar w:fldCharType="end"/></w:r>';
    const { doc } = readWord(
      made(`${p(begin, run('1 Visit'))}${p(run('2 Prices'))}${p(end)}${p(run('after'))}`),
    );
    expect(doc.content!.map(({ type }) => type)).toEqual([KEPT_BLOCK, KEPT_BLOCK, KEPT_BLOCK, 'paragraph']);
  });
});

describe('a word changed', () => {
  const bytes = made(
    `${p(run('Doors open at '), run('19:00', '<w:b/>'), run(' on 4 March.'))}${p(run('Bring a coat.'))}`,
  );

  test('changes one part, in it one paragraph, and its letters look as those around them', () => {
    const now = edited(bytes, (doc) => reword(doc, '4 March', '11 April'));
    expect(changed(bytes, now)).toEqual(['word/document.xml']);
    expect(mainOf(now)).toBe(mainOf(bytes).replace('4 March', '11 April'));
  });

  test('nothing changed gives the same bytes', () => expect(edited(bytes, () => undefined)).toBe(bytes));

  test('a new look is added to what its letters have; one that goes takes nothing else along', () => {
    const bold = edited(
      bytes,
      (doc) =>
        (doc.content![1]!.content = [
          { type: 'text', text: 'Bring ' },
          { type: 'text', text: 'a coat', marks: [{ type: 'bold' }, { type: 'underline' }] },
          { type: 'text', text: '.' },
        ]),
    );
    expect(mainOf(bold)).toContain(
      '<w:rPr><w:rFonts w:ascii="Georgia"/><w:b/><w:u w:val="single"/><w:color w:val="1F3864"/></w:rPr><w:t xml:space="preserve">a coat</w:t>',
    );
    const plain = edited(bytes, (doc) => delete texts(doc)[1]!.marks);
    expect(mainOf(plain)).toBe(mainOf(bytes).replace('<w:b/>', ''));
  });

  test('bookmarks and comments stay with their words; what spell checkers left goes', () => {
    const marked = made(
      p(
        run('See '),
        '<w:bookmarkStart w:id="0" w:name="x"/>',
        run('the dome'),
        '<w:bookmarkEnd w:id="0"/>',
        '<w:proofErr w:type="spellEnd"/>',
        run(' now'),
      ),
    );
    const now = mainOf(edited(marked, (doc) => reword(doc, 'See the dome', 'Look at the great dome')));
    expect(now).toMatch(
      /Look at <\/w:t><\/w:r><w:bookmarkStart[^>]*\/>.*the great dome<\/w:t><\/w:r><w:bookmarkEnd/,
    );
    expect(now).not.toContain('proofErr');
  });

  test('fields and footnotes stay among changed words', () => {
    const noted = made(p(run('Price'), '<w:r><w:footnoteReference w:id="2"/></w:r>', run(' from March')));
    const now = mainOf(edited(noted, (doc) => reword(doc, ' from March', ' from April on')));
    expect(now).toMatch(/Price<\/w:t><\/w:r><w:r><w:footnoteReference w:id="2"\/><\/w:r>.* from April on</);
    expect(() => edited(noted, (doc) => doc.content!.push(structuredClone(doc.content![0]!)))).toThrow(
      NoSuchText,
    );
  });

  test('signs of XML, tabs, line breaks and signs beyond 16 bits are kept', () => {
    const now = edited(
      bytes,
      (doc) =>
        (doc.content![1]!.content = [
          { type: 'text', text: 'A & B <c>\t🔭' },
          { type: 'hardBreak' },
          { type: 'text', text: ' end ' },
        ]),
    );
    expect(mainOf(now)).toContain(
      'A &amp; B &lt;c&gt;</w:t><w:tab/><w:t xml:space="preserve">🔭</w:t><w:br/>',
    );
    expect(wordAsText(now)).toContain('A & B <c>\t🔭  end \n');
  });
});

describe('blocks', () => {
  const bytes = made(`${p(run('First. Second.'))}${item(4, 'one')}${item(4, 'two')}${p(run('Last'))}`);

  test('a paragraph that is split keeps its look in both, and its identity in one', () => {
    const with14 = made(
      `<w:p w14:paraId="AB12" xmlns:w14="x"><w:pPr><w:jc w:val="both"/></w:pPr>${run('First. Second.')}</w:p>`,
    );
    const now = mainOf(
      edited(with14, (doc) => {
        const [one] = doc.content!;
        doc.content = [
          { ...one!, content: [{ type: 'text', text: 'First.' }] },
          { ...one!, content: [{ type: 'text', text: 'Second.' }] },
        ];
      }),
    );
    expect(now.match(/<w:jc w:val="both"\/>/g)).toHaveLength(2);
    expect(now.match(/w14:paraId/g)).toHaveLength(1);
    expect(now.match(/Georgia/g)).toHaveLength(2);
  });

  test('a heading takes the style that the document has for it; text becomes text again', () => {
    const now = edited(bytes, (doc) =>
      Object.assign(doc.content![0]!, { type: 'heading', attrs: { ...doc.content![0]!.attrs, level: 1 } }),
    );
    expect(changed(bytes, now)).toEqual(['word/document.xml']);
    expect(mainOf(now)).toContain('<w:pPr><w:pStyle w:val="Kop1"/><w:jc w:val="both"/></w:pPr>');
    const back = edited(now, (doc) => {
      const [one] = doc.content!;
      one!.type = 'paragraph';
      delete one!.attrs!['level'];
    });
    expect(mainOf(back)).toBe(mainOf(bytes));
    const second = edited(bytes, (doc) =>
      Object.assign(doc.content![0]!, { type: 'heading', attrs: { ...doc.content![0]!.attrs, level: 2 } }),
    );
    expect(changed(bytes, second).sort()).toEqual(['word/document.xml', 'word/styles.xml']);
    expect(readWord(second).doc.content![0]!.attrs!['level']).toBe(2);
  });

  test('an item that comes in joins its list; one that leaves it is text; numbers begin a list of their own', () => {
    const now = edited(bytes, (doc) =>
      doc.content![1]!.content!.splice(1, 0, {
        type: 'listItem',
        content: [{ type: 'paragraph', content: [{ type: 'text', text: 'between' }] }],
      }),
    );
    expect(mainOf(now)).toMatch(/<w:numId w:val="4"\/><\/w:numPr><\/w:pPr><w:r><w:t>between/);
    const left = edited(bytes, (doc) => {
      const [, list] = doc.content!;
      doc.content!.splice(2, 0, list!.content!.pop()!.content![0]!);
    });
    expect(mainOf(left)).toContain('<w:keepNext/><w:spacing w:after="0"/>');
    const ordered = edited(bytes, (doc) => (doc.content![1]!.type = 'orderedList'));
    expect(readWord(ordered).doc.content![1]).toMatchObject({ type: 'orderedList' });
    const none = made(p(run('a')), { 'word/numbering.xml': '' });
    const first = edited(
      none,
      (doc) =>
        (doc.content = [{ type: 'bulletList', content: [{ type: 'listItem', content: doc.content! }] }]),
    );
    expect(readWord(first).doc.content![0]!.type).toBe('bulletList');
    expect(strFromU8(unzipSync(first)['[Content_Types].xml']!)).toContain('/word/numbering.xml');
  });

  test('a list that begins on a deeper level stays there, and so do items that come in', () => {
    const deep = made(`${item(4, 'one', 1)}${item(4, 'two', 1)}${item(4, 'out', 0)}`);
    expect(readWord(deep).doc.content!.map(({ content }) => content!.length)).toEqual([2, 1]);
    const now = edited(deep, (doc) => {
      reword(doc, 'two', 'three');
      doc.content![0]!.content!.push({
        type: 'listItem',
        content: [{ type: 'paragraph', content: [{ type: 'text', text: 'new' }] }],
      });
    });
    expect(mainOf(now).replace(/<w:p><w:pPr><w:numPr>[^]*?new<\/w:t><\/w:r><\/w:p>/, '')).toBe(
      mainOf(deep).replace('two', 'three'),
    );
    expect(mainOf(now)).toMatch(/<w:ilvl w:val="1"\/><w:numId w:val="4"\/><\/w:numPr><\/w:pPr>[^]{0,60}new/);
  });

  test('what is kept whole goes where it is put, and only once', () => {
    const bytes = made(
      `<w:bookmarkStart w:id="9" w:name="top"/>${p(run('a'))}<w:sdt><w:sdtContent>${p(run('control'))}</w:sdtContent></w:sdt><w:bookmarkEnd w:id="9"/>${p(run('b'))}`,
    );
    const now = mainOf(edited(bytes, (doc) => doc.content!.push(doc.content!.shift()!)));
    expect(now).toMatch(
      /^[^]*<w:body><w:bookmarkStart[^]*<w:sdt>[^]*<w:bookmarkEnd[^]*>b<[^]*>a<[^]*<w:sectPr>/,
    );
    expect(() => edited(bytes, (doc) => doc.content!.push(doc.content![1]!))).toThrow(NoSuchText);
  });
});

describe('tables, links and images', () => {
  const cell = (text: string) =>
    `<w:tc><w:tcPr><w:tcW w:w="3000"/><w:shd w:fill="EEEEEE"/></w:tcPr>${p(run(text))}</w:tc>`;
  const bytes = made(
    `<w:tbl><w:tblPr><w:tblStyle w:val="Grid"/></w:tblPr><w:tblGrid><w:gridCol w:w="3000"/><w:gridCol w:w="3000"/></w:tblGrid><w:tr w:rsidR="1">${cell('When')}${cell('Price')}</w:tr><w:tr w:rsidR="2">${cell('Friday')}${cell('£4')}</w:tr></w:tbl>${p(run('end'))}`,
  );

  test('a cell changed changes its cell; a row that comes in looks like the one above it; a column too', () => {
    const now = edited(bytes, (doc) => reword(doc, '£4', '£5'));
    expect(mainOf(now)).toBe(mainOf(bytes).replace('£4', '£5'));
    const text = (of: string): RichNode => ({
      type: 'tableCell',
      content: [{ type: 'paragraph', content: [{ type: 'text', text: of }] }],
    });
    const row = edited(bytes, (doc) =>
      doc.content![0]!.content!.push({ type: 'tableRow', content: [text('Sunday'), text('£6')] }),
    );
    expect(mainOf(row).match(/EEEEEE/g)).toHaveLength(6);
    expect(wordAsText(row)).toBe('When | Price\nFriday | £4\nSunday | £6\nend\n');
    const column = edited(bytes, (doc) =>
      doc.content![0]!.content!.forEach((one, at) => one.content!.push(text(`c${at}`))),
    );
    expect(mainOf(column).match(/<w:gridCol /g)).toHaveLength(3);
    expect(wordAsText(column)).toContain('Friday | £4 | c1');
  });

  test('a new table, a new link, a new image with its alt text', () => {
    const now = edited(
      bytes,
      (doc) => {
        doc.content!.push({
          type: 'table',
          content: [
            {
              type: 'tableRow',
              content: [
                {
                  type: 'tableHeader',
                  content: [{ type: 'paragraph', content: [{ type: 'text', text: 'x' }] }],
                },
              ],
            },
          ],
        });
        doc.content!.push({
          type: 'paragraph',
          content: [
            {
              type: 'text',
              text: 'here',
              marks: [{ type: 'link', attrs: { href: 'https://corvane.example/?a=1&b=2' } }],
            },
            { type: 'image', attrs: { src: 'item:5', alt: 'Fog "over" the dome' } },
          ],
        });
      },
      new Map([['item:5', { bytes: strToU8('png'), extension: 'png', width: 1200, height: 600 }]]),
    );
    const parts = unzipSync(now);
    expect(strFromU8(parts['word/media/added1.png']!)).toBe('png');
    expect(strFromU8(parts['word/_rels/document.xml.rels']!)).toContain(
      'Target="https://corvane.example/?a=1&amp;b=2" TargetMode="External"',
    );
    expect(strFromU8(parts['[Content_Types].xml']!)).toContain('Extension="png"');
    const again = readWord(now).doc.content!.at(-1)!.content!;
    expect(again[0]!.marks![0]!.attrs).toEqual({ href: 'https://corvane.example/?a=1&b=2' });
    expect(again[1]!.attrs).toMatchObject({ alt: 'Fog "over" the dome', src: 'part:word/media/added1.png' });
  });

  test('the alt text of an image that was there changes in its place alone', () => {
    const drawing =
      '<w:r><w:drawing><wp:inline><wp:extent cx="9525" cy="9525"/><wp:docPr id="1" name="P"/><a:blip r:embed="rId8"/></wp:inline></w:drawing></w:r>';
    const bytes = made(p(run('a'), drawing));
    const now = edited(bytes, (doc) => (doc.content![0]!.content![1]!.attrs!['alt'] = 'The dome'));
    expect(mainOf(now)).toBe(mainOf(bytes).replace('name="P"/>', 'name="P" descr="The dome"/>'));
  });

  test('what an origin names that is not there is written as new', () => {
    const now = edited(bytes, (doc) =>
      doc.content!.push({
        type: 'paragraph',
        attrs: { [ORIGIN]: 999 },
        content: [{ type: 'text', text: 'new' }],
      }),
    );
    expect(wordAsText(now)).toContain('end\nnew\n');
  });
});

describe('a draft', () => {
  const bytes = made(`${p(run('one'))}${p(run('two'))}${item(4, 'three')}`);
  const was = readWord(bytes).doc;
  const room: RichNode = { type: 'paragraph', attrs: { [ORIGIN]: null } };

  test('holds what changed; the rest by its number; the room that an editor leaves at the end is nothing', () => {
    const [one, two, three] = was.content!;
    const other: RichNode = { ...two!, content: [{ type: 'text', text: 'TWO' }] };
    expect(blocksOf(was, { ...was, content: [...was.content!, room] })).toBeUndefined();
    expect(blocksOf(was, { ...was, content: [one!, other, three!, room] })).toEqual([0, other, 2]);
    expect(blocksOf(was, { ...was, content: [one!, other, two!, three!] })).toEqual([0, other, 1, 2]);
    expect(blocksOf(was, { ...was, content: [one!, three!] })).toEqual([0, 2]);
    expect(docOf(was, [0, other, 2]).content).toEqual([one, other, three]);
  });

  test('is read again as it was kept; what is none is refused', () => {
    const draft = { from: 'a'.repeat(64), blocks: [0, { type: 'paragraph', attrs: { [ORIGIN]: 1 } }] };
    expect(wordDraftOf(wordDraftAsText(draft))).toEqual(draft);
    expect(wordDraftAsText(wordDraftOf(''))).toBe('');
    for (const text of ['{', '{"blocks":[{"type":1}]}', '{"other":1}', `{"blocks":${'['.repeat(5000)}`])
      expect(() => wordDraftOf(text)).toThrow(NoSuchText);
  });
});
