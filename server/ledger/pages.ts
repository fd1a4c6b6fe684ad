import type { SitePath } from '../../core/address/path.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { addressStyle, type AddressStyle } from '../../core/reference/markup.ts';
import type { Site } from '../site/site.ts';
import { keep, newFolders, sha256Of, type Proposal } from './proposal.ts';

/**
 * How addresses are written on a page: as most of its own that lead to files are. Where it has none, relative ones, which hold wherever the
 * folder is served; but from the root on pages that lie outside of public folders which a person has named.
 */
export function styleOf(site: Site, page: SitePath): AddressStyle {
  const references = site.factsOf(page)?.reading?.references ?? [];
  const leading = references.filter((one) => site.siteMap.follow(one, page).to === 'file');
  const rooted = leading.filter((one) => /^[\\/]/.test(one.url)).length;
  const base = references.some((one) => one.base !== undefined);
  const named = !site.rootsGuessed && site.siteMap.served(page) !== page;
  return addressStyle(page, base || (leading.length > 0 ? rooted * 2 > leading.length : named), (path) =>
    site.siteMap.served(path),
  );
}

type Rewritten =
  | { changes: { line: number; place: string; oldUrl: string; newUrl: string }[]; bytes: Uint8Array }
  | { refused: string }
  | undefined;

/** Takes a changed page into a plan; one that cannot be changed safely stands in its way. */
export function write(proposal: Proposal, page: SitePath, before: Uint8Array, after: Rewritten): void {
  const { plan } = proposal;
  if (!after) return;
  if ('refused' in after) {
    plan.clashes.push({ path: page, why: after.refused });
    return;
  }
  plan.files.push({ do: 'write', path: page, before: sha256Of(before), after: keep(proposal, after.bytes) });
  plan.pages.push({
    page,
    changes: after.changes.map(({ line, place, oldUrl, newUrl }) => ({ line, place, oldUrl, newUrl })),
  });
}

/** Counts what a plan does, when all of it stands there. */
export function finish(site: Site, { plan }: Proposal, items: number): void {
  plan.totals = {
    items,
    pages: plan.pages.length,
    spans: plan.pages.reduce((sum: number, page: Plan['pages'][number]) => sum + page.changes.length, 0),
    bytesFreed: 0,
  };
  plan.folders = newFolders(site, plan);
}
