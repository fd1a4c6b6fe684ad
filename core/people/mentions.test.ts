import { expect, test } from 'vitest';
import { calledIn, partsOf } from './mentions.ts';

const NAMES = ['Ann', 'Ann Marsh', 'Žofie Bílá', 'Piet'];

test.each([
  ['@Ann, look at this.', ['Ann']],
  ['@Ann Marsh, look at this.', ['Ann Marsh']],
  ['@ann marsh and @PIET', ['Ann Marsh', 'Piet']],
  ['(@Žofie Bílá)', ['Žofie Bílá']],
  ['@Annabel is somebody else', []],
  ['write to me@Piet.example', []],
  ['@@Piet', ['Piet']],
  ['@Piet and @Piet again', ['Piet']],
  ['@', []],
  ['', []],
])('“%s” calls %j', (text, called) => expect(calledIn(text, NAMES)).toEqual(called));

test('the parts of a text are all of it, in its order', () => {
  const text = 'Hm @Piet: is this @Ann’s? @nobody';
  const parts = partsOf(text, NAMES);
  expect(parts.map((part) => part.text).join('')).toBe(text);
  expect(parts.filter((part) => part.name).map((part) => part.text)).toEqual(['@Piet', '@Ann']);
});

test('a long text full of signs is gone through once', () => {
  const text = '@An '.repeat(50_000);
  const before = performance.now();
  expect(partsOf(text, NAMES)).toEqual([{ text }]);
  expect(performance.now() - before).toBeLessThan(5_000);
});
