import type { Alike, Relation } from './alike.ts';
import type { Pair } from './groups.ts';
import type { MatchCandidate } from './matcher.ts';

/** From here on a likeness is beyond doubt: no other way round is tried, and it counts for others. */
const BEYOND_DOUBT = 0.3;
/** So many looks in vain, the nearest first, and an image is taken to be like no others that were asked for at once. */
const IN_VAIN = 32;
/** Two that are both like so many others, beyond doubt, are like each other. */
const COMMON = 2;

/**
 * What is known of which images show the same. Of an image with many variants not every two are verified: the largest first, and two
 * that are both like two others are taken to be alike, so that the work grows with the number of images and not with its square.
 */
export class Likenesses {
  private readonly known = new Map<number, Map<number, Pair>>();

  /**
   * @param verify looks at two images
   * @param pixels of an image: what it is compared with first decides how a group is told
   */
  constructor(
    private readonly verify: (candidate: MatchCandidate) => Alike | undefined,
    private readonly pixels: (id: number) => number,
  ) {}

  /** What was found earlier. */
  know(likeness: Pair): void {
    for (const [id, to] of [
      [likeness.one, likeness.other],
      [likeness.other, likeness.one],
    ] as const) {
      const of = this.known.get(id) ?? new Map<number, Pair>();
      of.set(to, likeness);
      this.known.set(id, of);
    }
  }

  between(one: number, other: number): Pair | undefined {
    return this.known.get(one)?.get(other);
  }

  /**
   * Verifies candidates, as far as they tell anything new.
   * @param candidates the nearest first
   * @returns pairs that were not known, or are surer now
   */
  find(
    candidates: readonly MatchCandidate[],
    progress: (done: number, total: number) => void = () => undefined,
  ): Pair[] {
    const pairs = new Map<string, MatchCandidate[]>();
    for (const candidate of candidates) {
      const { one, other } = candidate;
      const key = one < other ? `${one} ${other}` : `${other} ${one}`;
      const ways = pairs.get(key);
      if (ways) ways.push(candidate);
      else pairs.set(key, [candidate]);
    }
    // The nearest first, and of those the largest; the order of what is as large stays.
    const ordered = [...pairs.values()]
      .map((ways) => {
        const { one, other } = ways[0]!;
        return {
          ways,
          far: Math.min(...ways.map(({ bits }) => bits)) >> 2,
          size: Math.max(this.pixels(one), this.pixels(other)),
        };
      })
      .sort((a, b) => a.far - b.far || b.size - a.size);
    const found: Pair[] = [];
    const vain = new Map<number, number>();
    ordered.forEach(({ ways }, at) => {
      if (at % 50 === 0) progress(at, ordered.length);
      const { one, other } = ways[0]!;
      if ((vain.get(one) ?? 0) >= IN_VAIN || (vain.get(other) ?? 0) >= IN_VAIN) return;
      const { pair, looked } = this.look(ways);
      if (pair) {
        this.know(pair);
        found.push(pair);
      } else if (looked) for (const id of [one, other]) vain.set(id, (vain.get(id) ?? 0) + 1);
    });
    return found;
  }

  private look(ways: readonly MatchCandidate[]): { pair?: Pair; looked: boolean } {
    const { one, other } = ways[0]!;
    const before = this.between(one, other);
    if (before && before.sure >= BEYOND_DOUBT) return { looked: false };
    const implied = this.implied(one, other);
    if (implied) return { pair: implied, looked: false };
    let best = before;
    for (const way of ways) {
      const alike = this.verify(way);
      if (!alike || (best && best.sure >= alike.sure)) continue;
      best = { one, other, relation: alike.relation, sure: alike.sure, weak: alike.weak };
      if (best.sure >= BEYOND_DOUBT) break;
    }
    return best === before ? { looked: true } : { pair: best!, looked: true };
  }

  /** By what both are like. Told as what changes more of the two, and half as sure. */
  private implied(one: number, other: number): Pair | undefined {
    const [mine, theirs] = [this.known.get(one), this.known.get(other)];
    if (!mine || !theirs) return undefined;
    let common = 0;
    let surest: { relation: Relation; sure: number } | undefined;
    const sure = (likeness: Pair | undefined) =>
      likeness && !likeness.weak && likeness.sure >= BEYOND_DOUBT ? likeness : undefined;
    for (const [id, likeness] of mine) {
      const [first, second] = [sure(likeness), sure(theirs.get(id))];
      if (!first || !second) continue;
      common++;
      const least = Math.min(first.sure, second.sure);
      if (!surest || surest.sure < least)
        surest = {
          sure: least,
          relation: RANK[first.relation] > RANK[second.relation] ? first.relation : second.relation,
        };
      if (common >= COMMON)
        return { one, other, relation: surest.relation, sure: surest.sure / 2, weak: false };
    }
    return undefined;
  }
}

/** What changes an image more has the higher number. */
const RANK: Record<Relation, number> = { 're-encoded': 0, resized: 1, cropped: 2, edited: 3, turned: 4 };
