import { ITEM_CHECKS } from '../../core/upkeep/checks.ts';
import type { OpenedSite } from '../app/opened-site.ts';

/** Everything that the checks say, for comparing. */
export async function allSaid(site: OpenedSite): Promise<string[]> {
  await site.checks.refresh();
  const said: string[] = [];
  for (const check of ITEM_CHECKS)
    for (const row of await site.findings.list(check, 100_000, 0))
      said.push(`${check} ${site.items.need(row.itemId).path} ${row.why}`);
  return said.sort();
}
