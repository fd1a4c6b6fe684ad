import { each, filter, flatMap, map, mapOf, sorted } from '../../core/paced.ts';
import { groupsOf, type Pair } from '../../core/picture/groups.ts';
import type { Relation } from '../../core/picture/alike.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import { breathe } from '../workers/breathe.ts';
import { familyOf } from './checks.ts';

export interface Double {
  item: Item;
  relation: Relation | null;
  sure: number;
  /** Sizes of it that belong to it. */
  sizes: number;
}

/** Groups of items with the same bytes, but for those that a person has said to leave alone. */
export async function copyGroups(site: Pick<Site, 'reader' | 'finder' | 'findings'>): Promise<Double[][]> {
  const open = new Set(await site.findings.ids('copies'));
  const groups = await filter(await site.finder.copies(site.reader), breathe, (group) =>
    group.some((item) => open.has(item.id)),
  );
  return map(groups, breathe, (group) => group.map((item) => ({ item, relation: null, sure: 1, sizes: 0 })));
}

/**
 * Groups of images that show the same in other bytes, the original first. Sizes of an image stand with it and are none of the group; so a
 * family alone is no group.
 */
export async function alikeGroups(
  site: Pick<Site, 'items' | 'references' | 'alikes' | 'findings'>,
): Promise<Double[][]> {
  const open = new Set(await site.findings.ids('look-alikes'));
  const pairs = site.alikes.here();
  const shown = new Set<string>();
  await each(pairs, breathe, ({ one, other }) => shown.add(one).add(other));
  const shas = [...shown];
  const items = await mapOf(shas, breathe, (sha256) => [sha256, site.items.withHash(sha256)]);
  const all = [...items.values()].flat();
  const sets: number[][] = [];
  for (let at = 0; at < all.length; at += 250) {
    sets.push(...site.references.sizeSets(all.slice(at, at + 250).map((item) => item.id)));
    await breathe();
  }
  const mainOf = await familyOf(all, sets);
  const sizes = new Map<number, number>();
  await each(all, breathe, ({ id }) => {
    if (mainOf(id) !== id) sizes.set(mainOf(id), (sizes.get(mainOf(id)) ?? 0) + 1);
  });
  const number = await mapOf(shas, breathe, (sha256, at) => [sha256, at]);
  const mains = (sha256: string) => items.get(sha256)!.filter((item) => mainOf(item.id) === item.id);
  const facts = await flatMap(shas, breathe, (sha256, at) => {
    const [item] = mains(sha256);
    return item ? [{ id: at, pixels: (item.width ?? 0) * (item.height ?? 0), bytes: item.bytes }] : [];
  });
  const linked = await map(pairs, breathe, ({ one, other, ...rest }): Pair => ({
    one: number.get(one)!,
    other: number.get(other)!,
    ...rest,
  }));
  const groups = await map(groupsOf(facts, linked), breathe, (group) =>
    group.flatMap(({ id, relation, sure }) =>
      mains(shas[id]!).map((item): Double => ({ item, relation, sure, sizes: sizes.get(item.id) ?? 0 })),
    ),
  );
  const told = await filter(
    groups,
    breathe,
    (group) => group.length > 1 && group.some(({ item }) => open.has(item.id)),
  );
  return sorted(told, breathe, (a, b) => b[0]!.item.bytes - a[0]!.item.bytes);
}
