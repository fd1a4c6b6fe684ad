import { expect, test } from 'vitest';
import { findIn, replaceAt } from './find.ts';

const LOOSE = { exact: false, whole: false };

test.each([
  ['The moon, the MOON', 'moon', LOOSE, [4, 14]],
  ['The moon, the MOON', 'MOON', { ...LOOSE, exact: true }, [14]],
  ['moonlight, moon', 'moon', { ...LOOSE, whole: true }, [11]],
  ['Öl, öl, Kühlöl', 'öl', { ...LOOSE, whole: true }, [0, 4]],
  ['3.50 (EUR) 3x50', '3.50', LOOSE, [0]],
  ['a-b [c] {d}', '-b [c] {', LOOSE, [1]],
  ['aaaa', 'aa', LOOSE, [0, 2]],
  ['anything', '', LOOSE, []],
  ['🌙 moon', 'MOON', LOOSE, [3]],
])('in %j, %j', (text, words, options, at) => {
  const found = findIn(text, words, options);
  expect(found.map(({ from }) => from)).toEqual(at);
  for (const { from, to } of found) expect(text.slice(from, to).toLowerCase()).toBe(words.toLowerCase());
});

test('other words in their place, which may be longer, shorter or none, and are taken as they are', () => {
  const text = 'one moon, two moons';
  const places = findIn(text, 'moon', LOOSE);
  expect(replaceAt(text, places, 'planet $&')).toBe('one planet $&, two planet $&s');
  expect(replaceAt(text, places, '')).toBe('one , two s');
  expect(replaceAt(text, [], 'x')).toBe(text);
});
