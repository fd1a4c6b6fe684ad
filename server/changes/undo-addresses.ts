import { readFile } from 'node:fs/promises';
import type { SitePath } from '../../core/address/path.ts';
import { each, filter, setOf } from '../../core/paced.ts';
import type { Plan, ShownChange } from '../../core/plan/plan.ts';
import type { SiteMap } from '../../core/reference/resolve.ts';
import type { SpanChange } from '../../core/reference/rewrite.ts';
import { decodeRaw, readSource, type Source } from '../../core/reference/source.ts';
import type { Site } from '../app/site.ts';
import { breathe } from '../workers/breathe.ts';
import { pagesLeadingTo, pagesShowing, rewriter } from './addresses.ts';
import { readdressed, readingOf } from './page-rewrites.ts';
import type { Proposal } from './proposal.ts';
import { sha256Of } from './plan-bytes.ts';

/**
 * In pages that have changed since, or that have come to refer to what moves, only the addresses are turned back; the rest stays as it
 * is now.
 */
export async function turnAddressesBack(
  site: Pick<Site, 'folder' | 'blobs' | 'planBytes' | 'index' | 'references' | 'pool'>,
  proposal: Proposal,
  original: Plan,
  back: ReadonlyMap<SitePath, SitePath>,
  changedSince: ReadonlySet<SitePath>,
): Promise<void> {
  const { plan } = proposal;
  const exact = await setOf(plan.files, breathe, (step) => (step.do === 'write' ? step.path : undefined));
  await each(back, breathe, ([from, to]) => exact.has(to) && exact.add(from));
  if (back.size > 0) {
    let movesPages = false;
    await each(
      back.keys(),
      breathe,
      (path) => (movesPages ||= site.index.factsOf(path)?.reading !== undefined),
    );
    const shown = movesPages
      ? await pagesLeadingTo(site, new Set(back.keys()))
      : await pagesShowing(site, [...back.keys()]);
    const wanted = await filter(
      new Set([...changedSince, ...shown]),
      breathe,
      (page) => !exact.has(page) && site.index.factsOf(page)?.reading !== undefined,
    );
    if (wanted.length === 0) return;
    const rewrite = await rewriter(site, wanted);
    for (const { path, sha256, rewrite: one, newSha256 } of await rewrite(back)) {
      if (!one) continue;
      if ('refused' in one) {
        plan.clashes.push({ path, why: one.refused });
        continue;
      }
      const after = await site.planBytes.keep(one.bytes, newSha256);
      plan.files.push({ do: 'write', path: back.get(path) ?? path, before: sha256, after });
      plan.pages.push({ page: path, changes: one.changes.map(shownChange) });
      if (changedSince.has(path)) plan.warnings.push(keptChanges(path));
    }
    return;
  }
  if (changedSince.size === 0) return;
  const paths = (what: 'remove' | 'create') =>
    setOf(plan.files, breathe, (step) => (step.do === what ? step.path : undefined));
  const after = await site.index.map.changed(await paths('remove'), await paths('create'), breathe);
  for (const page of changedSince) {
    const elsewhere = await turned(site, original, page, after);
    const bytes = await site.folder.read(page);
    const one =
      elsewhere.spots.size === 0
        ? undefined
        : await readdressed(site, page, bytes, new Map(), site.index.map, after, undefined, elsewhere.spots);
    if (one && 'bytes' in one) {
      plan.files.push({
        do: 'write',
        path: page,
        before: sha256Of(bytes),
        after: await site.planBytes.keep(one.bytes),
      });
      plan.pages.push({ page, changes: one.changes.map(shownChange) });
    }
    const left = elsewhere.left + (one && 'refused' in one ? elsewhere.spots.size : 0);
    plan.warnings.push(
      left === 0
        ? keptChanges(page)
        : `“${page}” has changed since: ${left === 1 ? '1 reference stays' : `${left} references stay`} as now. Check that page yourself.`,
    );
  }
}

const keptChanges = (page: SitePath) =>
  `“${page}” has changed in the meantime. Only its addresses are restored; the rest stays as it is.`;

function shownChange({ line, place, oldUrl, newUrl }: SpanChange): ShownChange {
  return { line, place, oldUrl, newUrl };
}

/**
 * Where the addresses that a change wrote into a page still stand, and where they led before. They are told by their text, their
 * place and their order among others of the same text; where others of it have come or gone since, they cannot be told apart.
 */
async function turned(
  site: Pick<Site, 'folder' | 'blobs' | 'index' | 'pool'>,
  original: Plan,
  page: SitePath,
  after: SiteMap,
): Promise<{ spots: Map<number, SitePath>; left: number }> {
  const spots = new Map<number, SitePath>();
  let left = 0;
  const source = readSource(await site.folder.read(page));
  const changes = original.pages.find((one) => one.page === page)?.changes ?? [];
  const reading = site.index.factsOf(page)?.reading;
  if ('unread' in source || !reading) return { spots, left: changes.length };
  // All references as the change left them, by their text and place; of those that it wrote, with the address of before.
  const groups = new Map<string, (ShownChange | undefined)[]>();
  const open = [...changes];
  for (const one of await referencesBefore(site, original, page)) {
    const at = open.findIndex(
      (change) => change.line === one.line && change.place === one.place && change.oldUrl === one.written,
    );
    const [change] = at < 0 ? [] : open.splice(at, 1);
    const key = `${one.place} ${change?.newUrl ?? one.written}`;
    groups.set(key, [...(groups.get(key) ?? []), change]);
  }
  left += open.length;
  for (const [key, list] of groups) {
    const own = list.filter((change) => change !== undefined).length;
    if (own === 0) continue;
    const there = reading.references.filter((one) => `${one.place} ${writtenIn(source, one)}` === key);
    if (there.length !== list.length) {
      left += own;
      continue;
    }
    for (const [at, reference] of there.entries()) {
      const change = list[at];
      if (!change) continue;
      const target = after.follow({ ...reference, url: change.oldUrl }, page);
      if (target.to === 'file') spots.set(reference.start, target.path);
      else left++;
    }
  }
  return { spots, left };
}

const writtenIn = (source: Source, { start, end }: { start: number; end: number }) =>
  decodeRaw(source.encoding, source.raw.slice(start, end));

/** The references of a page before a change, from the bytes that are kept of it. */
async function referencesBefore(
  site: Pick<Site, 'blobs' | 'pool'>,
  original: Plan,
  page: SitePath,
): Promise<{ line: number; place: string; written: string }[]> {
  const step = original.files.find((one) => one.do === 'write' && one.path === page);
  if (step?.do !== 'write' || step.before === null || !site.blobs.has(step.before)) return [];
  const bytes = await readFile(site.blobs.get(step.before));
  const source = readSource(bytes);
  if ('unread' in source) return [];
  const { references } = await readingOf(site, { path: page, bytes, links: true });
  return references.map((one) => ({
    line: one.line,
    place: one.place,
    written: writtenIn(source, one),
  }));
}
