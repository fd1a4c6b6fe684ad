import { join } from 'node:path';
import type { PlacementContextView } from '../../api/items.ts';
import type { SitePath } from '../../core/address/path.ts';
import type { Site } from '../app/site.ts';
import { inTime } from '../workers/pool.ts';
import type { Item } from '../db/item-rows.ts';
import type { PlacedRow, PlacementRow } from '../db/references.ts';

/** Milliseconds of work that reading the words of one page may take. */
const WORDS_LIMIT = 20_000;

/** Kinds of page whose words can be read and written. */
const WORDED = /\.(html?|xhtml|md|markdown)$/i;

/** Told while pages are read. */
export type PagesRead = (done: number, total: number, what: string) => void;

/** The words with a placement, and what a reader sees near it. */
export type PlacedContext = PlacementContextView & { near: string; path: SitePath };

/** The words with some placements of a page, with the title of what their links lead to. */
async function wordsOn(
  site: Pick<Site, 'folder' | 'index' | 'pool'>,
  page: SitePath,
  rows: readonly PlacementRow[],
): Promise<(PlacementContextView & { near: string })[]> {
  if (!WORDED.test(page)) return [];
  const file = join(site.folder.root, page);
  const starts = rows.map((row) => row.start);
  // Of a page that takes too long to be read, nothing is known.
  const words =
    (await inTime(() => site.pool.run('words', { file, path: page, starts }, { limit: WORDS_LIMIT }))) ?? [];
  const byStart = new Map(words.map((one) => [one.start, one]));
  return rows.flatMap((row) => {
    const one = byStart.get(row.start);
    if (!one) return [];
    const target = one.link && site.index.map.resolve(one.link.href, page, undefined);
    const targetTitle = target?.to === 'file' ? (site.index.factsOf(target.path)?.reading?.title ?? '') : '';
    return [
      {
        ...one,
        page,
        pageTitle: row.pageTitle,
        line: row.line,
        place: row.place,
        link: one.link && { ...one.link, targetTitle },
      },
    ];
  });
}

/** Where an item stands, with all that its words have to do with there; the first pages only, when there are many. */
export async function placementContextsOf(
  site: Pick<Site, 'folder' | 'index' | 'items' | 'families' | 'references' | 'pool'>,
  item: Item,
  most = 12,
): Promise<{ contexts: PlacementContextView[]; more: number }> {
  const rows = familyPlacements(site, item);
  const shown = rows.slice(0, most);
  const byPage = grouped(shown);
  const contexts: PlacementContextView[] = [];
  // A page that has gone since the last reading has nothing to say.
  for (const [page, some] of byPage)
    if (await site.folder.facts(page)) contexts.push(...(await wordsOn(site, page, some)));
  return { contexts, more: rows.length - shown.length };
}

/** Where an item is placed; of an image, also where one of its sizes is. */
export function familyPlacements(
  site: Pick<Site, 'items' | 'families' | 'references'>,
  { id, path, sizes }: Item,
): PlacedRow[] {
  if (sizes === 0) return site.references.placementsOf(path);
  const members = site.items.some(site.families.sizesOfOne(id)).map((size) => size.path);
  return site.references.placementsOfFamily(path, members);
}

function grouped(rows: readonly PlacementRow[]): Map<SitePath, PlacementRow[]> {
  const byPage = new Map<SitePath, PlacementRow[]>();
  for (const row of rows) byPage.set(row.page, [...(byPage.get(row.page) ?? []), row]);
  return byPage;
}

/** The words with every placement of some items (undefined: of all), page by page on the workers. */
export async function allPlacementContexts(
  site: Pick<Site, 'folder' | 'index' | 'references' | 'pool'>,
  paths: readonly SitePath[] | undefined,
  onPage: (page: SitePath, contexts: PlacedContext[]) => void,
  progress: PagesRead = () => undefined,
): Promise<void> {
  const pages = (paths ? site.references.pagesShowing(paths) : site.references.pagePaths()).filter((page) =>
    WORDED.test(page),
  );
  const wanted = paths && new Set(paths);
  let done = 0;
  const lanes = Array.from({ length: 4 }, async (_, lane) => {
    for (let at = lane; at < pages.length; at += 4) {
      const page = pages[at]!;
      const rows = site.references.placedOn(page).filter((row) => !wanted || wanted.has(row.path));
      if (rows.length > 0 && (await site.folder.facts(page))) {
        const pathAt = new Map(rows.map((row) => [row.start, row.path]));
        const words = await wordsOn(site, page, rows);
        onPage(
          page,
          words.map((one) => ({ ...one, path: pathAt.get(one.start)! })),
        );
      }
      progress(++done, pages.length, 'pages read');
    }
  });
  await Promise.all(lanes);
}
