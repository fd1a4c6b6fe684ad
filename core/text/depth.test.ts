import { expect, test } from 'vitest';
import { DEEPEST, refuseDeepBrackets, refuseDeepLines } from './depth.ts';

test('what is nested as people nest it is read, also when there is much of it', () => {
  refuseDeepBrackets('{"a":[1,{"b":[]}]},'.repeat(10_000), true);
  refuseDeepBrackets(`"${'['.repeat(10_000)}\\"${'{'.repeat(10_000)}"`, true);
  refuseDeepBrackets('[{'.repeat(DEEPEST / 2) + ']}'.repeat(10_000), false);
  refuseDeepLines(`${'> '.repeat(20)}a\n- b\n1. c\n`.repeat(5000));
  refuseDeepLines(`${'-'.repeat(5000)}\n${'*'.repeat(5000)}\n${'1.5'.repeat(5000)}\n${' '.repeat(5000)}x`);
});

test.each([
  ['brackets', () => refuseDeepBrackets('['.repeat(DEEPEST + 1), true)],
  ['braces on lines of their own', () => refuseDeepBrackets('{\n'.repeat(DEEPEST + 1), false)],
  ['behind a string that ends', () => refuseDeepBrackets(`"\\\\"${'['.repeat(DEEPEST + 1)}`, true)],
  ['quotes', () => refuseDeepLines(`a\n${'>'.repeat(DEEPEST + 1)}`)],
  ['lists', () => refuseDeepLines(`a\n  ${'- '.repeat(DEEPEST + 1)}`)],
  ['numbered lists', () => refuseDeepLines('1. '.repeat(DEEPEST + 1))],
])('%s that are nested without end are refused', (_, read) => {
  expect(read).toThrow(RangeError);
});
