import type { SitePath } from '../../core/address/path.ts';
import { inLine } from '../../core/describe/in-line.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import type { WordChange } from '../../core/reference/placed-words.ts';
import { rewordedPage } from './page-rewrites.ts';
import { allPlacementContexts } from '../describe/placement-contexts.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import { breathe } from '../workers/breathe.ts';
import type { Progress, Proposal } from './proposal.ts';
import { sha256Of } from './plan-bytes.ts';

/** One placement, by its page and the byte offset of its address there. */
export interface PlaceKey {
  page: SitePath;
  start: number;
}

/**
 * Plans that pages say what the records say, at some placements: only the attribute, or the text of the link, is
 * rewritten. A page that cannot be rewritten safely stands in the way, with the reason.
 *
 * @throws Fault 'not-found' when a placement is no longer where it was
 */
export async function proposePageWords(
  site: Pick<Site, 'folder' | 'planBytes' | 'index' | 'scanner' | 'items' | 'references' | 'pool'>,
  places: readonly PlaceKey[],
  progress?: Progress,
): Promise<Proposal> {
  await site.scanner.scan();
  const wanted = new Map<SitePath, Set<number>>();
  for (const { page, start } of places) wanted.set(page, (wanted.get(page) ?? new Set()).add(start));
  const plan = emptyPlan('describe', '');
  const proposal: Proposal = { plan };
  const changes = new Map<SitePath, WordChange[]>();
  const items = new Set<number>();
  const paths = [
    ...new Set([...wanted.keys()].flatMap((page) => site.references.placedOn(page).map((row) => row.path))),
  ];
  let seen = 0;
  await allPlacementContexts(
    site,
    paths,
    (page, contexts) => {
      const starts = wanted.get(page);
      if (!starts) return;
      for (const one of contexts) {
        if (!starts.has(one.start)) continue;
        seen++;
        const item = site.items.bearerAt(one.path);
        const change = item && inLine(one, item.words, item);
        if (!item || !change) continue;
        items.add(item.id);
        const there = changes.get(page);
        if (there) there.push({ start: one.start, ...change });
        else changes.set(page, [{ start: one.start, ...change }]);
      }
    },
    progress,
  );
  if (seen < places.length)
    throw new Fault(
      'not-found',
      'A page has changed in the meantime, so a placement is no longer where it was.',
      'Reload the pages, then choose again.',
    );
  for (const [page, some] of [...changes].sort(([a], [b]) => (a < b ? -1 : 1))) {
    await breathe();
    const bytes = await site.folder.read(page);
    const rewrite = await rewordedPage(site, page, bytes, some);
    if (!rewrite) continue;
    if ('refused' in rewrite) {
      plan.clashes.push({ path: page, why: rewrite.refused });
      continue;
    }
    plan.files.push({
      do: 'write',
      path: page,
      before: sha256Of(bytes),
      after: await site.planBytes.keep(rewrite.bytes),
    });
    plan.pages.push({
      page,
      changes: rewrite.changes.map(({ line, place, oldUrl, newUrl }) => ({ line, place, oldUrl, newUrl })),
    });
  }
  const spans = plan.pages.reduce((sum, page) => sum + page.changes.length, 0);
  plan.totals = { items: items.size, pages: plan.pages.length, spans, bytesFreed: 0 };
  plan.title = `Write the text of ${items.size === 1 ? '1 record' : `${items.size.toLocaleString('en')} records`} to ${plan.pages.length === 1 ? '1 page' : `${plan.pages.length.toLocaleString('en')} pages`}`;
  return proposal;
}
