import { numberedName } from '../../core/address/name.ts';
import { baseName, clashKey, folderOf, joinPath, pathFault, type SitePath } from '../../core/address/path.ts';
import { planAside, planRestore } from '../../core/plan/aside.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../site/site.ts';
import { linkWarnings } from './links.ts';
import { breather } from '../work/breather.ts';
import { itemsNow, needAllHere, newFolders, type Proposal } from './proposal.ts';

/** @param leavePlaced what is placed stays, instead of standing in the way */
export async function proposeAside(
  site: Site,
  ids: readonly number[],
  leavePlaced = false,
): Promise<Proposal> {
  await site.scan();
  // The sizes of a picture go with it.
  const items = (await needAllHere(site, site.families.whole(ids))).filter(
    (item) => !leavePlaced || item.use !== 'placed',
  );
  const breathe = breather();
  const leaving: Parameters<typeof planAside>[0][number][] = [];
  for (const item of items) {
    await breathe();
    const placements =
      item.use === 'placed' ? { placements: site.references.placementsOf(item.path).length } : {};
    leaving.push({ ...item, ...placements, mentions: site.references.mentionsOf(item.path) });
  }
  const plan = await planAside(leaving, breathe);
  plan.warnings.push(
    ...(await linkWarnings(
      site,
      plan.files.flatMap((step) => (step.do === 'remove' ? [step.path] : [])),
    )),
  );
  const sizes = items.length - ids.length;
  if (sizes > 0 && plan.clashes.length === 0)
    plan.warnings.push(
      sizes === 1
        ? 'A size that was made of it goes with it.'
        : `${sizes} sizes that were made of them go with them.`,
    );
  return { plan, contents: new Map() };
}

/** @param freeNames an address that is taken by now gets a number */
export async function proposeRestore(
  site: Site,
  ids: readonly number[],
  freeNames = false,
): Promise<Proposal> {
  await site.scan();
  ids.forEach((id) => site.items.need(id));
  const items = await site.items.many(site.families.whole(ids));
  for (const item of items) {
    if (item.state !== 'aside')
      throw new Fault(
        'bad-request',
        `“${item.name}” is not set aside.`,
        'Reload the list of set-aside items.',
      );
  }
  const asideAt = new Map(items.map((item) => [item.id, item.asideAt ?? '']));
  const plan = planRestore(items, site.paths, freeNames, (twin, id) => {
    const there = site.items.atPath(twin);
    return there !== undefined && there.addedAt < asideAt.get(id)!;
  });
  // Under other names, a family would not be told by them.
  const named = new Set(
    plan.records.filter((step) => step.after.path !== undefined).map((step) => step.itemId),
  );
  const byId = new Map(items.map((item) => [item.id, item]));
  for (const step of plan.records) {
    const { sizeOf, family } = byId.get(step.itemId)!;
    if (sizeOf === null || family === sizeOf || !(named.has(step.itemId) || named.has(sizeOf))) continue;
    step.before.family = family;
    step.after.family = sizeOf;
  }
  plan.folders = newFolders(site, plan);
  return { plan, contents: new Map() };
}

/**
 * Plans copies of items, with their records: into a folder, or each beside its own. A name that is taken gets a number.
 * @param folder null: beside the item itself
 */
export async function proposeCopies(
  site: Site,
  ids: readonly number[],
  folder: SitePath | null,
): Promise<Proposal> {
  const items = await itemsNow(site, ids);
  const what = items.length === 1 ? `“${items[0]!.name}”` : `${items.length.toLocaleString('en')} items`;
  const plan = emptyPlan(
    'copy',
    folder === null ? `Duplicate ${what}` : `Copy ${what} to “${folder || 'the site’s root'}”`,
  );
  const taken = new Set([...site.paths].map(clashKey));
  const copies = items.map((of) => {
    const within = folder ?? of.folder;
    let path = joinPath(within, of.name);
    for (let number = 2; taken.has(clashKey(path)); number++)
      path = joinPath(within, numberedName(of.name, number));
    taken.add(clashKey(path));
    return { path, of };
  });
  for (const { path, of } of copies) {
    const fault = pathFault(path);
    if (fault) plan.clashes.push({ path, why: fault });
    plan.files.push({ do: 'create', path, sha256: of.sha256 });
  }
  plan.totals.items = copies.length;
  plan.folders = newFolders(site, plan);
  return { plan, contents: new Map(), copies };
}

/** A file on its way to the site: as a new item, whose record is there already, or as new bytes of one. */
export type Incoming =
  | { do: 'create'; path: SitePath; sha256: string; itemId: number; rowVersion: number }
  | {
      do: 'replace';
      path: SitePath;
      sha256: string;
      itemId: number;
      before: string;
      width: number | null;
    };

export function proposeBringIn(site: Site, incoming: readonly Incoming[]): Proposal {
  const folders = new Set(incoming.map((one) => folderOf(one.path)));
  const [only] = folders;
  const where = folders.size === 1 ? `“${only || 'the site’s root'}”` : `${folders.size} folders`;
  const created = incoming.filter((one) => one.do === 'create');
  const replaced = incoming.filter((one) => one.do === 'replace');
  const name = (list: readonly Incoming[]) =>
    list.length === 1 ? `“${baseName(list[0]!.path)}”` : `${list.length} items`;
  const title = [
    ...(created.length > 0 ? [`Bring in ${name(created)} to ${where}`] : []),
    ...(replaced.length > 0 ? [`${created.length > 0 ? 'replace' : 'Replace'} ${name(replaced)}`] : []),
  ].join(', ');
  const plan = emptyPlan('bring-in', title);
  for (const one of incoming) {
    const fault = pathFault(one.path);
    if (fault) plan.clashes.push({ path: one.path, why: fault });
    plan.totals.items++;
    if (one.do === 'replace') {
      plan.files.push({ do: 'write', path: one.path, before: one.before, after: one.sha256 });
      continue;
    }
    plan.files.push({ do: 'create', path: one.path, sha256: one.sha256 });
    plan.records.push({
      itemId: one.itemId,
      rowVersion: one.rowVersion,
      before: { state: 'absent', path: one.path },
      after: { state: 'here', path: one.path },
    });
  }
  plan.folders = newFolders(site, plan);
  return { plan, contents: new Map() };
}
