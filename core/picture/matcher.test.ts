import { expect, test } from 'vitest';
import { seeded } from '../test/chance.ts';
import { bitsOf, NEAR } from './hash-index.ts';
import { Matcher, MOST_CANDIDATES, PART_NEAR, type MatchCandidate } from './matcher.ts';
import { PARTS } from './windows.ts';

/** Images with random hashes, some near an earlier one's. */
function library(seed: number, size: number) {
  const chance = seeded(seed);
  const word = () => (chance.below(65_536) << 16) | chance.below(65_536);
  const pictures: { windows: Int32Array; oriented: Int32Array }[] = [];
  for (let i = 0; i < size; i++) {
    const flat = chance.below(6) === 0;
    const windows = Int32Array.from({ length: flat ? 2 : 90 }, word);
    const oriented = Int32Array.from({ length: flat ? 2 : 16 }, word);
    const near = pictures[chance.below(size)];
    if (near && chance.below(2) === 0) {
      const at = 2 * chance.below(near.windows.length / 2);
      const to = 2 * chance.below(oriented.length / 2);
      oriented[to] = near.windows[at]! ^ (chance.below(16) << chance.below(28));
      oriented[to + 1] = near.windows[at + 1]! ^ (chance.below(16) << chance.below(28));
    }
    if (near && near.windows.length === windows.length && !flat && chance.below(3) === 0) {
      const at = 2 * PARTS[chance.below(4)]!;
      windows[at] = near.windows[at]! ^ (chance.below(16) << chance.below(28));
      windows[at + 1] = near.windows[at + 1]! ^ (chance.below(16) << chance.below(28));
    }
    pictures.push({ windows, oriented });
  }
  return pictures;
}

const keyOf = ({ one, other, orientation, part }: MatchCandidate) =>
  part ? `${Math.min(one, other)} ${Math.max(one, other)} part` : `${one} ${other} ${orientation}`;

test('finds every pair within the bits, both ways round, whether few or many are asked for, and some came later', () => {
  let [pairs, parts] = [0, 0];
  for (let seed = 1; seed <= 12; seed++) {
    const size = 30 + 20 * (seed % 3);
    const pictures = library(seed, size);
    const matcher = new Matcher();
    const early = seed % 2 === 0 ? size : size - 7;
    for (const one of pictures.slice(0, early)) matcher.add(one, true);
    matcher.candidates([0]); // The index is of those that are there by now.
    for (const one of pictures.slice(early)) matcher.add(one, true);
    const asked =
      seed % 3 === 0 ? [size - 1, 3] : Array.from({ length: size }, (_, id) => id).slice(size >> 1);
    const expected = new Map<string, number>();
    for (let one = 0; one < size; one++)
      for (let other = 0; other < size; other++) {
        if (one === other || (!asked.includes(one) && !asked.includes(other))) continue;
        const { windows } = pictures[one]!;
        const { oriented } = pictures[other]!;
        for (let w = 0; w < windows.length; w += 2)
          for (let o = 0; o < oriented.length; o += 2) {
            const bits = bitsOf(windows[w]! ^ oriented[o]!) + bitsOf(windows[w + 1]! ^ oriented[o + 1]!);
            const key = `${one} ${other} ${o / 2}`;
            if (bits <= NEAR && bits < (expected.get(key) ?? 99)) expected.set(key, bits);
          }
        for (const part of PARTS) {
          const [a, b] = [pictures[one]!.windows, pictures[other]!.windows];
          if (one > other || Math.min(a.length, b.length) < 2 * part) continue;
          const bits = bitsOf(a[2 * part]! ^ b[2 * part]!) + bitsOf(a[2 * part + 1]! ^ b[2 * part + 1]!);
          const key = `${one} ${other} part`;
          if (bits <= PART_NEAR && bits < (expected.get(key) ?? 99)) expected.set(key, bits);
        }
      }
    const candidates = matcher.candidates(asked);
    const found = new Map(candidates.map((one) => [keyOf(one), one.bits]));
    expect(found).toEqual(expected);
    expect(candidates).toHaveLength(expected.size);
    pairs += found.size;
    parts += candidates.filter((one) => one.part).length;
  }
  expect(pairs).toBeGreaterThan(60);
  expect(parts).toBeGreaterThan(20);
});

test('an image that is not among them finds what it would as one of them, and leaves nothing behind', () => {
  let told = 0;
  for (let seed = 1; seed <= 8; seed++) {
    const pictures = library(seed, 260);
    const [other, ...there] = pictures.reverse();
    const keys = (found: MatchCandidate[]) => found.map(keyOf).sort();
    const [matcher, within] = [new Matcher(), new Matcher()];
    for (const one of there) for (const each of [matcher, within]) each.add(one, true);
    const id = within.add(other!);
    const wanted = keys(within.candidates([id]));
    expect(keys(matcher.candidatesOfOther(other!))).toEqual(wanted);
    // Asked for again it is the same, and nobody else finds it.
    expect(keys(matcher.candidatesOfOther(other!))).toEqual(wanted);
    expect(matcher.size).toBe(there.length);
    for (const one of matcher.candidates([0])) expect([one.one, one.other]).not.toContain(id);
    told += wanted.length;
  }
  expect(told).toBeGreaterThan(4);
});

test('of hundreds that all look the same, each is verified against a bounded number', () => {
  const matcher = new Matcher();
  const same = { windows: Int32Array.of(7, 7), oriented: Int32Array.of(7, 7) };
  for (let i = 0; i < 700; i++) matcher.add(same);
  expect(matcher.candidates([5])).toHaveLength(MOST_CANDIDATES);
});

test('a library asked for in slices is gone through once: every pair is told, and none twice', () => {
  for (let seed = 20; seed < 26; seed++) {
    const pictures = library(seed, 60);
    const whole = new Matcher();
    for (const one of pictures) whole.add(one, true);
    const all = pictures.map((_, id) => id);
    const expected = whole.candidates(all).map(keyOf);
    const sliced = new Matcher();
    for (const one of pictures) sliced.add(one);
    const found = [];
    for (let at = 0; at < all.length; at += 8) found.push(...sliced.candidates(all.slice(at, at + 8)));
    expect(found.map(keyOf).sort()).toEqual(expected.sort());
    expect(expected.length).toBeGreaterThan(5);
  }
});
