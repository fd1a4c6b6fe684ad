import { expect, test } from 'vitest';
import { each } from '../../core/paced.ts';
import { breathe } from './breathe.ts';

test('loops that follow each other share one turn: others go on although each of them is short', async () => {
  let turns = 0;
  let running = true;
  const others = () => {
    turns++;
    if (running) setImmediate(others);
  };
  setImmediate(others);
  const busy = (ms: number) => {
    for (const until = performance.now() + ms; performance.now() < until;);
  };
  const start = performance.now();
  let longest = 0;
  let [seen, since] = [0, start];
  for (let loop = 0; loop < 40; loop++)
    await each([1, 2, 3], breathe, () => {
      if (turns > seen) [seen, since] = [turns, performance.now()];
      busy(1);
      longest = Math.max(longest, performance.now() - since);
    });
  running = false;
  // 120 ms of work in turns of 8 ms, and whatever the machine did beside it.
  expect(turns).toBeGreaterThanOrEqual(8);
  expect(longest).toBeLessThan((performance.now() - start) / 3);
});
