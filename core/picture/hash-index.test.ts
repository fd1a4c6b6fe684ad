import { expect, test } from 'vitest';
import { seeded } from '../test/chance.ts';
import { bitsOf, HashIndex, NEAR } from './hash-index.ts';

/** Hashes in clusters, some of them at the very limits, among many that are alone. */
function clustered(count: number, seed: number): Int32Array {
  const { below } = seeded(seed);
  const words = new Int32Array(2 * count);
  for (let at = 0; at < count; at++) {
    const from = at > 10 && below(3) > 0 ? below(at) : -1;
    words[2 * at] = from < 0 ? below(2 ** 31) * (below(2) ? 1 : -1) : words[2 * from]!;
    words[2 * at + 1] = from < 0 ? below(2 ** 31) * (below(2) ? 1 : -1) : words[2 * from + 1]!;
    if (from < 0) continue;
    // Two bits in each block is the case that only the wider look-ups of the first block find.
    if (below(4) === 0)
      for (let block = 0; block < 4; block++) {
        const bit = below(16);
        const mask = (1 << bit) | (1 << ((bit + 1 + below(15)) % 16));
        words[2 * at + (block >> 1)]! ^= mask << (16 * (block & 1));
      }
    else for (let flips = below(11); flips > 0; flips--) words[2 * at + below(2)]! ^= 1 << below(32);
  }
  return words;
}

test('every pair within the distance is found, once, and no other; the same for a single question', () => {
  for (let seed = 1; seed <= 12; seed++) {
    const words = clustered(600, seed * 31);
    const index = new HashIndex(words);
    const wanted = new Map<string, number>();
    const apart = (a: number, b: number) =>
      bitsOf(words[2 * a]! ^ words[2 * b]!) + bitsOf(words[2 * a + 1]! ^ words[2 * b + 1]!);
    for (let a = 0; a < index.size; a++)
      for (let b = a + 1; b < index.size; b++) if (apart(a, b) <= NEAR) wanted.set(`${a} ${b}`, apart(a, b));
    expect([...wanted.values()].filter((bits) => bits === NEAR).length).toBeGreaterThan(20);
    const found = new Map<string, number>();
    index.pairs((a, b, bits) => {
      const key = a < b ? `${a} ${b}` : `${b} ${a}`;
      expect(found.has(key)).toBe(false);
      found.set(key, bits);
    });
    expect([...found].sort()).toEqual([...wanted].sort());
    for (let a = 0; a < 40; a++) {
      const near: [number, number][] = [];
      index.near(words[2 * a]!, words[2 * a + 1]!, (entry, bits) => near.push([entry, bits]));
      const all = Array.from({ length: index.size }, (_, b): [number, number] => [b, apart(a, b)]);
      expect(near.sort((x, y) => x[0] - y[0])).toEqual(all.filter(([, bits]) => bits <= NEAR));
    }
  }
});

test('nothing, one, and many that are the same', () => {
  const pairs = (words: Int32Array) => {
    let count = 0;
    new HashIndex(words).pairs(() => count++);
    return count;
  };
  expect(pairs(new Int32Array())).toBe(0);
  expect(pairs(Int32Array.of(5, -7))).toBe(0);
  expect(pairs(new Int32Array(2 * 50).fill(-1))).toBe((50 * 49) / 2);
});
