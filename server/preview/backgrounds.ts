import { servedPath, type SitePath } from '../../core/address/path.ts';
import type { Reference } from '../../core/reference/model.ts';
import { isHtmlPage } from '../../core/reference/page-edit.ts';
import type { Site } from '../app/site.ts';

/** A file that a style sheet of a page shows: a background, a mark of a list, a border. */
export interface Background {
  /** Its number on that page: the byte offset of its address in the page's own style elements; below zero in a sheet. */
  at: number;
  /** Where its address is written: the page itself, or one of its style sheets. */
  page: SitePath;
  start: number;
  path: SitePath;
  /** Path under which the site serves it. */
  served: string;
  /** What the rule holds for. */
  selectors: string;
}

/** Milliseconds that a page, or one of its style sheets, may take to be looked at. */
export const PREVIEW_LIMIT = 20_000;

/** More style sheets than these are not followed. */
const MOST_SHEETS = 40;

/**
 * What the style elements and style sheets of a page show, with the sheets they bring in, in the order in which they hold.
 * Numbers stay the same as long as no address is added or taken away.
 * @param planned bytes of sheets as they would be; all else as it lies on the disk
 */
export async function backgroundsOf(
  site: Pick<Site, 'folder' | 'index' | 'pool'>,
  page: SitePath,
  planned: ReadonlyMap<SitePath, Uint8Array> = new Map(),
): Promise<Background[]> {
  if (!isHtmlPage(page)) return [];
  const found: Background[] = [];
  /** References of a file, and the selectors of some of them: parsed by a worker, for at most so long as a person waits. */
  const parse = async (path: SitePath, starts?: number[]) => {
    const bytes = planned.get(path);
    const file = await site.folder.locate(path);
    return site.pool.run('sheet', { file, path, bytes, starts }, { limit: PREVIEW_LIMIT });
  };
  const read = async (path: SitePath): Promise<readonly Reference[]> =>
    planned.has(path)
      ? (await parse(path)).references
      : (site.index.factsOf(path)?.reading?.references ?? []);
  const sheets: SitePath[] = [];
  const follow = (from: SitePath, references: readonly Reference[]) => {
    for (const reference of references) {
      if (reference.place !== 'link href' && reference.place !== 'css @import') continue;
      const target = site.index.map.follow(reference, from);
      if (target.to === 'file' && /\.css$/i.test(target.path) && !sheets.includes(target.path))
        sheets.push(target.path);
    }
  };
  const shown = (from: SitePath, references: readonly Reference[]) =>
    references.flatMap((reference) => {
      if (!reference.place.startsWith('css ') || reference.place === 'css @import') return [];
      const target = site.index.map.follow(reference, from);
      if (target.to !== 'file' || !site.index.factsOf(target.path)?.item) return [];
      return [{ start: reference.start, path: target.path }];
    });
  const take = async (
    from: SitePath,
    places: ReturnType<typeof shown>,
    at: (start: number, index: number) => number,
  ) => {
    if (places.length === 0) return;
    const { selectors } = await parse(
      from,
      places.map((one) => one.start),
    );
    places.forEach(({ start, path }, index) => {
      const holds = selectors[index];
      if (holds === undefined) return;
      const served = servedPath(path, site.index.map.roots);
      found.push({ at: at(start, index), page: from, start, path, served, selectors: holds });
    });
  };

  const own = await read(page);
  await take(page, shown(page, own), (start) => start);
  follow(page, own);
  let before = 0;
  for (let index = 0; index < Math.min(sheets.length, MOST_SHEETS); index++) {
    const sheet = sheets[index]!;
    const references = await read(sheet);
    const places = shown(sheet, references);
    const from = before;
    await take(sheet, places, (_start, at) => -1 - from - at);
    before += places.length;
    follow(sheet, references);
  }
  return found;
}
