import { expect, test } from 'vitest';
import { Unchanged } from './unchanged.ts';

test('what stays is told by reason: few by name, many in one sentence', () => {
  const unchanged = new Unchanged();
  expect(unchanged.lines()).toEqual([]);
  for (let at = 1; at <= 1204; at++) unchanged.add(`a/${at}.pdf`, 'it isn’t an image.');
  for (const path of ['b/1.jpg', 'b/2.jpg']) unchanged.add(path, 'it is like that already.');
  expect(unchanged.lines()).toEqual([
    '1,204 items are unchanged (“a/1.pdf”, “a/2.pdf”, “a/3.pdf” and 1,201 others): it isn’t an image.',
    '“b/1.jpg” is unchanged: it is like that already.',
    '“b/2.jpg” is unchanged: it is like that already.',
  ]);
});
