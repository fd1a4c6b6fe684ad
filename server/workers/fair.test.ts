import { expect, test } from 'vitest';
import { FairQueue, onBehalf, onWhoseBehalf } from './fair.ts';

test('persons are served in turn, each in order; who comes late does not wait for the thousand of another', () => {
  const queue = new FairQueue<string>();
  for (let at = 0; at < 1000; at++) queue.push(`a${at}`, 1);
  expect(queue.shift()).toBe('a0');
  queue.push('b0', 2);
  queue.push('b1', 2);
  queue.push('background', undefined);
  expect(Array.from({ length: 6 }, () => queue.shift())).toEqual([
    'a1',
    'b0',
    'background',
    'a2',
    'b1',
    'a3',
  ]);
  expect(queue.remove('a4')).toBe(true);
  expect(queue.remove('a4')).toBe(false);
  expect([queue.shift(), queue.length]).toEqual(['a5', 994]);
  expect(queue.clear()).toHaveLength(994);
  expect([queue.shift(), queue.length]).toEqual([undefined, 0]);
});

test('what is done on behalf of a person is so through everything that it waits for, and nothing else is', async () => {
  const queue = new FairQueue<string>();
  const later = async (name: string) => {
    await new Promise((done) => setTimeout(done, 1));
    queue.push(`${name} of ${onWhoseBehalf()}`);
  };
  await Promise.all([onBehalf(7, () => later('one')), later('two'), onBehalf(8, () => later('three'))]);
  expect(queue.clear().sort()).toEqual(['one of 7', 'three of 8', 'two of undefined']);
});
