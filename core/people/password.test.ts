import { describe, expect, test } from 'vitest';
import { MOST_PASSWORD, passwordFault } from './password.ts';

const COMMON = new Set(['polniypizdec0211', 'leavemealone']);
const fault = (password: string, name = 'Ottilie Marrow') => passwordFault(password, name, COMMON);

describe('a password', () => {
  test.each([
    ['peat tea at nine', 'a few words'],
    ['Žluťoučký kůň 7', 'letters of any script'],
    ['🌒🌓🌔🌕🌖🌗🌘🌑🌒🌔🌖🌘', 'twelve characters, however many units they take'],
    ['x'.repeat(11) + 'y', 'not the same to its end'],
    ['ottilie likes dark nights', 'more than the name'],
  ])('%s is good: %s', (password) => expect(fault(password)).toBeUndefined());

  test.each([
    ['short', 'at least 12'],
    ['elevenchars', 'has 11 characters'],
    ['a'.repeat(MOST_PASSWORD + 1), 'longer than'],
    ['LeaveMeAlone', 'Many people use'],
    ['aaaaaaaaaaaa', 'Many people use'],
    ['abcabcabcabcab', 'Many people use'],
    ['123456789012', 'Many people use'],
    ['lkjihgfedcba', 'Many people use'],
    ['Ottilie-Marrow1', 'little more than your name'],
    ['ottiliemarrow!!', 'little more than your name'],
  ])('%s is refused: %s', (password, says) => {
    expect(fault(password)).toContain(says);
    expect(fault(password)).toMatch(/\.$/);
  });

  test('of somebody with a very short name may hold it', () => {
    expect(fault('al and the moor', 'Al')).toBeUndefined();
  });
});
