import { describe, expect, test } from 'vitest';
import { lastNumber, trim, withoutQuery } from './cut.ts';

describe('cuts', () => {
  test.each([
    ['//a/b//', 'both', 'a/b'],
    ['//a/b//', 'start', 'a/b//'],
    ['//a/b//', 'end', '//a/b'],
    ['////', 'both', ''],
    ['', 'both', ''],
  ] as const)('“%s” trimmed at %s: “%s”', (text, ends, expected) => {
    expect(trim(text, '/', ends)).toBe(expected);
  });

  test('an address ends where its query or fragment begins', () => {
    expect(['a.png', 'a.png?v=1#x', 'a#?', '?', ''].map(withoutQuery)).toEqual([
      'a.png',
      'a.png',
      'a',
      '',
      '',
    ]);
  });

  test('the last number of a name', () => {
    expect(['a12b345c', '12', 'abc', '٣٤x'].map(lastNumber)).toEqual(['345', '12', '', '٣٤']);
  });
});
