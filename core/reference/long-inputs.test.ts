import { describe, expect, test } from 'vitest';
import { cssRules, pictureClasses, selectorsAt } from './css-rules.ts';
import { markedPage } from './preview-marks.ts';
import { NameIndex } from './mention.ts';
import { elementsOf, isHtmlPage } from './page-edit.ts';
import { placedWords } from './placed-words.ts';
import { placementReading } from './placement-reading.ts';
import { readPage } from './read.ts';
import { readSource } from './source.ts';

// What a language begins, ends and escapes with: again and again, it makes a careless reader go back to the start each time. None of
// these tests looks at a clock: one that a reader does not come to the end of ends with the limit of the test.
const PIECES = [
  ...[
    '<',
    '<a',
    '<!--',
    '<!---->',
    '<![CDATA[',
    '<b>',
    '<a href="',
    '<img src=a.png ',
    '<!DOCTYPE [',
    '<?x',
    '</',
    '<!',
  ],
  ...[
    '&',
    '&#',
    '&#x41;',
    '"',
    "'",
    '\\',
    '\\"',
    '%',
    '%2',
    '{',
    '}',
    '[',
    ']',
    '(',
    ')',
    '["',
    '{"a":',
    'a: ',
    'a:\n',
  ],
  ...[
    '- ',
    '-\n',
    '? ',
    '*',
    '_',
    '*a ',
    '/*',
    '*/',
    '/**/',
    '`',
    '``` ',
    '~',
    '> ',
    '>',
    '# ',
    '![a](',
    '[a][',
    '[a]: ',
  ],
  ...[
    '![',
    '](',
    'url(',
    'url("',
    '@import "',
    '.a',
    'a,',
    'a{',
    ':not(',
    'http://',
    'a.png,',
    'a.png 1x, ',
    ' 1x,',
    'srcset=',
  ],
  ...[
    '\n',
    '\r',
    ' ',
    '\t',
    '\u00a0',
    '---\n',
    '+++\n',
    '|',
    '!!',
    '@',
    '=',
    '-->',
    '<svg>',
    '<style>',
    '<script>',
    '<textarea>',
  ],
];
const AROUND: Record<string, [string, string][]> = {
  html: [
    ['', ''],
    ['<a href="', '">'],
    ['<img src="a.png" srcset="', '">'],
    ['<p style="', '">'],
    ['<style>', '</style>'],
  ],
  xhtml: [['', '']],
  svg: [['', '']],
  css: [['', '']],
  md: [
    ['', ''],
    ['---\n', '\n---\n'],
    ['+++\na = "', '"\n+++\n'],
  ],
  json: [
    ['', ''],
    ['{"a":"', '"}'],
  ],
  webmanifest: [['', '']],
  yml: [['', '']],
  xml: [['', '']],
  txt: [['', '']],
};
/** Characters; fewer of Markdown, whose parser goes back more often than it must. */
const lengthOf = (extension: string) => (extension === 'md' ? 3000 : 10_000);

/** What is nested too deeply may be refused; anything else is a defect. */
function read(work: () => unknown): void {
  try {
    work();
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
  }
}

describe.each(Object.keys(AROUND))('long and senseless %s is read to its end', (extension) => {
  const names = new NameIndex(['a.png', 'img/b.jpg']);
  test.each(AROUND[extension]!)(
    'within %j and %j',
    (before, after) => {
      const path = `page.${extension}`;
      const length = lengthOf(extension);
      for (const piece of PIECES) {
        const text = before + piece.repeat(Math.ceil(length / piece.length)) + after;
        const source = readSource(new TextEncoder().encode(text));
        if ('unread' in source) continue;
        read(() => readPage(path, source, true));
        read(() => names.search(text));
        if (extension === 'html' || extension === 'md') {
          read(() => markedPage(path, source));
          read(() => placedWords(path, source, [before.length]));
          read(() => placementReading(path, source, before.length));
        }
        if (isHtmlPage(path)) read(() => elementsOf(source));
        if (extension === 'css') {
          read(() => selectorsAt(cssRules(text), [0, length / 2]));
          read(() => pictureClasses(text));
        }
      }
      expect.assertions(0);
    },
    120_000,
  );
});

test.each([
  ['md', '> '.repeat(5000)],
  ['md', '/*'.repeat(20_000)],
  ['json', '["'.repeat(50_000)],
  ['json', '['.repeat(50_000)],
  ['yml', '['.repeat(50_000)],
  ['yml', '- '.repeat(50_000)],
])('%s that no parser comes to the end of is refused before it begins', (extension, text) => {
  const source = readSource(new TextEncoder().encode(text));
  if ('unread' in source) throw new Error(source.unread);
  expect(() => readPage(`a.${extension}`, source)).toThrow(RangeError);
});
