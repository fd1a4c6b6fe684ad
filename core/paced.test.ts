import { describe, expect, test } from 'vitest';
import { each, filter, flatMap, map, mapOf, setOf, sorted, WITHOUT_PAUSE } from './paced.ts';

/** Lets others go on before each; tells how often it did. */
function counting() {
  const pauses = { count: 0 };
  return Object.assign(
    () => {
      pauses.count++;
      return new Promise<void>((resume) => setImmediate(resume));
    },
    { pauses },
  );
}

describe('loops that let others go on', () => {
  test('do the same as plain ones, in order, with a pause before each', async () => {
    const breathe = counting();
    const all = ['b', 'a', 'c', 'a'];
    const seen: string[] = [];
    await each(new Set(all), breathe, (one, at) => seen.push(`${at}${one}`));
    expect(seen).toEqual(['0b', '1a', '2c']);
    expect(await map(all, breathe, (one, at) => one + at)).toEqual(['b0', 'a1', 'c2', 'a3']);
    expect(await flatMap(all, breathe, (one) => (one === 'a' ? [] : [one, one]))).toEqual([
      'b',
      'b',
      'c',
      'c',
    ]);
    expect(await filter(all, breathe, (one) => one > 'a')).toEqual(['b', 'c']);
    expect([...(await setOf(all, breathe, (one) => (one === 'c' ? undefined : one)))]).toEqual(['b', 'a']);
    // As in a Map, the last of one key counts.
    expect([...(await mapOf(all, breathe, (one, at) => (one === 'b' ? undefined : [one, at])))]).toEqual([
      ['a', 3],
      ['c', 2],
    ]);
    expect(breathe.pauses.count).toBe(3 + 5 * all.length);
  });

  test('end with what fails in one of them', async () => {
    const fails = () => {
      throw new Error('no');
    };
    await expect(each([1, 2], counting(), fails)).rejects.toThrow('no');
  });

  test.each([0, 1, 1999, 2000, 2001, 6001, 10_000])(
    '%i are ordered as by sort, equals as they came',
    async (length) => {
      const all = Array.from({ length }, (_, at) => ({ key: (at * 7919) % 101, at }));
      const compare = (one: { key: number }, other: { key: number }) => one.key - other.key;
      const breathe = counting();
      const order = await sorted(all, length > 5000 ? WITHOUT_PAUSE : breathe, compare);
      expect(order).toEqual([...all].sort(compare));
      expect(all.map((one) => one.at)).toEqual(Array.from({ length }, (_, at) => at));
      if (length > 2000 && length < 5000) expect(breathe.pauses.count).toBeGreaterThan(length);
    },
  );
});
