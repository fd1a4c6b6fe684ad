import type { Relation } from './alike.ts';

/** A pair of images that show the same; `weak`: with hardly any structure, so that it says nothing of others. */
export interface Pair {
  one: number;
  other: number;
  relation: Relation;
  sure: number;
  weak: boolean;
}

export interface PictureFacts {
  id: number;
  pixels: number;
  bytes: number;
}

export interface Member {
  id: number;
  /** How it is related to the original; null: it is the original. */
  relation: Relation | null;
  /** How sure that is, 0 to 1. */
  sure: number;
}

/**
 * Puts pairs together to groups. The original is the image with the most pixels, then the most bytes. An image belongs to a group
 * when it is like its original or like two of its members: pairs alone would chain things that have nothing in common.
 * @returns groups of two or more, the original first, then the others, the surest first
 */
export function groupsOf(pictures: readonly PictureFacts[], pairs: readonly Pair[]): Member[][] {
  const facts = new Map(pictures.map((one) => [one.id, one]));
  const larger = (a: number, b: number) => {
    const [one, other] = [facts.get(a)!, facts.get(b)!];
    return other.pixels - one.pixels || other.bytes - one.bytes || one.id - other.id;
  };
  const of = new Map<number, Map<number, Pair>>();
  const put = (id: number, to: number, pair: Pair) => {
    const there = of.get(id) ?? new Map<number, Pair>();
    const before = there.get(to);
    if (!before || before.sure < pair.sure) there.set(to, pair);
    of.set(id, there);
  };
  for (const pair of pairs) {
    if (!facts.has(pair.one) || !facts.has(pair.other) || pair.one === pair.other) continue;
    put(pair.one, pair.other, pair);
    put(pair.other, pair.one, pair);
  }
  const taken = new Set<number>();
  const groups: Member[][] = [];
  for (const id of [...of.keys()].sort(larger)) {
    if (taken.has(id)) continue;
    const group = new Set([id]);
    const strong = (one: number, other: number) => of.get(one)?.get(other)?.weak === false;
    for (const [other] of of.get(id)!) if (!taken.has(other) && strong(id, other)) group.add(other);
    for (let grown = true; grown;) {
      grown = false;
      for (const member of group)
        for (const [other] of of.get(member)!) {
          if (group.has(other) || taken.has(other) || !strong(member, other)) continue;
          let like = 0;
          for (const one of group) if (strong(one, other)) like++;
          if (like < 2) continue;
          group.add(other);
          grown = true;
        }
    }
    // With hardly any structure two make a pair, and no more than that.
    if (group.size === 1) {
      const [only] = [...of.get(id)!]
        .filter(([other, pair]) => pair.weak && !taken.has(other))
        .sort(([, a], [, b]) => b.sure - a.sure);
      if (only) group.add(only[0]);
    }
    if (group.size === 1) continue;
    for (const one of group) taken.add(one);
    const members = [...group]
      .filter((one) => one !== id)
      .map((one): Member => {
        const direct = of.get(id)!.get(one);
        const near = direct ?? [...of.get(one)!.values()].sort((a, b) => b.sure - a.sure)[0]!;
        return { id: one, relation: near.relation, sure: direct ? direct.sure : near.sure / 2 };
      })
      .sort((a, b) => b.sure - a.sure || a.id - b.id);
    groups.push([{ id, relation: null, sure: 1 }, ...members]);
  }
  return groups;
}
