import { isWithin, type SitePath } from '../address/path.ts';
import { REDIRECTS_FILE } from '../address/redirects.ts';
import type { Plan, SettingNamespace } from '../plan/plan.ts';

/** Whether a path lies in one of the folders, or is one of them; of no folders: always. */
export const reaches = (folders: readonly SitePath[], path: SitePath): boolean =>
  folders.length === 0 || folders.some((folder) => isWithin(folder, path));

/** What is known of a plan's subjects, to say how far it reaches. */
export interface Subjects {
  /** Where an item is; undefined: it is none of the site's, or the person may always write it. */
  pathOf(itemId: number): SitePath | undefined;
  /** Whether an item's file lies there. */
  isItem(path: SitePath): boolean;
  /** The plan is about pages: what it writes into them is its purpose. Else it follows from what moves. */
  placing: boolean;
}

/** Settings that are the whole site's. Others belong to an item, or to nobody. */
const WHOLE: readonly SettingNamespace[] = ['tag-spelling', 'tag-above'];

/**
 * The first thing outside some folders that a plan is about: a path, or 'the tags of the whole site'; undefined: it stays inside. Addresses in pages
 * and redirects that follow from what moves are no subject of it: they are rewritten wherever they stand.
 */
export function outsideOf(
  plan: Plan,
  folders: readonly SitePath[],
  { pathOf, isItem, placing }: Subjects,
): string | undefined {
  if (folders.length === 0) return undefined;
  const outside = (path: SitePath | undefined) => path !== undefined && !reaches(folders, path);
  const pages = new Set(plan.pages.map(({ page }) => page));
  let subjects = 0;
  for (const step of plan.files) {
    const paths = step.do === 'move' ? [step.from, step.to] : [step.path];
    const meant = (path: SitePath) => isItem(path) || (placing && pages.has(path));
    const follows =
      step.do === 'write' && (step.path === REDIRECTS_FILE || (step.before !== null && !meant(step.path)));
    if (follows) continue;
    subjects++;
    const found = paths.find(outside);
    if (found !== undefined) return found;
  }
  for (const { itemId, after } of plan.records) {
    subjects++;
    const found = [pathOf(itemId), after.path].find(outside);
    if (found !== undefined) return found;
  }
  for (const { namespace, key } of plan.settings ?? []) {
    if (namespace !== 'suggested-tags') continue;
    subjects++;
    const found = [pathOf(Number(key))].find(outside);
    if (found !== undefined) return found;
  }
  if (plan.settings?.some(({ namespace }) => WHOLE.includes(namespace))) return 'the tags of the whole site';
  const [first] = plan.files;
  // Nothing but what follows from nothing: the redirects themselves.
  return subjects === 0 && first && 'path' in first ? first.path : undefined;
}
