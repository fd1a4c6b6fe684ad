import type { Estimate, Overview } from '../../../api/upkeep.ts';
import { CHECK_NAMES, CHECKS, type ItemCheck } from '../../../core/upkeep/checks.ts';
import type { Progress } from '../../changes/proposal.ts';
import { filmSample, jpegCopy, lighterCopies, phoneCopy } from '../../changes/remedies.ts';
import type { OpenedSite } from '../../app/opened-site.ts';
import type { Site } from '../../app/site.ts';
import type { Item } from '../../db/item-rows.ts';
import { sumOf } from '../../db/item-finder.ts';
import { redirectViews, tagFindings } from '../../upkeep/library-wide.ts';

/** What is needed of a site here. */
type Needs = Pick<
  OpenedSite,
  | 'folder'
  | 'data'
  | 'planBytes'
  | 'index'
  | 'reader'
  | 'items'
  | 'references'
  | 'contents'
  | 'rows'
  | 'findings'
  | 'care'
  | 'pool'
  | 'now'
  | 'checks'
  | 'blobs'
  | 'metadata'
>;

/** Days to keep items set aside, where nobody says otherwise. */
const KEEPING_DAYS = 30;
const DAY = 86_400_000;
/** Items of a check that are really made lighter to know what it saves. */
const SAMPLE = 12;

/** What was added since is not offered for cleaning yet; '': the moment does not matter. */
export const addedBefore = (site: Pick<Site, 'now'>, check: ItemCheck, age: number): string =>
  check === 'unused' && age > 0 ? new Date(Date.parse(site.now()) - age * DAY).toISOString() : '';

export async function overviewOf(site: Needs, personId: number): Promise<Overview> {
  const { findings, care } = site;
  const lastLook = findings.state(`look ${personId}`);
  const days = Number(findings.state('keeping-days')) || KEEPING_DAYS;
  const until = new Date(Date.parse(site.now()) - days * DAY).toISOString();
  const now = await site.checks.keepDay(lastLook || '9', until);
  const counted = new Map(now.checks.map((one) => [one.name as string, one]));
  const tags = await tagFindings(site);
  const redirects = await redirectViews(site);
  const others: Partial<Record<(typeof CHECK_NAMES)[number], number>> = {
    broken: site.references.brokenCount(),
    'near-tags': tags.near.length,
    'lone-tags': tags.lone.length,
    'idle-redirects': redirects.filter((one) => one.check === 'idle-redirects').length,
    'redirect-chains': redirects.filter((one) => one.check === 'redirect-chains').length,
  };
  return {
    unchecked: findings.uncheckedCount(),
    care: now.care,
    history: care.history(400),
    checks: CHECK_NAMES.map((name) => {
      const one = counted.get(name);
      return {
        name,
        found: one?.items ?? others[name] ?? 0,
        bytes: one?.bytes ?? 0,
        saves: one?.saves ?? 0,
        fresh: one?.fresh ?? 0,
      };
    }),
    freeable: now.freeable,
    byKind: now.byKind,
    byFolder: now.byFolder,
    byMonth: now.byMonth,
    aside: { ...now.aside, days },
    dismissed: findings.dismissed(),
    lastLook: lastLook || null,
    entriesSince: lastLook ? site.rows.countSince(lastLook) : 0,
  };
}

/** Makes a sample of what a check found really lighter; what the others would save is computed from it. */
export async function estimateOf(site: Needs, check: ItemCheck, progress: Progress): Promise<Estimate> {
  // Spread over all of them, in the order of their weight.
  const ids = await site.findings.ids(check);
  const step = Math.max(1, ids.length / SAMPLE);
  const sample = Array.from({ length: Math.min(SAMPLE, ids.length) }, (_, at) => ids[Math.floor(at * step)]!);
  const items = site.items.some(sample);
  const lighter = lighterCopies(
    site,
    items.map((item) => item.id),
  );
  const weigh = async (item: Item): Promise<number> => {
    if (check === 'heavy-film') return filmSample(site, item, progress.signal);
    const made =
      check === 'no-sizes'
        ? await phoneCopy(site, item)
        : CHECKS[check].remedy === 'convert'
          ? await jpegCopy(site, item)
          : await lighter(item);
    return 'stays' in made ? item.bytes : made.bytes;
  };
  let [before, after] = [0, 0];
  for (const [done, item] of items.entries()) {
    progress(done, items.length, 'items compressed');
    before += item.bytes;
    after += Math.round(await weigh(item));
  }
  const all = (await sumOf(site.reader, ids)).bytes;
  const saves = before === 0 ? 0 : Math.round(all * (1 - after / before));
  return { sampled: before === 0 ? 0 : items.length, of: ids.length, before, after, saves };
}
