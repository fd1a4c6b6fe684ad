import type { NamingTable } from '../../../api/naming.ts';
import { variantsOf } from '../../../core/naming/variants.ts';
import { each, filter, map, mapOf, setOf } from '../../../core/paced.ts';
import { namingFacts } from '../../changes/naming-facts.ts';
import type { Site } from '../../app/site.ts';
import type { Item } from '../../db/item-rows.ts';
import { breathe } from '../../workers/breathe.ts';

/** Items whose pages are asked for at once. */
const AT_ONCE = 250;

/** All that new names are made of: the items asked for, in that order, then size variants of them that were not asked for. */
export async function namingTable(
  site: Pick<Site, 'index' | 'items' | 'references'>,
  asked: Item[],
): Promise<NamingTable> {
  const folders = [...(await setOf(asked, breathe, (item) => item.folder))];
  const inFolders = await site.items.inFolders(folders);
  const ids = await setOf(asked, breathe, (item) => item.id);
  const sets: number[][] = [];
  for (let at = 0; at < asked.length; at += AT_ONCE) {
    for (const set of site.references.sizeSets(asked.slice(at, at + AT_ONCE).map((item) => item.id)))
      sets.push(set);
    await breathe();
  }
  const around = await mapOf(inFolders, breathe, (one) => [one.id, one]);
  const beyond = new Set<number>();
  await each(sets, breathe, (set) => {
    for (const id of set) if (!around.has(id)) beyond.add(id);
  });
  for (const item of await site.items.many([...beyond])) around.set(item.id, item);
  const variants = await filter(
    await variantsOf([...around.values()], sets, breathe),
    breathe,
    (one) => ids.has(one.of) || ids.has(one.id),
  );
  const others = await setOf(variants, breathe, (one) => (ids.has(one.id) ? undefined : one.id));
  const items = [...asked, ...(await site.items.many([...others]))];
  const concerned = await setOf(items, breathe, (item) => item.path);
  const titles = new Map<number, string[]>();
  for (let at = 0; at < items.length; at += AT_ONCE) {
    const some = items.slice(at, at + AT_ONCE).map((item) => item.id);
    for (const [id, list] of site.references.pageTitles(some, true)) titles.set(id, list);
    await breathe();
  }
  const taken = new Map<string, string[]>();
  await each(items, breathe, (item) => taken.set(item.folder, []));
  await each(site.index.paths, breathe, (path) => {
    const slash = path.lastIndexOf('/');
    const names = taken.get(slash < 0 ? '' : path.slice(0, slash));
    if (names && !concerned.has(path)) names.push(path.slice(slash + 1));
  });
  return {
    items: await map(items, breathe, (item) => {
      const { sha256, placements } = item;
      return { ...namingFacts(item, titles.get(item.id) ?? []), sha256, placements };
    }),
    taken: [...taken].map(([folder, names]) => ({ folder, names })),
    variants,
  };
}
