import { expect, test } from 'vitest';
import { seeded } from '../test/chance.ts';
import { placedBlocks, treeOf } from './markdown-tree.ts';

const PIECES = [
  '# Heading',
  '## Another *one*',
  '#no heading',
  'A paragraph that goes on\nover two lines, with a [link](/a/), [a reference][one], [two] and a note[^n].',
  '- one\n- two\n\n  # within\n\n  more',
  '1. first\n\n2. second',
  '> quoted\n> # in it\n\nafter',
  '```\ncode\n\n# no heading\n[no]: /definition\n```',
  '~~~~ sh\n```\n\n## not this either\n~~~~',
  '| a | b |\n| - | - |\n| 1 | 2 |',
  '<div>\n\n# inside\n\n</div>',
  '<b>bold</b> begins',
  '    indented code\n\n    # in it',
  'Setext\n===',
  '[one]: /one/ "One"',
  '[two]: <a b>',
  '[^n]: A note\n\n    that goes on',
  '***',
  '- [ ] to do',
];
const RARE = [
  '<!-- a comment\n\n# in it\n\nends -->',
  '<pre>\n\n# in it\n\n</pre>',
  '- item\n  ```\n\n# after\n  ```',
  '- ```\n  # x\n\n# after',
  '> [quoted]: /x/',
  '[spread]:\n/over/lines/',
  '```\nnever closed',
  '[one]: /other/',
];
const withoutPlaces = (value: unknown): string =>
  JSON.stringify(value, (key, one: unknown) => (key === 'position' ? undefined : one));

test('read section by section, a text says what it says when it is read whole', () => {
  const dice = seeded(71);
  let split = 0;
  for (let round = 0; round < 50; round++) {
    const pieces = Array.from({ length: 300 }, () =>
      round % 2 === 1 && dice.below(300) === 0 ? dice.pick(RARE) : dice.pick(PIECES),
    );
    const text = pieces.join(dice.below(10) === 0 ? '\n' : '\n\n');
    const kept = new Map();
    const sections = placedBlocks(text, kept);
    if (kept.size > 0) split++;
    const whole = treeOf(text).children.map((node) => [
      node.position!.start.offset,
      node.position!.end.offset,
      withoutPlaces(node),
    ]);
    expect(sections.map(({ node, from, to }) => [from, to, withoutPlaces(node)])).toEqual(whole);
    // What is kept says the same again.
    expect(placedBlocks(text, kept).map(({ from, to }) => [from, to])).toEqual(
      whole.map(([from, to]) => [from, to]),
    );
  }
  expect(split).toBeGreaterThan(20);
}, 120_000);
