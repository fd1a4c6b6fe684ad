import { setTimeout } from 'node:timers/promises';
import { expect, test } from 'vitest';
import { inLanes, inOrder } from './lanes.ts';

test('results come in their order, however long each takes, with a few under way at once', async () => {
  let [going, most] = [0, 0];
  const work = async (value: number) => {
    most = Math.max(most, ++going);
    await setTimeout((5 - value) * 5);
    going--;
    return value * 10;
  };
  const results: number[] = [];
  for await (const one of inOrder([0, 1, 2, 3, 4, 5], work, 3)) results.push(one);
  expect(results).toEqual([0, 10, 20, 30, 40, 50]);
  expect(most).toBe(3);
});

test.each(['fails', 'is left'])(
  'when it %s, no more is begun and nothing goes on afterwards',
  async (how) => {
    let going = 0;
    const begun: number[] = [];
    const work = async (value: number) => {
      begun.push(value);
      going++;
      await setTimeout(10);
      going--;
      if (how === 'fails' && value === 1) throw new Error('no');
      return value;
    };
    const walk = async () => {
      for await (const one of inOrder(
        Array.from({ length: 50 }, (_, at) => at),
        work,
        4,
      ))
        if (one === 1) break;
    };
    if (how === 'fails') await expect(walk()).rejects.toThrow('no');
    else await walk();
    expect(going).toBe(0);
    expect(begun.length).toBeLessThan(8);
  },
);

test('work without results: the first failure is told when all that was begun has ended', async () => {
  let going = 0;
  const work = async (value: number) => {
    going++;
    await setTimeout(value);
    going--;
    if (value > 1) throw new Error(`${value}`);
  };
  await expect(inLanes([30, 5, 1, 1], work, 2)).rejects.toThrow('5');
  expect(going).toBe(0);
});
