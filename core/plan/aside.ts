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

/** Plans to take items off the site. Placed items are never taken: each is a clash that names the reason. */
export async function planAside(
  items: readonly AsideItem[],
  breathe: Breathe = WITHOUT_PAUSE,
): Promise<Plan> {
  const plan = emptyPlan(
    'set-aside',
    items.length === 1
      ? `Set aside “${baseName(items[0]!.path)}”`
      : `Set aside ${items.length.toLocaleString('en')} items`,
  );
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
      plan.warnings.push(
        `${baseName(item.path)} is mentioned in “${mention.page}”, line ${mention.line}. A script or template there may use it.`,
      );
    }
    plan.files.push({ do: 'remove', path: item.path, sha256: item.sha256 });
    plan.records.push({
      itemId: item.id,
      rowVersion: item.rowVersion,
      before: { state: 'here' },
      after: { state: 'aside' },
    });
    plan.totals.items++;
    plan.totals.bytesFreed += item.bytes;
  });
  return plan;
}

/**
 * Plans to bring set-aside items back to where they were. A taken address is a clash.
 * @param freeNames it gets a number instead
 * @param stoodBeside a file whose path differs only in case was there already when the item was set aside
 */
export async function planRestore(
  items: readonly Omit<AsideItem, 'use' | 'mentions'>[],
  paths: Iterable<SitePath>,
  freeNames = false,
  stoodBeside: (twin: SitePath, id: number) => boolean = () => false,
  breathe: Breathe = WITHOUT_PAUSE,
): Promise<Plan> {
  const plan = emptyPlan(
    'restore',
    items.length === 1
      ? `Restore “${baseName(items[0]!.path)}”`
      : `Restore ${items.length.toLocaleString('en')} items`,
  );
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
        why: `“${other}” now has this address. Rename or move that item first.`,
      });
      return;
    }
    if (path !== item.path)
      plan.warnings.push(`“${item.path}” is taken by now. It is restored as “${path}”.`);
    taken.set(clashKey(path), path);
    exact.add(path);
    plan.files.push({ do: 'create', path, sha256: item.sha256 });
    const moved = path !== item.path;
    plan.records.push({
      itemId: item.id,
      rowVersion: item.rowVersion,
      before: { state: 'aside', ...(moved ? { path: item.path } : {}) },
      after: { state: 'here', ...(moved ? { path } : {}) },
    });
    plan.totals.items++;
  });
  return plan;
}
