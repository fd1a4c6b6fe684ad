import { each, WITHOUT_PAUSE, type Breathe } from '../paced.ts';
import { numberedName } from '../address/name.ts';
import { baseName, clashKey, folderOf, joinPath, type SitePath } from '../address/path.ts';
import type { ShownUse } from '../reference/survey.ts';
import { emptyPlan, type Plan } from './plan.ts';

export interface AsideItem {
  id: number;
  path: SitePath;
  sha256: string;
  bytes: number;
  rowVersion: number;
  use: ShownUse;
  /** References that lead to it itself, not to another size of the same image. */
  placements?: number;
  /** Where its name is mentioned, for the warning. */
  mentions: { page: SitePath; line: number }[];
}

/** 'the only one' by its name, or how many they are. */
const called = (items: readonly { path: SitePath }[]) =>
  items.length === 1 ? `“${baseName(items[0]!.path)}”` : `${items.length.toLocaleString('en')} items`;

/**
 * Plans to take items off the site. Placed items are never taken: each is a clash that names the reason.
 * @param to set aside, or back to drafts: then what is mentioned stays as well
 */
export async function planAside(
  items: readonly AsideItem[],
  breathe: Breathe = WITHOUT_PAUSE,
  to: 'aside' | 'draft' = 'aside',
): Promise<Plan> {
  const plan =
    to === 'aside'
      ? emptyPlan('set-aside', `Set aside ${called(items)}`)
      : emptyPlan('withdraw', `Return ${called(items)} to ${items.length === 1 ? 'draft' : 'drafts'}`);
  await each(items, breathe, (item) => {
    if (item.use === 'placed') {
      plan.clashes.push({
        path: item.path,
        why:
          item.placements === 0
            ? 'A page uses another size of this image. Remove it from the page first, or skip it here.'
            : 'It is in use on a page. Remove it from the page first, or skip it here.',
      });
      return;
    }
    if (item.use === 'unknown') {
      plan.clashes.push({
        path: item.path,
        why: 'Some pages can’t be read, so it may be in use. Fix the pages listed as unreadable, or skip it here.',
      });
      return;
    }
    for (const mention of item.mentions) {
      if (to === 'draft') {
        plan.clashes.push({
          path: item.path,
          why: `“${mention.page}” mentions it in line ${mention.line}, so it may be in use. Remove it there first, or skip it here.`,
        });
        return;
      }
      plan.warnings.push(
        `${baseName(item.path)} is mentioned in “${mention.page}”, line ${mention.line}. A script or template there may use it.`,
      );
    }
    plan.files.push({ do: 'remove', path: item.path, sha256: item.sha256 });
    plan.records.push({
      itemId: item.id,
      rowVersion: item.rowVersion,
      before: { state: 'here' },
      after: { state: to },
    });
    plan.totals.items++;
    plan.totals.bytesFreed += item.bytes;
  });
  return plan;
}

/**
 * Plans to put items on the site whose files lie in the data folder: set-aside ones back to where they were, drafts to where they are to be.
 * A taken address is a clash.
 * @param how.freeNames it gets a number instead
 * @param how.stoodBeside a file whose path differs only in case was there already when the item was set aside
 */
export async function planRestore(
  items: readonly Omit<AsideItem, 'use' | 'mentions'>[],
  paths: Iterable<SitePath>,
  how: {
    from?: 'aside' | 'draft';
    freeNames?: boolean;
    stoodBeside?: (twin: SitePath, id: number) => boolean;
  } = {},
  breathe: Breathe = WITHOUT_PAUSE,
): Promise<Plan> {
  const { from = 'aside', freeNames = false, stoodBeside = () => false } = how;
  const plan =
    from === 'aside'
      ? emptyPlan('restore', `Restore ${called(items)}`)
      : emptyPlan('publish', `Publish ${called(items)}`);
  const taken = new Map<string, SitePath>();
  const exact = new Set<SitePath>();
  await each(paths, breathe, (path) => {
    taken.set(clashKey(path), path);
    exact.add(path);
  });
  await each(items, breathe, (item) => {
    const twin = taken.get(clashKey(item.path));
    const known = twin !== undefined && !freeNames && stoodBeside(twin, item.id);
    const other = exact.has(item.path) ? item.path : known ? undefined : twin;
    if (other === undefined && twin !== undefined)
      plan.warnings.push(
        `“${twin}” differs from “${item.path}” only in case or form: on some servers both are one address.`,
      );
    let path = item.path;
    for (let number = 2; freeNames && taken.has(clashKey(path)); number++)
      path = joinPath(folderOf(item.path), numberedName(baseName(item.path), number));
    if (other !== undefined && !freeNames) {
      plan.clashes.push({
        path: item.path,
        why:
          from === 'aside'
            ? `“${other}” now has this address. Rename or move that item first.`
            : `“${other}” now has this address. Rename the draft, or move that item first.`,
      });
      return;
    }
    if (path !== item.path)
      plan.warnings.push(
        `“${item.path}” is taken by now. It ${from === 'aside' ? 'is restored' : 'is published'} as “${path}”.`,
      );
    taken.set(clashKey(path), path);
    exact.add(path);
    plan.files.push({ do: 'create', path, sha256: item.sha256 });
    const moved = path !== item.path;
    plan.records.push({
      itemId: item.id,
      rowVersion: item.rowVersion,
      before: { state: from, ...(moved ? { path: item.path } : {}) },
      after: { state: 'here', ...(moved ? { path } : {}) },
    });
    plan.totals.items++;
  });
  return plan;
}
