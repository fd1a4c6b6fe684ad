import { servedPath, type SitePath } from '../../core/address/path.ts';
import { cssRules, selectorsAt, type CssRule } from '../../core/reference/css-rules.ts';
import type { Reference } from '../../core/reference/model.ts';
import { elementsOf, isHtmlPage } from '../../core/reference/page-edit.ts';
import { readPage } from '../../core/reference/read.ts';
import { readSource } from '../../core/reference/source.ts';
import type { Site } from './site.ts';

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

/** More style sheets than these are not followed. */
const MOST_SHEETS = 40;

/**
 * What the style elements and style sheets of a page show, with the sheets they bring in, in the order in which they hold.
 * Numbers stay the same as long as no address is added or taken away.
 * @param planned bytes of sheets as they would be; all else as it lies on the disk
 */
export async function backgroundsOf(
  site: Site,
  page: SitePath,
  planned: ReadonlyMap<SitePath, Uint8Array> = new Map(),
): Promise<Background[]> {
  if (!isHtmlPage(page)) return [];
  const found: Background[] = [];
  const read = async (path: SitePath): Promise<readonly Reference[]> => {
    const bytes = planned.get(path);
    const source = bytes && readSource(bytes);
    if (source) return 'unread' in source ? [] : readPage(path, source, false).references;
    return site.factsOf(path)?.reading?.references ?? [];
  };
  const sheets: SitePath[] = [];
  const follow = (from: SitePath, references: readonly Reference[]) => {
    for (const reference of references) {
      if (reference.place !== 'link href' && reference.place !== 'css @import') continue;
      const target = site.siteMap.follow(reference, from);
      if (target.to === 'file' && /\.css$/i.test(target.path) && !sheets.includes(target.path))
        sheets.push(target.path);
    }
  };
  const shown = (from: SitePath, references: readonly Reference[]) =>
    references.flatMap((reference) => {
      if (!reference.place.startsWith('css ') || reference.place === 'css @import') return [];
      const target = site.siteMap.follow(reference, from);
      if (target.to !== 'file' || !site.factsOf(target.path)?.item) return [];
      return [{ start: reference.start, path: target.path }];
    });
  const take = (
    from: SitePath,
    rules: readonly CssRule[],
    places: ReturnType<typeof shown>,
    at: (start: number, index: number) => number,
  ) =>
    places.forEach(({ start, path }, index) => {
      const selectors = selectorsAt(rules, start);
      if (selectors === undefined) return;
      const served = servedPath(path, site.siteMap.roots);
      found.push({ at: at(start, index), page: from, start, path, served, selectors });
    });

  const own = await read(page);
  const inPage = shown(page, own);
  if (inPage.length > 0) {
    const source = readSource(planned.get(page) ?? (await site.folder.read(page)));
    if (!('unread' in source))
      for (const { name, tag, whole } of elementsOf(source)) {
        if (name !== 'style' || !whole) continue;
        const rules = cssRules(source.raw.slice(tag.end, whole.end).replace(/<\/style[^>]*>$/i, '')).map(
          (rule) => ({ ...rule, start: rule.start + tag.end, end: rule.end + tag.end }),
        );
        const within = inPage.filter(({ start }) => start >= tag.end && start < whole.end);
        take(page, rules, within, (start) => start);
      }
  }
  follow(page, own);
  let before = 0;
  for (let index = 0; index < Math.min(sheets.length, MOST_SHEETS); index++) {
    const sheet = sheets[index]!;
    const references = await read(sheet);
    const places = shown(sheet, references);
    if (places.length > 0) {
      const source = readSource(planned.get(sheet) ?? (await site.folder.read(sheet)));
      const rules = 'unread' in source ? [] : cssRules(source.raw);
      const from = before;
      take(sheet, rules, places, (_start, at) => -1 - from - at);
    }
    before += places.length;
    follow(sheet, references);
  }
  return found;
}
