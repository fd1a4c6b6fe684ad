import { readdir } from 'node:fs/promises';
import { baseName, folderOf, isWithin, joinPath, type SitePath } from '../../core/address/path.ts';
import { targetFault } from '../../core/address/target.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import { rulesFollow } from '../../core/plan/settings.ts';
import { Fault } from '../fault.ts';
import { each, filter, flatMap, mapOf, setOf } from '../../core/paced.ts';
import type { Site } from '../app/site.ts';
import { isPassedOver } from '../files/walk.ts';
import { ALL_HERE } from '../db/item-query.ts';
import type { Item } from '../db/item-rows.ts';
import { planMoves } from './addresses.ts';
import { newFolders, type Proposal } from './proposal.ts';
import { breathe } from '../workers/breathe.ts';

/** Plans another address for a folder: all within goes along, and what leads there follows. */
export async function proposeFolder(
  site: Pick<
    Site,
    | 'folder'
    | 'planBytes'
    | 'index'
    | 'scanner'
    | 'reader'
    | 'items'
    | 'finder'
    | 'references'
    | 'rules'
    | 'pool'
  >,
  folder: SitePath,
  to: SitePath,
): Promise<Proposal> {
  await site.scanner.scan();
  if (to !== folder && isWithin(folder, to))
    throw new Fault('bad-request', 'A folder can’t be moved into itself.', 'Choose a folder outside of it.');
  const within = (path: SitePath) =>
    to === '' ? path.slice(folder.length + 1) : to + path.slice(folder.length);
  const items = await site.items.many(
    await site.finder.idsApart(site.reader, { ...ALL_HERE, folder, sizes: true }),
  );
  const own = await setOf(items, breathe, (item) => item.path);
  const others = await flatMap(site.index.paths, breathe, (path) =>
    isWithin(folder, path) && !own.has(path)
      ? [{ path, to: within(path), sha256: site.index.factsOf(path)!.sha256 }]
      : [],
  );
  const empty = site.index.emptyFolders.filter((one) => isWithin(folder, one));
  if (items.length + others.length + empty.length === 0)
    throw new Fault('not-found', `There is no folder “${folder}”.`, 'Choose another folder.');
  const ids = await setOf(items, breathe, (item) => item.id);
  const isSize = (item: Item) => item.sizeOf !== null && ids.has(item.sizeOf);
  const proposal = await planMoves(
    site,
    await filter(items, breathe, (item) => !isSize(item)),
    await mapOf(items, breathe, (item) => [item.id, within(item.path)]),
    others,
    undefined,
    false,
    await filter(items, breathe, isSize),
  );
  const { plan } = proposal;
  const there = site.index.folderPaths.has(to);
  plan.kind = 'move';
  plan.title = there
    ? `Merge the folder “${folder}” into “${to || 'the site’s root'}”`
    : folderOf(folder) === folderOf(to)
      ? `Rename the folder “${baseName(folder)}” to “${baseName(to)}”`
      : `Move the folder “${folder}” to “${to || 'the site’s root'}”`;
  for (const { path, sha256 } of others)
    if (sha256 === '') plan.clashes.push({ path, why: 'It can’t be read, so it can’t be moved safely.' });
  await each(others, breathe, (one) => own.add(one.path));
  for (const clash of await leftBehind(site, folder, own)) plan.clashes.push(clash);
  for (const one of empty)
    if (!site.index.folderPaths.has(within(one))) plan.files.push({ do: 'make-folder', path: within(one) });
  for (const one of [...empty].sort((a, b) => b.length - a.length))
    plan.files.push({ do: 'drop-folder', path: one });
  const pages = others.filter((one) => site.index.factsOf(one.path)?.reading).length;
  if (pages > 0)
    plan.warnings.push(
      `${pages === 1 ? 'A page lies' : `${pages} pages lie`} in it and get another address too. Links to them on pages are updated. Feeds, sitemaps and scripts are not.`,
    );
  plan.settings = rulesFollow(site.rules.all(), folder, to);
  plan.folders = await newFolders(site, plan);
  const left = await setOf(own, breathe, folderOf);
  plan.leaves = [...new Set([...left].flatMap((one) => upTo(one, folder)))].sort(
    (a, b) => b.length - a.length,
  );
  return proposal;
}

/** What lies in a folder and could not go along, with the reason: nothing stays behind unsaid. */
async function leftBehind(
  site: Pick<Site, 'folder'>,
  folder: SitePath,
  moving: ReadonlySet<SitePath>,
): Promise<{ path: SitePath; why: string }[]> {
  const found: { path: SitePath; why: string }[] = [];
  const folders: SitePath[] = [folder];
  for (let at = folders.pop(); at !== undefined; at = folders.pop()) {
    const entries = await readdir(await site.folder.locate(at), { withFileTypes: true, encoding: 'buffer' });
    for (const entry of entries) {
      await breathe();
      const name = entry.name.toString('utf8');
      const path = joinPath(at, name);
      if (!Buffer.from(name).equals(entry.name))
        found.push({
          path,
          why: 'Its name isn’t in UTF-8, so it can’t be moved safely. Rename it on the server first.',
        });
      else if (entry.isSymbolicLink())
        found.push({ path, why: 'It is a link to another location. Remove it, or move it yourself.' });
      else if (entry.isDirectory()) {
        if (isPassedOver(name))
          found.push({ path, why: 'It belongs to a tool and is never moved. Move it yourself first.' });
        else folders.push(path);
      } else if (!moving.has(path))
        found.push({
          path,
          why: 'It isn’t part of the site as it is set up, so it would be left behind. Move it yourself first.',
        });
    }
  }
  return found;
}

/** Plans an empty folder. */
export async function proposeNewFolder(
  site: Pick<Site, 'folder' | 'scanner'>,
  folder: SitePath,
): Promise<Proposal> {
  await site.scanner.scan();
  const plan = emptyPlan('arrange', `Create the folder “${folder}”`);
  const fault = targetFault(folder);
  if (fault) plan.clashes.push({ path: folder, why: fault });
  else if ((await site.folder.clashes(folder)).length > 0)
    plan.clashes.push({ path: folder, why: 'A file or folder with this name already exists.' });
  else plan.files.push({ do: 'make-folder', path: folder });
  plan.folders = (await newFolders(site, plan)).filter((one) => one !== folder);
  return { plan };
}

/** Plans to remove folders in which nothing lies, and those that are left empty then. */
export async function proposeDropFolders(
  site: Pick<Site, 'index' | 'scanner'>,
  folders: readonly SitePath[],
): Promise<Proposal> {
  await site.scanner.scan();
  const empty = new Set(site.index.emptyFolders);
  const named = new Set(folders);
  const wanted = await setOf(empty, breathe, (one) => {
    for (let at = one; at !== ''; at = folderOf(at)) if (named.has(at)) return one;
    return undefined;
  });
  const [only] = folders;
  const plan = emptyPlan(
    'arrange',
    folders.length === 1 ? `Delete the empty folder “${only}”` : `Delete ${folders.length} empty folders`,
  );
  for (const folder of folders)
    if (!empty.has(folder))
      plan.clashes.push({ path: folder, why: 'It no longer exists, or is no longer empty.' });
  for (const path of [...wanted].sort((a, b) => b.length - a.length))
    plan.files.push({ do: 'drop-folder', path });
  return { plan };
}

/** A folder and those above it, up to one of them. */
function upTo(folder: SitePath, top: SitePath): SitePath[] {
  return folder === top ? [folder] : [folder, ...upTo(folderOf(folder), top)];
}
