import { baseName, clashKey, pathFault, type SitePath } from '../../core/address/path.ts';
import { map, setOf } from '../../core/paced.ts';
import { planAside, planRestore, type AsideItem } from '../../core/plan/aside.ts';
import { writeContent } from '../../core/plan/draft-content.ts';
import { emptyPlan, type Plan } from '../../core/plan/plan.ts';
import { count } from '../../core/text/format.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import { breathe } from '../workers/breathe.ts';
import type { Incoming } from './files.ts';
import { needAllHere, newFolders, type Proposal } from './proposal.ts';

/** The bytes of a draft, as record steps say them. */
export const contentOf = ({ sha256, bytes, width, height }: Item): string =>
  writeContent({ sha256, bytes, width, height });

/** Drafts by their ids, in that order. @throws Fault when one of them is none */
async function needDrafts(site: Pick<Site, 'items'>, ids: readonly number[]): Promise<Item[]> {
  for (const id of ids) {
    const item = site.items.need(id);
    await breathe();
    if (item.state !== 'draft')
      throw new Fault('bad-request', `“${item.name}” is no draft any more.`, 'Reload the list of drafts.');
  }
  return site.items.many(ids);
}

/** Plans to bring files in as drafts: their records are there, nothing lies on the site. */
export function proposeBringInDrafts(incoming: readonly Incoming[]): Proposal {
  const what = incoming.length === 1 ? `“${baseName(incoming[0]!.path)}”` : `${incoming.length} items`;
  const plan = emptyPlan('bring-in', `Bring in ${what} as ${incoming.length === 1 ? 'a draft' : 'drafts'}`);
  for (const one of incoming) {
    const fault = pathFault(one.path);
    if (fault) plan.clashes.push({ path: one.path, why: fault });
    if (one.do !== 'create') throw new Error(`“${one.path}” can’t take another’s place as a draft`);
    plan.records.push({
      itemId: one.itemId,
      rowVersion: one.rowVersion,
      before: { state: 'absent' },
      after: { state: 'draft' },
    });
    plan.totals.items++;
  }
  return { plan };
}

/** Plans to put drafts on the site. @param freeNames an address that is taken by now gets a number */
export async function proposePublish(
  site: Pick<Site, 'folder' | 'index' | 'scanner' | 'items'>,
  ids: readonly number[],
  freeNames = false,
): Promise<Proposal> {
  await site.scanner.scan();
  const items = await needDrafts(site, ids);
  const plan = await planRestore(items, site.index.paths, { from: 'draft', freeNames }, breathe);
  for (const { path } of items) {
    const fault = pathFault(path);
    if (fault) plan.clashes.push({ path, why: fault });
  }
  // What was looked through is done with once it is published.
  for (const step of plan.records) {
    const { review } = items.find((item) => item.id === step.itemId)!;
    if (review !== 'in-review') continue;
    step.before.review = review;
    step.after.review = '';
  }
  plan.folders = await newFolders(site, plan);
  return { plan };
}

/** Plans to make drafts of items that nothing uses. */
export async function proposeWithdraw(
  site: Pick<Site, 'scanner' | 'items' | 'references'>,
  ids: readonly number[],
): Promise<Proposal> {
  await site.scanner.scan();
  const items = await needAllHere(site, ids);
  const leaving: AsideItem[] = await map(items, breathe, (item) => ({
    ...item,
    ...(item.use === 'placed' ? { placements: site.references.placementsOf(item.path).length } : {}),
    mentions: site.references.mentionsOf(item.path),
  }));
  const plan = await planAside(leaving, breathe, 'draft');
  for (const { path, sizes, sizeOf } of items)
    if (sizes > 0 || sizeOf !== null)
      plan.clashes.push({
        path,
        why: 'It is one item with its sizes, which can’t be drafts. Set it aside instead.',
      });
  return { plan };
}

/** Plans to drop drafts. Their content is kept for as long as the ledger can bring it back. */
export async function proposeDiscard(site: Pick<Site, 'items'>, ids: readonly number[]): Promise<Proposal> {
  const items = await needDrafts(site, ids);
  const what = items.length === 1 ? `the draft “${items[0]!.name}”` : count(items.length, 'draft');
  const plan = emptyPlan('discard', `Discard ${what}`);
  plan.records = await map(items, breathe, ({ id, rowVersion }) => ({
    itemId: id,
    rowVersion,
    before: { state: 'draft' },
    after: { state: 'absent' },
  }));
  plan.totals.items = items.length;
  return { plan };
}

/**
 * Plans other names or folders for drafts: no file of the site moves. Undefined: they aren't all drafts.
 * @param to the path that each is to have
 */
export async function proposeDraftPaths(
  site: Pick<Site, 'index' | 'items'>,
  ids: readonly number[],
  to: (draft: Item) => SitePath,
  kind: 'rename' | 'move',
): Promise<Proposal | undefined> {
  const items = await site.items.many(ids);
  if (items.length !== ids.length || items.some((item) => item.state !== 'draft')) return undefined;
  const plan: Plan = emptyPlan(kind, '');
  const taken = await setOf([...site.index.paths, ...site.items.draftPaths()], breathe, clashKey);
  for (const item of items) taken.delete(clashKey(item.path));
  for (const item of items) {
    await breathe();
    const path = to(item);
    if (path === item.path) continue;
    const fault = pathFault(path) ?? (taken.has(clashKey(path)) ? `“${path}” already exists.` : undefined);
    taken.add(clashKey(path));
    if (fault) plan.clashes.push({ path: item.path, why: fault });
    plan.records.push({
      itemId: item.id,
      rowVersion: item.rowVersion,
      before: { path: item.path },
      after: { path },
    });
  }
  plan.totals.items = plan.records.length;
  const what = items.length === 1 ? `the draft “${items[0]!.name}”` : count(items.length, 'draft');
  const [first] = plan.records;
  plan.title =
    kind === 'move' || first?.after.path === undefined || items.length > 1
      ? `${kind === 'move' ? 'Move' : 'Rename'} ${what}`
      : `Rename ${what} to “${baseName(first.after.path)}”`;
  return { plan };
}
