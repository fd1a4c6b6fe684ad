import { groupsOf, type Pair } from '../../core/picture/groups.ts';
import type { Relation } from '../../core/picture/alike.ts';
import type { Site } from '../site/site.ts';
import type { Item } from '../store/item-rows.ts';
import { familyOf } from './checks.ts';

export interface Double {
  item: Item;
  relation: Relation | null;
  sure: number;
  /** Sizes of it that belong to it. */
  sizes: number;
}

/** Groups of items with the same bytes, but for those that a person has said to leave alone. */
export function copyGroups(site: Site): Double[][] {
  const open = new Set(site.findings.ids('copies'));
  return site.items
    .copies()
    .filter((group) => group.some((item) => open.has(item.id)))
    .map((group) => group.map((item) => ({ item, relation: null, sure: 1, sizes: 0 })));
}

/**
 * Groups of pictures that show the same in other bytes, the original first. Sizes of a picture stand with it and are none of the group; so a
 * family alone is no group.
 */
export function alikeGroups(site: Site): Double[][] {
  const open = new Set(site.findings.ids('look-alikes'));
  const pairs = site.alikes.here();
  const shas = [...new Set(pairs.flatMap(({ one, other }) => [one, other]))];
  const items = new Map(shas.map((sha256) => [sha256, site.items.withHash(sha256)]));
  const all = [...items.values()].flat();
  const mainOf = familyOf(all, site.references.sizeSets(all.map((item) => item.id)));
  const sizes = new Map<number, number>();
  for (const { id } of all) if (mainOf(id) !== id) sizes.set(mainOf(id), (sizes.get(mainOf(id)) ?? 0) + 1);
  const number = new Map(shas.map((sha256, at) => [sha256, at]));
  const mains = (sha256: string) => items.get(sha256)!.filter((item) => mainOf(item.id) === item.id);
  const facts = shas.flatMap((sha256, at) => {
    const [item] = mains(sha256);
    return item ? [{ id: at, pixels: (item.width ?? 0) * (item.height ?? 0), bytes: item.bytes }] : [];
  });
  const linked = pairs.map(({ one, other, ...rest }): Pair => ({
    one: number.get(one)!,
    other: number.get(other)!,
    ...rest,
  }));
  return groupsOf(facts, linked)
    .map((group) =>
      group.flatMap(({ id, relation, sure }) =>
        mains(shas[id]!).map((item): Double => ({ item, relation, sure, sizes: sizes.get(item.id) ?? 0 })),
      ),
    )
    .filter((group) => group.length > 1 && group.some(({ item }) => open.has(item.id)))
    .sort((a, b) => b[0]!.item.bytes - a[0]!.item.bytes);
}
