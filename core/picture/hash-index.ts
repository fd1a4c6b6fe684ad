/**
 * Finds 64-bit hashes that lie near each other, exactly: multi-index hashing after M. Norouzi, A. Punjani and D. Fleet,
 * "Fast Search in Hamming Space with Multi-Index Hashing" (CVPR 2012). A hash is cut into four blocks of 16 bits. Of two hashes
 * within 8 bits, either some block differs by at most 1 bit, or all four differ by exactly 2: so every block is looked up with
 * all values within 1 bit, and one of them within 2.
 */

/** Bits by which two hashes may differ. */
export const NEAR = 8;
const BLOCKS = 4;
const VALUES = 65_536;

const WITHIN_ONE = [0, ...Array.from({ length: 16 }, (_, bit) => 1 << bit)];
const TWO = WITHIN_ONE.slice(1).flatMap((one, at) => WITHIN_ONE.slice(at + 2).map((other) => one | other));
/** What a block's value is changed by for its look-ups, by block: the first one takes two bits as well. */
const MASKS = Array.from({ length: BLOCKS }, (_, block) =>
  Uint16Array.from(block === 0 ? [...WITHIN_ONE, ...TWO] : WITHIN_ONE),
);

/** How many bits of a 32-bit word are set. */
export function bitsOf(word: number): number {
  let v = word - ((word >>> 1) & 0x55555555);
  v = (v & 0x33333333) + ((v >>> 2) & 0x33333333);
  return Math.imul((v + (v >>> 4)) & 0x0f0f0f0f, 0x01010101) >>> 24;
}

const blockOf = (words: Int32Array, at: number, block: number) =>
  (words[2 * at + (block >> 1)]! >>> (16 * (block & 1))) & 0xffff;

export class HashIndex {
  readonly size: number;
  /** By block: where the entries of each value begin. */
  private readonly starts: Uint32Array[] = [];
  /** By block: entries in order of their value, and a copy of their words in the same order. */
  private readonly entries: Uint32Array[] = [];
  private readonly copies: Int32Array[] = [];

  /** @param words two for each hash: the signed halves */
  constructor(private readonly words: Int32Array) {
    this.size = words.length / 2;
    for (let block = 0; block < BLOCKS; block++) {
      const starts = new Uint32Array(VALUES + 1);
      for (let at = 0; at < this.size; at++) starts[blockOf(words, at, block) + 1]!++;
      for (let value = 0; value < VALUES; value++) starts[value + 1]! += starts[value]!;
      const next = starts.slice();
      const entries = new Uint32Array(this.size);
      const copies = new Int32Array(words.length);
      for (let at = 0; at < this.size; at++) {
        const to = next[blockOf(words, at, block)]!++;
        entries[to] = at;
        copies[2 * to] = words[2 * at]!;
        copies[2 * to + 1] = words[2 * at + 1]!;
      }
      this.starts.push(starts);
      this.entries.push(entries);
      this.copies.push(copies);
    }
  }

  /** Every entry within NEAR bits of a hash, once, with how many bits they differ by. */
  near(high: number, low: number, found: (entry: number, bits: number) => void): void {
    const query = Int32Array.of(high, low);
    for (let block = 0; block < BLOCKS; block++) {
      const starts = this.starts[block]!;
      const copies = this.copies[block]!;
      const value = blockOf(query, 0, block);
      for (const mask of MASKS[block]!) {
        const end = starts[(value ^ mask) + 1]!;
        for (let at = starts[value ^ mask]!; at < end; at++) {
          const one = bitsOf(high ^ copies[2 * at]!);
          if (one > NEAR) continue;
          const bits = one + bitsOf(low ^ copies[2 * at + 1]!);
          if (bits <= NEAR && !this.foundBefore(query, 0, copies, at, block))
            found(this.entries[block]![at]!, bits);
        }
      }
    }
  }

  /** Every pair of entries within NEAR bits of each other, once. */
  pairs(found: (one: number, other: number, bits: number) => void): void {
    const { words } = this;
    for (let block = 0; block < BLOCKS; block++) {
      const starts = this.starts[block]!;
      const entries = this.entries[block]!;
      const copies = this.copies[block]!;
      for (let from = 0; from < this.size; from++) {
        const high = copies[2 * from]!;
        const low = copies[2 * from + 1]!;
        const value = ((block < 2 ? high : low) >>> (16 * (block & 1))) & 0xffff;
        for (const mask of MASKS[block]!) {
          const other = value ^ mask;
          // Each pair of values from one side only.
          if (other < value) continue;
          const end = starts[other + 1]!;
          for (let at = other === value ? from + 1 : starts[other]!; at < end; at++) {
            const one = bitsOf(high ^ copies[2 * at]!);
            if (one > NEAR) continue;
            const bits = one + bitsOf(low ^ copies[2 * at + 1]!);
            if (bits <= NEAR && !this.foundBefore(words, entries[from]!, copies, at, block))
              found(entries[from]!, entries[at]!, bits);
          }
        }
      }
    }
  }

  /** An earlier block leads to the same pair already. */
  private foundBefore(a: Int32Array, one: number, b: Int32Array, other: number, block: number): boolean {
    for (let before = 0; before < block; before++) {
      const apart = bitsOf(blockOf(a, one, before) ^ blockOf(b, other, before));
      if (apart <= (before === 0 ? 2 : 1)) return true;
    }
    return false;
  }
}
