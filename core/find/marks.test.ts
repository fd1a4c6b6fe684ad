import { expect, test } from 'vitest';
import { excerpt, hits, marked } from './marks.ts';

const shown = (text: string, ...words: string[]) =>
  marked(text, words)
    .map((piece) => (piece.hit ? `[${piece.text}]` : piece.text))
    .join('');

test.each([
  ['moon-waxing-crescent.jpg', ['crescents', 'moon'], '[moon]-waxing-[crescent].jpg'],
  ['Crescents of the Moon', ['crescent'], '[Crescents] of the Moon'],
  ['Ölbild der Kuppel', ['olb'], '[Ölbild] der Kuppel'],
  ['Ölbild', ['öl'], '[Ölbild]'],
  ['amoon', ['moon'], 'amoon'],
  ['open-night', ['open-nights'], '[open]-[night]'],
  ['<b>moon</b>', ['moon'], '<b>[moon]</b>'],
  ['月の写真', ['月'], '[月の写真]'],
  ['anything', [], 'anything'],
  ['anything', ['"', '*'], 'anything'],
  ['', ['x'], ''],
] as const)('%s for %j', (text, words, wanted) => {
  expect(shown(text, ...words)).toBe(wanted);
  expect(
    marked(text, words)
      .map((piece) => piece.text)
      .join(''),
  ).toBe(text);
  expect(hits(text, words)).toBe(wanted.includes('['));
});

test('an excerpt holds the first find, cut at words', () => {
  const text =
    `${'before the first of all '.repeat(6)}the moon rises ${'and then goes on '.repeat(6)}`.trim();
  const cut = excerpt(text, ['moons'])!;
  expect(cut).toMatch(/^… \S.*\bmoon rises\b.*\S …$/);
  expect(cut.length).toBeLessThan(100);
  expect(text).toContain(cut.slice(2, -2));
  expect(excerpt('the moon', ['moon'])).toBe('the moon');
  expect(excerpt(text, ['sun'])).toBeUndefined();
});
