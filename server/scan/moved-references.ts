import type { SitePath } from '../../core/address/path.ts';
import { flatMap } from '../../core/paced.ts';
import type { Reference } from '../../core/reference/model.ts';
import { breathe } from '../workers/breathe.ts';
import type { Site } from '../app/site.ts';

/**
 * Broken references that led to where files lay before others moved them. It is told from the site as it was: an address from the root
 * can be read in several ways, where several folders are served from it.
 */
export async function referencesToMoved(
  site: Pick<Site, 'index' | 'references'>,
  places: Iterable<SitePath>,
): Promise<{ page: SitePath; start: number; from: SitePath }[]> {
  const moved = new Set(places);
  if (moved.size === 0) return [];
  const before = await site.index.map.changed([], moved, breathe);
  let at: { page: SitePath; references: Map<number, Reference> } | undefined;
  return flatMap(await site.references.allBroken(), breathe, ({ page, start }) => {
    // They come page by page.
    if (at?.page !== page) {
      const references = site.index.factsOf(page)?.reading?.references ?? [];
      at = { page, references: new Map(references.map((one) => [one.start, one])) };
    }
    const reference = at.references.get(start);
    const led = reference && before.follow(reference, page);
    return led?.to === 'file' && moved.has(led.path) ? [{ page, start, from: led.path }] : [];
  });
}
