import { numberedName } from '../../core/address/name.ts';
import { baseName, clashKey, folderOf, joinPath, pathFault, type SitePath } from '../../core/address/path.ts';
import { each, flatMap, map, mapOf, setOf } from '../../core/paced.ts';
import { planAside, planRestore } from '../../core/plan/aside.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import { linkWarnings } from './links.ts';
import { breathe } from '../workers/breathe.ts';
import { itemsNow, needAllHere, newFolders, type Proposal } from './proposal.ts';

/** @param leavePlaced what is placed stays, instead of standing in the way */
export async function proposeAside(
  site: Pick<Site, 'folder' | 'index' | 'scanner' | 'items' | 'families' | 'references'>,
  ids: readonly number[],
  leavePlaced = false,
): Promise<Proposal> {
  await site.scanner.scan();
  // The sizes of an image go with it.
  const items = (await needAllHere(site, await site.families.whole(ids))).filter(
    (item) => !leavePlaced || item.use !== 'placed',
  );
  const leaving: Parameters<typeof planAside>[0][number][] = [];
  for (const item of items) {
    await breathe();
    const placements =
      item.use === 'placed' ? { placements: site.references.placementsOf(item.path).length } : {};
    leaving.push({ ...item, ...placements, mentions: site.references.mentionsOf(item.path) });
  }
  const plan = await planAside(leaving, breathe);
  const leavingPaths = await flatMap(plan.files, breathe, (step) =>
    step.do === 'remove' ? [step.path] : [],
  );
  for (const warning of await linkWarnings(site, leavingPaths)) plan.warnings.push(warning);
  const sizes = items.length - ids.length;
  if (sizes > 0 && plan.clashes.length === 0)
    plan.warnings.push(
      sizes === 1
        ? 'A size that was made of it goes with it.'
        : `${sizes} sizes that were made of them go with them.`,
    );
  return { plan };
}

/** @param freeNames an address that is taken by now gets a number */
export async function proposeRestore(
  site: Pick<Site, 'folder' | 'index' | 'scanner' | 'items' | 'families'>,
  ids: readonly number[],
  freeNames = false,
): Promise<Proposal> {
  await site.scanner.scan();
  await each(ids, breathe, (id) => site.items.need(id));
  const items = await site.items.many(await site.families.whole(ids));
  for (const item of items) {
    if (item.state !== 'aside')
      throw new Fault(
        'bad-request',
        `“${item.name}” is not set aside.`,
        'Reload the list of set-aside items.',
      );
  }
  const asideAt = await mapOf(items, breathe, (item) => [item.id, item.asideAt ?? '']);
  const stoodBeside = (twin: SitePath, id: number) => {
    const there = site.items.atPath(twin);
    return there !== undefined && there.addedAt < asideAt.get(id)!;
  };
  const plan = await planRestore(items, site.index.paths, { freeNames, stoodBeside }, breathe);
  // Under other names, a family would not be told by them.
  const named = await setOf(plan.records, breathe, (step) =>
    step.after.path === undefined ? undefined : step.itemId,
  );
  const byId = await mapOf(items, breathe, (item) => [item.id, item]);
  await each(plan.records, breathe, (step) => {
    const { sizeOf, family } = byId.get(step.itemId)!;
    if (sizeOf === null || family === sizeOf || !(named.has(step.itemId) || named.has(sizeOf))) return;
    step.before.family = family;
    step.after.family = sizeOf;
  });
  plan.folders = await newFolders(site, plan);
  return { plan };
}

/**
 * Plans copies of items, with their records: into a folder, or each beside its own. A name that is taken gets a number.
 * @param folder null: beside the item itself
 */
export async function proposeCopies(
  site: Pick<Site, 'folder' | 'index' | 'scanner' | 'items'>,
  ids: readonly number[],
  folder: SitePath | null,
): Promise<Proposal> {
  const items = await itemsNow(site, ids);
  const what = items.length === 1 ? `“${items[0]!.name}”` : `${items.length.toLocaleString('en')} items`;
  const plan = emptyPlan(
    'copy',
    folder === null ? `Duplicate ${what}` : `Copy ${what} to “${folder || 'the site’s root'}”`,
  );
  const taken = await setOf(site.index.paths, breathe, clashKey);
  /** The number that the next of a name may have. */
  const next = new Map<SitePath, number>();
  const copies = await map(items, breathe, (of) => {
    const within = folder ?? of.folder;
    const plain = joinPath(within, of.name);
    let path = plain;
    let number = next.get(plain) ?? 2;
    for (; taken.has(clashKey(path)); number++) path = joinPath(within, numberedName(of.name, number));
    next.set(plain, number);
    taken.add(clashKey(path));
    return { path, of };
  });
  await each(copies, breathe, ({ path, of }) => {
    const fault = pathFault(path);
    if (fault) plan.clashes.push({ path, why: fault });
    plan.files.push({ do: 'create', path, sha256: of.sha256 });
  });
  plan.totals.items = copies.length;
  plan.folders = await newFolders(site, plan);
  return { plan, copies };
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

export async function proposeBringIn(
  site: Pick<Site, 'folder'>,
  incoming: readonly Incoming[],
): Promise<Proposal> {
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
  plan.folders = await newFolders(site, plan);
  return { plan };
}
