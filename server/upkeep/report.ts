import type { Report } from '../../api/report.ts';
import { isPagePath, kindOf, mimeOf } from '../../core/address/kinds.ts';
import type { SitePath } from '../../core/address/path.ts';
import { familyUses, useOf, type Use } from '../../core/reference/survey.ts';
import type { Survey } from '../scan/scan.ts';

/** The report of a full survey (one made without earlier knowledge). @param families of each size of an image its image */
export async function reportOf(
  survey: Survey,
  families: ReadonlyMap<SitePath, SitePath>,
  lookalikes: Report['lookalikes'] = [],
): Promise<Report> {
  const placed = new Map<SitePath, number>();
  const mentions = new Map<SitePath, { in: SitePath; line: number }[]>();
  const broken: Report['broken'] = [];
  const missing: Report['alt']['missing'] = [];
  for (const [page, placements] of inOrder(survey.placements)) {
    for (const one of placements) {
      if (one.state === 'broken') {
        broken.push({ page, line: one.line, url: one.url, ...(one.unsure ? { unsure: true } : {}) });
        continue;
      }
      if (one.path !== page) placed.set(one.path, (placed.get(one.path) ?? 0) + 1);
      if (one.place === 'img src' && one.alt === null && survey.files.get(one.path)?.item) {
        missing.push({ page, line: one.line, path: one.path });
      }
    }
  }
  for (const [page, found] of inOrder(survey.mentions)) {
    for (const one of found) {
      const list = mentions.get(one.path) ?? [];
      list.push({ in: page, line: one.line });
      mentions.set(one.path, list);
    }
  }
  const items: Report['items'] = [];
  const bySha = new Map<string, SitePath[]>();
  let pages = 0;
  for (const one of [...survey.files.values()].sort((a, b) => (a.path < b.path ? -1 : 1))) {
    if (!one.hidden && isPagePath(one.path)) pages++;
    if (!one.item) continue;
    const placements = placed.get(one.path) ?? 0;
    items.push({
      path: one.path,
      kind: kindOf(one.path),
      mime: mimeOf(one.path),
      bytes: one.bytes,
      sha256: one.sha256,
      width: one.item.width ?? null,
      height: one.item.height ?? null,
      placements,
      use: useOf(one.path, placements > 0, mentions.has(one.path)),
      sizeOf: null,
    });
    if (!one.sha256) continue;
    const same = bySha.get(one.sha256);
    if (same) same.push(one.path);
    else bySha.set(one.sha256, [one.path]);
  }
  await followFamilies(items, families);
  return {
    site: {
      pages,
      items: items.filter((one) => one.sizeOf === null).length,
      bytes: items.reduce((sum, one) => sum + one.bytes, 0),
    },
    items,
    unused: items.filter((one) => one.use === 'unused' && one.sizeOf === null).map((one) => one.path),
    mentioned: items
      .filter((one) => one.use === 'mentioned' && one.sizeOf === null)
      .flatMap((one) => (mentions.get(one.path) ?? []).map((mention) => ({ path: one.path, ...mention }))),
    broken,
    copies: [...bySha.values()].filter((group) => group.length > 1),
    lookalikes,
    alt: { missing },
  };
}

/** An image and its sizes are one item: it is used when any of them is. */
async function followFamilies(
  items: Report['items'],
  families: ReadonlyMap<SitePath, SitePath>,
): Promise<void> {
  for (const item of items) item.sizeOf = families.get(item.path) ?? null;
  const uses = new Map(items.map((one) => [one.path, one.use as Use]));
  const found = await familyUses(uses, (path) => families.get(path) ?? path);
  for (const item of items) item.use = found.get(item.path) ?? item.use;
}

/** By path, so that the same site gives the same report. */
function inOrder<Value>(map: ReadonlyMap<SitePath, Value>): [SitePath, Value][] {
  return [...map].sort(([a], [b]) => (a < b ? -1 : 1));
}
