import { each, filter, mapOf, setOf, WITHOUT_PAUSE, type Breathe } from '../paced.ts';
import {
  baseName,
  clashKey,
  extensionOf,
  folderOf,
  nameFault,
  pathFault,
  type SitePath,
} from '../address/path.ts';
import { addressOf } from '../address/redirects.ts';
import type { PageReading } from '../reference/model.ts';
import type { Rewritten } from '../reference/rewrite.ts';
import { emptyPlan, type Plan } from './plan.ts';

/** What an address plan needs to know of one item. */
export interface MovingItem {
  id: number;
  path: SitePath;
  sha256: string;
  rowVersion: number;
}

/** A file without a record (a page, a script) that goes along with its folder. */
export interface MovingFile {
  path: SitePath;
  to: SitePath;
  sha256: string;
}

/** What becomes of one page. */
export interface RewrittenPage {
  path: SitePath;
  /** Hash of the page as it was read. */
  sha256: string;
  rewrite: Rewritten;
  /** Hash of the new bytes, where it is known already. */
  newSha256?: string;
}

export interface AddressSnapshot {
  /** Every file of the site, for clashes. */
  paths: Iterable<SitePath>;
  /** Rewrites the pages that refer to the items, and the items that are pages themselves, in their order. */
  rewrite: (moves: ReadonlyMap<SitePath, SitePath>) => Promise<RewrittenPage[]>;
  /** Folders whose contents are served from the site's root; default: the site's folder itself. */
  roots?: readonly SitePath[];
  /** Waited for again and again: a plan of many files holds nobody else up. */
  breathe?: Breathe;
  /** Mentions of the items that will go stale. */
  mentions: { page: SitePath; path: SitePath; line: number }[];
}

export interface AddressPlan {
  plan: Plan;
  /** New bytes of the pages, by page path; the caller hashes and stores them. */
  contents: {
    path: SitePath;
    beforeSha256: string;
    bytes: Uint8Array;
    newSha256?: string | undefined;
    reading?: PageReading | undefined;
  }[];
}

/**
 * Plans a change of address: files move, the pages that refer to them are rewritten byte-exactly, redirects are kept.
 * Nothing is decided later: what the plan shows is what applying does.
 * @param along sizes of the items: they move too, and are told with them
 */
export async function planAddresses(
  items: readonly MovingItem[],
  to: ReadonlyMap<number, SitePath>,
  snapshot: AddressSnapshot,
  others: readonly MovingFile[] = [],
  otherFormat = false,
  along: readonly MovingItem[] = [],
): Promise<AddressPlan> {
  const { breathe = WITHOUT_PAUSE } = snapshot;
  const moves = new Map<SitePath, SitePath>();
  const moving: MovingItem[] = [];
  const plan = emptyPlan('rename', '');
  await each([...items, ...along], breathe, (item) => {
    const target = to.get(item.id);
    if (target === undefined || target === item.path) return;
    const fault = pathFault(target) ?? (otherFormat ? undefined : extensionFault(item.path, target));
    if (fault) plan.clashes.push({ path: target, why: fault });
    moves.set(item.path, target);
    moving.push(item);
    if (folderOf(item.path) !== folderOf(target)) plan.kind = 'move';
  });
  const withThem = new Set(along);
  const told = await filter(moving, breathe, (item) => !withThem.has(item));
  plan.title = titleOf(told, moves, {
    from: await setOf(told, breathe, (item) => folderOf(item.path)),
    to: await setOf(told, breathe, (item) => folderOf(moves.get(item.path)!)),
  });
  await each(others, breathe, (one) => {
    const fault = pathFault(one.to);
    if (fault) plan.clashes.push({ path: one.to, why: fault });
    moves.set(one.path, one.to);
  });
  await addClashes(plan, moves, snapshot.paths, breathe);

  const contents: AddressPlan['contents'] = [];
  if (plan.clashes.length === 0) {
    await each(await snapshot.rewrite(moves), breathe, (page) => {
      const { rewrite } = page;
      if (!rewrite) return;
      if ('refused' in rewrite) {
        plan.clashes.push({ path: page.path, why: rewrite.refused });
        return;
      }
      contents.push({
        path: page.path,
        beforeSha256: page.sha256,
        bytes: rewrite.bytes,
        newSha256: page.newSha256,
        reading: rewrite.reading,
      });
      plan.pages.push({
        page: page.path,
        changes: rewrite.changes.map(({ line, place, oldUrl, newUrl }) => ({ line, place, oldUrl, newUrl })),
      });
    });
  }
  await each(moving, breathe, (item) => {
    const target = moves.get(item.path)!;
    plan.files.push({ do: 'move', from: item.path, to: target, sha256: item.sha256 });
    plan.records.push({
      itemId: item.id,
      rowVersion: item.rowVersion,
      before: { path: item.path },
      after: { path: target },
    });
    plan.redirects.push({
      from: addressOf(item.path, snapshot.roots),
      to: addressOf(target, snapshot.roots),
    });
  });
  await each(others, breathe, (one) => {
    plan.files.push({ do: 'move', from: one.path, to: one.to, sha256: one.sha256 });
    plan.redirects.push({ from: addressOf(one.path, snapshot.roots), to: addressOf(one.to, snapshot.roots) });
  });
  await each(snapshot.mentions, breathe, (mention) => {
    plan.warnings.push(
      `“${mention.page}”, line ${mention.line}, mentions ${baseName(mention.path)} in its text. Mentions are not updated. Check that line yourself.`,
    );
  });
  plan.totals = {
    items: told.length,
    pages: plan.pages.length,
    spans: plan.pages.reduce((sum, page) => sum + page.changes.length, 0),
    bytesFreed: 0,
  };
  return { plan, contents };
}

function extensionFault(from: SitePath, to: SitePath): string | undefined {
  const name = nameFault(baseName(to));
  if (name) return name;
  if (baseName(to).startsWith('.')) return 'A name can’t start with a dot, because servers hide such files.';
  if (extensionOf(from) !== extensionOf(to)) {
    return `Keep the extension “${extensionOf(from)}”. It tells what type of file this is.`;
  }
  return undefined;
}

async function addClashes(
  plan: Plan,
  moves: ReadonlyMap<SitePath, SitePath>,
  paths: Iterable<SitePath>,
  breathe: Breathe,
): Promise<void> {
  const taken = await mapOf(paths, breathe, (path) => (moves.has(path) ? undefined : [clashKey(path), path]));
  const folders = new Set<string>();
  await each(taken.values(), breathe, (path) => {
    for (let folder = folderOf(path); folder !== ''; folder = folderOf(folder)) folders.add(clashKey(folder));
  });
  await each(moves, breathe, ([from, to]) => {
    const key = clashKey(to);
    const other = taken.get(key);
    // Twins that move together stay twins.
    const twins = other !== undefined && moves.has(other) && clashKey(other) === clashKey(from);
    if (other !== undefined && (!twins || to === moves.get(other)))
      plan.clashes.push({ path: to, why: `There is a file “${other}” already. Choose another name.` });
    else if (folders.has(key))
      plan.clashes.push({ path: to, why: 'A folder with this name already exists. Choose another name.' });
    for (let folder = folderOf(to); folder !== ''; folder = folderOf(folder)) {
      const file = taken.get(clashKey(folder));
      if (file !== undefined)
        plan.clashes.push({
          path: to,
          why: `“${file}” is a file, not a folder. Choose another folder.`,
        });
    }
    taken.set(key, from);
  });
}

function titleOf(
  moving: readonly MovingItem[],
  moves: ReadonlyMap<SitePath, SitePath>,
  folders: { from: ReadonlySet<SitePath>; to: ReadonlySet<SitePath> },
): string {
  const [first] = moving;
  if (!first) return 'Nothing changes';
  const to = moves.get(first.path)!;
  if (moving.length > 1) {
    const [only] = folders.to;
    return folders.to.size === 1 && !folders.from.has(only!)
      ? `Move ${moving.length.toLocaleString('en')} items to “${only || 'the site’s root'}”`
      : `Change the addresses of ${moving.length.toLocaleString('en')} items`;
  }
  if (folderOf(first.path) === folderOf(to)) return `Rename “${baseName(first.path)}” to “${baseName(to)}”`;
  return baseName(first.path) === baseName(to)
    ? `Move “${baseName(first.path)}” to “${folderOf(to) || 'the site’s root'}”`
    : `Move “${baseName(first.path)}” to “${to}”`;
}
