import { describe, expect, test } from 'vitest';
import { NameIndex } from './mention.ts';
import { isMediaAddress } from './file-address.ts';
import { readPage, textWithout } from './read.ts';
import { sourceOf, utf8 } from './test/reading.ts';

describe('mentions', () => {
  const paths = [
    'a.jpg',
    'plain.png',
    'plan.doc',
    'x.png',
    'big/n.png',
    'small/n.png',
    'my photo.jpg',
    'é.png',
    'q&a.pdf',
    'a.tar.gz',
    'CamelCase.png',
  ];
  const index = new NameIndex(paths);
  const mentioned = (content: string) =>
    index
      .search(content)
      .map((one) => one.path)
      .sort();
  test.each([
    ['see a.jpg.', ['a.jpg']],
    ['ba.jpg a.jpgx a.jpg.bak -a.jpg a.jpg2', []],
    ['bg-plain.png pond@2x.png plan.docx', []],
    ['["a.jpg"]', ['a.jpg']],
    ['img/n.png', ['big/n.png', 'small/n.png']],
    ['../big/n.png', ['big/n.png']],
    ['my%20photo.jpg', ['my photo.jpg']],
    ['my photo.jpg', ['my photo.jpg']],
    ['%C3%A9.png', ['é.png']],
    ['e\u0301.png', ['é.png']],
    ['"\\u00e9.png"', ['é.png']],
    ['q&amp;a.pdf', ['q&a.pdf']],
    ['"img\\/a.jpg"', ['a.jpg']],
    ['a.tar.gz', ['a.tar.gz']],
    ['写真a.jpgです', ['a.jpg']],
    ['camelcase.PNG', ['CamelCase.png']],
    ['éa.jpg', []],
    ['"\\na.jpg"', ['a.jpg']],
  ])('%s', (content, expected) => {
    expect(mentioned(content)).toEqual([...expected].sort());
  });
  test('lines are counted, one answer a line', () => {
    expect(index.search('x\na.jpg a.jpg\r\n\nx.png')).toEqual([
      { path: 'a.jpg', line: 2 },
      { path: 'x.png', line: 4 },
    ]);
  });
  test('what a resolved reference says is blanked out, and lines stay', () => {
    const source = sourceOf(utf8('é<img src="a.jpg">\nx.png'));
    const [one] = readPage('p.html', source).references;
    expect(textWithout(source, [one!])).toBe('é<img src="     ">\nx.png');
  });
});

describe('broken addresses', () => {
  test.each([
    ['a.png', true],
    ['{{ src }}.png', false],
    ['${x}.png', false],
    ['img/%s.png', false],
    ['[logo].png', false],
    ['<?php echo 1 ?>.png', false],
    ['a.html', false],
    ['a%20b.png', true],
    ['.png', false],
  ])('%s counts: %s', (url, expected) => {
    expect(isMediaAddress(url)).toBe(expected);
  });
});
