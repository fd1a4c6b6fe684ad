import { expect, test } from 'vitest';
import { seeded } from '../test/chance.ts';
import { readMarkdown } from './read-markdown.ts';
import { ORIGIN, sameRich, SOURCE, wordCount, type RichNode } from './rich.ts';
import { writeMarkdown } from './write-markdown.ts';

const PAGE = `---
title: How to look
image: /images/moon.jpg
---

How to look
===========

Come when it is *dark*, and give your eyes
twenty minutes. **No** torches, but for
[red ones](/red-light "why").

* warm clothes
* a hot drink

  of any kind
* patience

1) first
2) second

| Planet  |  Moons |
|:--------|-------:|
| Mars    |      2 |
| Jupiter |     95 |

![The Moon](/images/moon.jpg)

<div class="note">
  <b>Closed</b> on Mondays.
</div>

Text with <br> in it.

- [ ] bring a chart

~~~sh now
run  it
~~~

***

> A quotation
> of two lines.

See [the programme][p] and footnote.[^1]

[p]: /data/programme.json
[^1]: Told later.


`;

/** A node that holds these words, edited. */
function edited(doc: RichNode, act: (text: RichNode) => void, words: string): RichNode {
  const copy = structuredClone(doc);
  let times = 0;
  const walk = (node: RichNode) => {
    if (node.text?.includes(words)) {
      times++;
      act(node);
    }
    node.content?.forEach(walk);
  };
  walk(copy);
  expect(times).toBe(1);
  return copy;
}
const replaced = (from: string, to: string) => {
  const read = readMarkdown(PAGE);
  const doc = edited(read.doc, (node) => (node.text = node.text!.replace(from, to)), from);
  return writeMarkdown(read, doc);
};

test('what nobody touched is written as it was, to the byte', () => {
  const read = readMarkdown(PAGE);
  expect(writeMarkdown(read, read.doc)).toEqual({ text: PAGE, differs: undefined });
});

test('what has no node stays as source, and is told', () => {
  const read = readMarkdown(PAGE);
  expect(read.asSource).toEqual([
    { what: 'front matter', times: 1 },
    { what: 'HTML', times: 1 },
    { what: 'paragraph with HTML or footnotes', times: 2 },
    { what: 'list with boxes to tick', times: 1 },
    { what: 'link definition', times: 1 },
    { what: 'footnote', times: 1 },
  ]);
  const front = read.doc.content![0]!;
  expect([front.type, front.content![0]!.text]).toEqual([
    SOURCE,
    '---\ntitle: How to look\nimage: /images/moon.jpg\n---',
  ]);
});

test.each([
  ['twenty minutes', 'thirty minutes'],
  ['patience', 'patience, and more of it'],
  ['of any kind', 'of some kind'],
  ['Jupiter', 'Saturn'],
  ['first', 'the first'],
  ['run  it', 'run  it twice'],
  ['<b>Closed</b>', '<b>Open</b>'],
  ['title: How to look', 'title: Looking'],
])('where “%s” becomes “%s”, that is all that changes', (from, to) => {
  const { text, differs } = replaced(from, to);
  expect(differs).toBeUndefined();
  const words = (of: string) => of.replace(/\s+/g, ' ');
  expect(words(text)).toBe(words(PAGE.replace(from, to)));
  // Every other block has its own bytes.
  const blocks = PAGE.split('\n\n').filter((block) => !block.includes(from));
  for (const block of blocks.filter((one) => one.length > 12)) expect(text).toContain(block);
});

test('a changed paragraph keeps its line breaks where its words stayed', () => {
  expect(replaced('twenty minutes', 'half an hour').text).toContain(
    'Come when it is *dark*, and give your eyes\nhalf an hour. **No** torches, but for\n[red ones](/red-light "why").\n',
  );
});

test('a list keeps its sign, its kind and its blank lines when an item is added', () => {
  const read = readMarkdown('+ one\n+ two\n\ntext\n');
  const doc = structuredClone(read.doc);
  doc.content![0]!.content!.push({
    type: 'listItem',
    content: [{ type: 'paragraph', content: [{ type: 'text', text: 'three' }] }],
  });
  expect(writeMarkdown(read, doc)).toEqual({ text: '+ one\n+ two\n+ three\n\ntext\n', differs: undefined });
});

test('of a list only the items change that were touched', () => {
  const item = (text: string): RichNode => ({
    type: 'listItem',
    content: [{ type: 'paragraph', content: [{ type: 'text', text }] }],
  });
  const cases: [string, string, string | undefined, string][] = [
    [
      '- other\n\ntext\n\n*   one __two__\n*   three\n    + four\n',
      'three',
      undefined,
      '*   one __two__\n* THREE\n',
    ],
    ['* _one_\n* two\n\n\n* three\n', 'two', 'four', '* _one_\n* TWO\n\n\n* three\n\n* four\n'],
    ['3) _one_\n4)  two\n5)  three\n', 'two', undefined, '3) _one_\n4) TWO\n5)  three\n'],
    ['1. one\n1. two\n', 'two', 'three', '1. one\n2. TWO\n3. three\n'],
  ];
  for (const [text, words, added, says] of cases) {
    const read = readMarkdown(text);
    const doc = edited(read.doc, (node) => (node.text = words.toUpperCase()), words);
    const list = doc.content!.at(-1)!;
    if (added !== undefined) list.content!.push(item(added));
    const written = writeMarkdown(read, doc);
    expect(written.text).toContain(says);
    expect(written.differs).toBeUndefined();
  }
});

test('of a table only the rows change that were touched', () => {
  const read = readMarkdown(PAGE);
  const doc = edited(read.doc, (node) => (node.text = 'Saturn'), 'Jupiter');
  const table = doc.content!.find(({ type }) => type === 'table')!;
  table.content!.push(structuredClone(table.content![1]!));
  expect(writeMarkdown(read, doc).text).toContain(
    '| Planet  |  Moons |\n|:--------|-------:|\n| Mars    |      2 |\n| Saturn | 95 |\n| Mars | 2 |\n\n',
  );
});

test('blocks that are moved, removed and split', () => {
  const read = readMarkdown('one\n\n\ntwo\n\n***\n\nthree');
  const [one, two, rule, three] = read.doc.content!;
  const write = (...content: RichNode[]) => writeMarkdown(read, { type: 'doc', content }).text;
  expect(write(one!, three!)).toBe('one\n\nthree');
  expect(write(three!, rule!, two!)).toBe('three\n\n***\n\ntwo');
  // Both halves of a paragraph that was split say that they were one.
  const half = (text: string): RichNode => ({ ...one!, content: [{ type: 'text', text }] });
  expect(write(half('on'), half('e'), two!)).toBe('on\n\ne\n\ntwo');
  expect(write()).toBe('');
});

test('text that looks like Markdown stays text', () => {
  const read = readMarkdown('begin\n');
  for (const text of [
    '# no heading',
    '1. no list',
    '*stars* _and_ `ticks`',
    '<b>no tag</b>',
    '[no](link)',
    '~~no~~',
    'a | b',
  ]) {
    const doc: RichNode = {
      type: 'doc',
      content: [{ type: 'paragraph', content: [{ type: 'text', text }] }],
    };
    const { text: written, differs } = writeMarkdown(read, doc);
    expect(differs).toBeUndefined();
    expect(readMarkdown(written).doc.content![0]!.content).toEqual([{ type: 'text', text }]);
  }
});

test('an image with its alt text, in a new paragraph', () => {
  const read = readMarkdown('begin\n');
  const doc = structuredClone(read.doc);
  doc.content!.push({
    type: 'paragraph',
    content: [{ type: 'image', attrs: { src: '/images/a b.jpg', alt: 'A [dome]', title: null } }],
  });
  const { text, differs } = writeMarkdown(read, doc);
  expect(differs).toBeUndefined();
  expect(text).toBe('begin\n\n![A \\[dome\\]](</images/a b.jpg>)\n');
});

test('two lists that follow each other stay two', () => {
  const read = readMarkdown('x\n');
  const list = (text: string): RichNode => ({
    type: 'bulletList',
    content: [{ type: 'listItem', content: [{ type: 'paragraph', content: [{ type: 'text', text }] }] }],
  });
  const { text, differs } = writeMarkdown(read, { type: 'doc', content: [list('one'), list('two')] });
  // Markdown can't say that: it is told, not done silently.
  expect(text).toBe('- one\n\n- two\n');
  expect(differs).toBe('one');
});

test('any text of any pieces is read, and written back to the byte; any one edit keeps the others', () => {
  const pieces = PAGE.split('\n\n');
  const { pick, whole } = seeded(11);
  for (let time = 0; time < 200; time++) {
    const text = Array.from({ length: whole(1, 6) }, () => pick(pieces)).join(pick(['\n\n', '\n\n\n', '\n']));
    const read = readMarkdown(text);
    expect(writeMarkdown(read, read.doc).text).toBe(text);
    const doc = structuredClone(read.doc);
    const at = whole(0, doc.content!.length - 1);
    if (doc.content![at]!.type !== 'paragraph' || read.blocks.length === 0) continue;
    doc.content![at]!.content = [{ type: 'text', text: 'other words' }];
    const written = writeMarkdown(read, doc).text;
    for (const [other, { source }] of read.blocks.entries())
      if (other !== at) expect(written).toContain(source);
    expect(written).toContain('other words');
  }
});

test('words are counted as a person does', () => {
  expect(wordCount(readMarkdown('# It’s 3.5 m\n\n- one\n- two-fold\n\na **b**c').doc)).toBe(7);
});

test('two nodes are the same whatever an editor adds to them', () => {
  const text: RichNode = {
    type: 'paragraph',
    attrs: { [ORIGIN]: 3 },
    content: [{ type: 'text', text: 'ab' }],
  };
  const split: RichNode = {
    type: 'paragraph',
    attrs: { [ORIGIN]: null, class: 'x' },
    content: [
      { type: 'text', text: 'a' },
      { type: 'text', text: 'b' },
    ],
  };
  expect(sameRich(text, split)).toBe(true);
  expect(sameRich(text, { ...split, type: 'heading' })).toBe(false);
});
