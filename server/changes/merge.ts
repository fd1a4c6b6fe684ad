import { baseName, type SitePath } from '../../core/address/path.ts';
import { addressOf } from '../../core/address/redirects.ts';
import { each, mapOf, setOf } from '../../core/paced.ts';
import { emptyPlan, type RecordStep } from '../../core/plan/plan.ts';
import { wordsToTakeOver } from '../../core/upkeep/keeper.ts';
import { breathe } from '../workers/breathe.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import { addRedirects } from './addresses.ts';
import { proposePointing, type Pointing } from './placements.ts';
import { needAllHere, newFolders, type Proposal } from './proposal.ts';

/** One group of doubles: the item that stays, and those that it stands for from now on. */
export interface Merging {
  keeperId: number;
  otherIds: readonly number[];
}

/**
 * Plans that one of each group stays: placements of the others lead to it, words and tags that it lacks are taken over, old addresses lead
 * on, and the others are set aside. What cannot be moved stays, and a warning says why: nothing that is still placed or mentioned goes.
 */
export async function proposeMerge(
  site: Pick<
    Site,
    'folder' | 'planBytes' | 'index' | 'scanner' | 'items' | 'families' | 'references' | 'live' | 'pool'
  >,
  groups: readonly Merging[],
): Promise<Proposal> {
  await site.scanner.scan();
  const pointings: Pointing[] = [];
  const going: { item: Item; keeper: Item }[] = [];
  const records: RecordStep[] = [];
  const warnings: string[] = [];
  const clashes: { path: SitePath; why: string }[] = [];
  const named = new Set<number>();
  await each(groups, breathe, ({ keeperId, otherIds }) => {
    for (const id of [keeperId, ...otherIds]) {
      if (named.has(id))
        throw new Fault('bad-request', 'An item is in two groups.', 'Keep it in one of them.');
      named.add(id);
    }
  });
  const items = await mapOf(await needAllHere(site, [...named]), breathe, (item) => [item.id, item]);
  const leaves = new Set<SitePath>();
  await each(groups, breathe, ({ otherIds }) => {
    for (const id of otherIds) leaves.add(items.get(id)!.path);
  });
  for (const { keeperId, otherIds } of groups) {
    const keeper = items.get(keeperId)!;
    const merged: Item[] = [];
    for (const id of otherIds) {
      await breathe();
      const item = items.get(id)!;
      const stays = reasonToStay(site, item, keeper);
      if (stays !== undefined) {
        warnings.push(`“${item.path}” stays: ${stays}`);
        continue;
      }
      const fault = fitFault(site, item, keeper);
      if (fault !== undefined) {
        clashes.push({ path: item.path, why: fault });
        continue;
      }
      const go = (item: Item, keeper: Item) => {
        for (const { page, start } of site.references.placementsOf(item.path))
          if (!leaves.has(page)) pointings.push({ page, start, path: keeper.path });
        going.push({ item, keeper });
        records.push({
          itemId: item.id,
          rowVersion: item.rowVersion,
          before: { state: 'here' },
          after: { state: 'aside' },
        });
      };
      merged.push(item);
      go(item, keeper);
      for (const size of familyOf(site, item).slice(1)) {
        if (named.has(size.id)) continue;
        const same = familyOf(site, keeper).find((one) => one.width === size.width && !leaves.has(one.path));
        if (same && reasonToStay(site, size, same) === undefined) go(size, same);
        // It is a size of the one that stays.
        else
          records.push({
            itemId: size.id,
            rowVersion: size.rowVersion,
            before: { family: size.family },
            after: { family: keeper.id },
          });
      }
    }
    const words = wordsToTakeOver(
      keeper.words,
      merged.map((item) => item.words),
    );
    const fields = Object.keys(words) as (keyof typeof words)[];
    if (fields.length > 0)
      records.push({
        itemId: keeper.id,
        rowVersion: keeper.rowVersion,
        before: Object.fromEntries(fields.map((field) => [field, keeper.words[field]])),
        after: words,
      });
  }
  const proposal: Proposal =
    pointings.length > 0 ? await proposePointing(site, pointings) : { plan: emptyPlan('merge', '') };
  const { plan } = proposal;
  plan.kind = 'merge';
  const merging = going.filter((one) => one.item.sizeOf === null || named.has(one.item.id));
  const kept = new Set(merging.map((one) => one.keeper.id)).size;
  plan.title =
    merging.length === 1
      ? `Keep “${merging[0]!.keeper.name}” for “${baseName(merging[0]!.item.path)}”`
      : `Merge ${count(merging.length + kept, 'item')} into ${kept.toLocaleString('en')}`;
  await each(going, breathe, ({ item }) =>
    plan.files.push({ do: 'remove', path: item.path, sha256: item.sha256 }),
  );
  await each(records, breathe, (step) => plan.records.push(step));
  await each(warnings, breathe, (warning) => plan.warnings.push(warning));
  await each(clashes, breathe, (clash) => plan.clashes.push(clash));
  const moves = await mapOf(going, breathe, ({ item, keeper }) => [item.path, keeper.path]);
  await addRedirects(site, proposal, moves);
  const { roots } = site.index.map;
  const told = await setOf(plan.redirects, breathe, (one) => one.from);
  await each(moves, breathe, ([from, to]) => {
    if (!told.has(addressOf(from, roots)))
      plan.redirects.push({ from: addressOf(from, roots), to: addressOf(to, roots) });
  });
  plan.totals = {
    ...plan.totals,
    items: merging.length,
    pages: plan.pages.length,
    spans: plan.pages.reduce((sum, page) => sum + page.changes.length, 0),
    bytesFreed: going.reduce((sum, { item }) => sum + item.bytes, 0),
  };
  plan.folders = await newFolders(site, plan);
  return proposal;
}

const count = (number: number, what: string) =>
  `${number.toLocaleString('en')} ${what}${number === 1 ? '' : 's'}`;

/** An image and its sizes. */
const familyOf = (site: Pick<Site, 'items' | 'families'>, item: Item): Item[] => [
  item,
  ...site.items.some(site.families.sizesOfOne(item.id)).filter((size) => size.state === 'here'),
];

/** Why an item cannot go although another one shows the same. */
function reasonToStay(site: Pick<Site, 'references' | 'live'>, item: Item, keeper: Item): string | undefined {
  if (item.kind !== keeper.kind) return `it is no ${keeper.kind}.`;
  const [mention] = site.references.mentionsOf(item.path);
  if (mention)
    return `its name stands in “${mention.page}”, line ${mention.line}, which can’t be changed for you. Keep this one, or edit that text first.`;
  if (site.live.isSeen(item.path)) return 'it is used on the live site, whose pages aren’t in this folder.';
  if (item.sha256 !== keeper.sha256) {
    const sized = site.references.placementsOf(item.path).find((one) => one.sized);
    if (sized)
      return `“${sized.pageTitle || sized.page}” offers it as one of several sizes. Use another image there first.`;
  }
  return undefined;
}

/** Why the one that stays does not do where the other is shown. */
function fitFault(site: Pick<Site, 'references'>, item: Item, keeper: Item): string | undefined {
  if (!item.width || !keeper.width || keeper.width >= item.width) return undefined;
  for (const { page, pageTitle, wide } of site.references.placementsOf(item.path)) {
    const needed = wide ?? item.width;
    if (keeper.width < needed)
      return `“${pageTitle || page}” shows it ${needed} pixels wide, and “${keeper.name}” has only ${keeper.width}. Keep the larger one, or skip this one.`;
  }
  return undefined;
}
