import { baseName, folderOf, stemOf, type SitePath } from '../../core/address/path.ts';
import { addressOf } from '../../core/address/redirects.ts';
import { redirectsOf } from '../scan/redirects.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';

/**
 * What else has to do with items that nothing uses: sizes that go with them, old addresses that lead to them, files of the same name in other
 * formats (captions, a poster, a lighter copy), items that only they show. In sentences, by item.
 */
export async function dependsOn(
  site: Pick<Site, 'folder' | 'index' | 'references'>,
  items: readonly Item[],
): Promise<Map<number, string[]>> {
  const leading = new Map<string, number>();
  for (const { to } of (await redirectsOf(site)).redirects) leading.set(to, (leading.get(to) ?? 0) + 1);
  const named = new Map<SitePath, SitePath[]>();
  const folders = new Set(items.map((item) => item.folder));
  for (const path of site.index.paths)
    if (folders.has(folderOf(path))) named.set(stemPath(path), [...(named.get(stemPath(path)) ?? []), path]);
  const found = new Map<number, string[]>();
  for (const item of items) {
    const said: string[] = [];
    if (item.sizes > 0)
      said.push(item.sizes === 1 ? '1 size is included.' : `${item.sizes} sizes are included.`);
    const redirects = leading.get(addressOf(item.path, site.index.map.roots)) ?? 0;
    if (redirects > 0)
      said.push(
        redirects === 1 ? 'An old address redirects to it.' : `${redirects} old addresses redirect to it.`,
      );
    const others = (named.get(stemPath(item.path)) ?? []).filter((path) => path !== item.path);
    if (others.length > 0)
      said.push(`Same name: ${others.slice(0, 3).map(baseName).join(', ')}${others.length > 3 ? ' …' : ''}.`);
    const shows = site.references.onlyShownBy(item.path);
    if (shows.length > 0)
      said.push(
        shows.length === 1
          ? `Only this file uses “${baseName(shows[0]!)}”.`
          : `Only this file uses ${shows.length} other items.`,
      );
    found.set(item.id, said);
  }
  return found;
}

const stemPath = (path: SitePath) => `${folderOf(path)}/${stemOf(path)}`.toLowerCase();
