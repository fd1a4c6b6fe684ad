import type { Candidate } from './alike.ts';
import { bitsOf, HashIndex, NEAR } from './hash-index.ts';
import { hashesOf, PARTS, type PictureHashes, type Prepared } from './windows.ts';

/** Two images that may show the same: a window of `one` is near the whole of `other`, or the same window of it. */
export interface MatchCandidate extends Candidate {
  one: number;
  other: number;
}

/** So many candidates of one image are worth verifying, the nearest first. */
export const MOST_CANDIDATES = 100;
/** Bits by which the same part of two may differ: nothing has been moved or sized there. */
export const PART_NEAR = 6;
/** Below so many images asked for at once, going through all hashes is quicker than an index of theirs. */
const FEW = 6;

/**
 * All images by their hashes. What is asked for is found among all: windows of all against the whole of each that is asked for, and,
 * with those that were asked for before, the other way round; with the others that will be done when they are asked for. The index is
 * made anew when many have come since; those few are gone through one by one.
 */
export class Matcher {
  private readonly entries: PictureHashes[] = [];
  private readonly askedBefore = new Set<number>();
  private index: Index = { size: 0 };

  get size(): number {
    return this.entries.length;
  }

  /**
   * @param asked it has been asked for before, by an earlier matcher
   * @returns the number by which the image is spoken of
   */
  add({ windows, oriented }: PictureHashes, asked = false): number {
    const id = this.entries.push({ windows, oriented }) - 1;
    if (asked) this.askedBefore.add(id);
    return id;
  }

  /**
   * Candidates of some images, the nearest first: of each two, for each way round and each orientation, the nearest window. Of no image
   * that is asked for more than MOST_CANDIDATES.
   */
  candidates(asked: readonly number[]): MatchCandidate[] {
    const found = new Nearest(this.entries.length);
    const index = this.indexed();
    for (const other of asked) {
      const { oriented } = this.entries[other]!;
      for (let orientation = 0; 2 * orientation < oriented.length; orientation++) {
        const [high, low] = [oriented[2 * orientation]!, oriented[2 * orientation + 1]!];
        index.hashes?.near(high, low, found.see);
        for (let one = index.size; one < this.entries.length; one++)
          nearWindows(this.entries[one]!, high, low, (window, bits) => found.see(one, window, bits));
        found.take(other, orientation);
      }
    }
    const own = new Set(asked);
    const theirs = asked.length > FEW ? new WindowIndex(this.entries, () => true, asked) : undefined;
    for (const other of this.askedBefore) {
      if (own.has(other)) continue;
      const { oriented } = this.entries[other]!;
      for (let orientation = 0; 2 * orientation < oriented.length; orientation++) {
        const [high, low] = [oriented[2 * orientation]!, oriented[2 * orientation + 1]!];
        if (theirs) theirs.near(high, low, found.see);
        else
          for (const one of asked)
            nearWindows(this.entries[one]!, high, low, (window, bits) => found.see(one, window, bits));
        found.take(other, orientation);
      }
    }
    const parts = this.samePart(asked, own);
    for (const id of asked) this.askedBefore.add(id);
    return bounded([...found.all, ...parts], own);
  }

  /** Candidates of an image that is not among them, and is not kept. */
  candidatesOfOther(hashes: PictureHashes): MatchCandidate[] {
    const id = this.add(hashes);
    try {
      return this.candidates([id]);
    } finally {
      this.entries.pop();
      this.askedBefore.delete(id);
      if (this.index.size > id) this.index = { size: 0 };
    }
  }

  /** Of those that are asked for or have been: the same part is near. Each two are told once. */
  private samePart(asked: readonly number[], own: ReadonlySet<number>): MatchCandidate[] {
    const found = new Nearest(this.entries.length);
    const index = this.indexed();
    for (const other of asked) {
      const { windows } = this.entries[other]!;
      for (const part of PARTS) {
        if (2 * part >= windows.length) continue;
        const see = (one: number, window: number, bits: number) => {
          if (window !== part || bits > PART_NEAR) return;
          if (own.has(one) ? one < other : this.askedBefore.has(one)) found.see(one, window, bits);
        };
        const [high, low] = [windows[2 * part]!, windows[2 * part + 1]!];
        index.parts?.near(high, low, see);
        for (let one = index.size; one < this.entries.length; one++)
          see(one, part, bitsBetween(this.entries[one]!, part, high, low));
      }
      found.take(other, 0, true);
    }
    return found.all;
  }

  private indexed(): Index {
    const { index, entries } = this;
    if (entries.length - index.size <= 100 + index.size / 10) return index;
    return (this.index = {
      hashes: new WindowIndex(entries, () => true),
      parts: new WindowIndex(entries, (window) => PARTS.includes(window)),
      size: entries.length,
    });
  }
}

/** The first so many images by their windows; of a few there is none. */
interface Index {
  size: number;
  hashes?: WindowIndex;
  parts?: WindowIndex;
}

/** Candidates of two images alone: the first is spoken of as 0. */
export function candidatesOf(first: Prepared, second: Prepared): MatchCandidate[] {
  const matcher = new Matcher();
  for (const picture of [first, second]) matcher.add(hashesOf(picture), true);
  return matcher.candidates([0]);
}

/** Of all windows that are near one hash, the nearest of each image. */
class Nearest {
  readonly all: MatchCandidate[] = [];
  private readonly bits: Uint8Array;
  private readonly windows: Uint8Array;
  private readonly seen: number[] = [];

  constructor(size: number) {
    this.bits = new Uint8Array(size).fill(255);
    this.windows = new Uint8Array(size);
  }

  readonly see = (one: number, window: number, bits: number): void => {
    const before = this.bits[one]!;
    // Of two as near, the earlier window: the whole comes first.
    if (before < bits || (before === bits && this.windows[one]! <= window)) return;
    if (before === 255) this.seen.push(one);
    this.bits[one] = bits;
    this.windows[one] = window;
  };

  /** What was seen is near the whole of `other`, turned, or the same part of it. */
  take(other: number, orientation: number, part = false): void {
    for (const one of this.seen) {
      const [window, bits] = [this.windows[one]!, this.bits[one]!];
      if (one !== other) this.all.push({ one, other, window, orientation, bits, ...(part ? { part } : {}) });
      this.bits[one] = 255;
    }
    this.seen.length = 0;
  }
}

/** The windows of some images, to be found by a hash. */
class WindowIndex {
  private readonly hashes: HashIndex;
  private readonly owners: Int32Array;
  private readonly windows: Uint8Array;

  /**
   * @param wanted which of the windows
   * @param ids whose
   */
  constructor(
    entries: readonly PictureHashes[],
    wanted: (window: number) => boolean,
    ids: Iterable<number> = entries.keys(),
  ) {
    const found: number[] = [];
    const words: number[] = [];
    for (const id of ids) {
      const { windows } = entries[id]!;
      for (let window = 0; 2 * window < windows.length; window++) {
        if (!wanted(window)) continue;
        found.push(id, window);
        words.push(windows[2 * window]!, windows[2 * window + 1]!);
      }
    }
    this.owners = Int32Array.from({ length: found.length / 2 }, (_, at) => found[2 * at]!);
    this.windows = Uint8Array.from({ length: found.length / 2 }, (_, at) => found[2 * at + 1]!);
    this.hashes = new HashIndex(Int32Array.from(words));
  }

  near(high: number, low: number, found: (id: number, window: number, bits: number) => void): void {
    this.hashes.near(high, low, (entry, bits) => found(this.owners[entry]!, this.windows[entry]!, bits));
  }
}

function nearWindows(
  entry: PictureHashes,
  high: number,
  low: number,
  found: (window: number, bits: number) => void,
): void {
  for (let window = 0; 2 * window < entry.windows.length; window++) {
    const bits = bitsBetween(entry, window, high, low);
    if (bits <= NEAR) found(window, bits);
  }
}

/** By how many bits a window's hash differs; more than NEAR: by that or more, or there is no such window. */
function bitsBetween({ windows }: PictureHashes, window: number, high: number, low: number): number {
  if (2 * window >= windows.length) return NEAR + 1;
  const bits = bitsOf(windows[2 * window]! ^ high);
  return bits > NEAR ? bits : bits + bitsOf(windows[2 * window + 1]! ^ low);
}

/** What agrees as a whole tells more than what agrees in a part. */
const wholeFirst = (a: MatchCandidate, b: MatchCandidate) =>
  Number(a.part ?? false) - Number(b.part ?? false);

/** The nearest first, and of no image that was asked for more than are worth it. */
function bounded(candidates: MatchCandidate[], asked: ReadonlySet<number>): MatchCandidate[] {
  const counts = new Map<number, number>();
  const room = (id: number) => asked.has(id) && (counts.get(id) ?? 0) < MOST_CANDIDATES;
  return candidates
    .sort(
      (a, b) =>
        wholeFirst(a, b) ||
        a.bits - b.bits ||
        a.one - b.one ||
        a.other - b.other ||
        a.orientation - b.orientation,
    )
    .filter(({ one, other }) => {
      if (!room(one) && !room(other)) return false;
      for (const id of [one, other]) counts.set(id, (counts.get(id) ?? 0) + 1);
      return true;
    });
}
