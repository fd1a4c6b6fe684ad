import { distance } from 'fastest-levenshtein';
import { baseName, clashKey, extensionOf, folderOf, stemOf, type SitePath } from '../address/path.ts';
import { each, mapOf, sorted, WITHOUT_PAUSE, type Breathe } from '../paced.ts';
import { cleanName } from '../address/name.ts';
import { kindOf } from '../address/kinds.ts';
import type { Redirect } from '../address/redirects.ts';
import { decodePathname } from './resolve.ts';

/** Why a file is likely the one that a broken reference means, the surest first. */
export const REPAIR_REASONS = {
  case: 'the same name, written with other capitals',
  redirect: 'a redirect leads there',
  name: 'the same name in another folder',
  extension: 'the same name with another extension',
  alike: 'a name that is nearly the same',
} as const;
export type RepairReason = keyof typeof REPAIR_REASONS;

export interface Repair {
  path: SitePath;
  reason: RepairReason;
  /** Nothing else fits as well: it can be chosen without looking. */
  sure: boolean;
}

/** At most so many are offered for one reference. */
const OFFERED = 5;

/** The items of a site by what broken references may still know of them. */
export class Repairs {
  private readonly byName = new Map<string, SitePath[]>();
  private readonly byStem = new Map<string, SitePath[]>();
  private readonly byPath = new Map<string, SitePath>();

  /** The stems of cleaned names by their length: made when they are asked for. */
  private cleaned: Map<number, { path: SitePath; stem: string }[]> | undefined;
  /** What was found of each: the same file is often missed on many pages. */
  private readonly latest = new Map<SitePath, Repair[]>();

  private constructor(
    private readonly redirects: ReadonlyMap<string, string>,
    private readonly breathe: Breathe,
  ) {}

  /** @param items paths of all items; @param redirects as the redirects file has them */
  static async of(
    items: Iterable<SitePath>,
    redirects: readonly Redirect[] = [],
    breathe: Breathe = WITHOUT_PAUSE,
  ): Promise<Repairs> {
    const leading = await mapOf(redirects, breathe, ({ from, to }) => [
      decodePathname(from),
      decodePathname(to),
    ]);
    const repairs = new Repairs(leading, breathe);
    await each(items, breathe, (path) => {
      repairs.byPath.set(clashKey(path), path);
      add(repairs.byName, clashKey(baseName(path)), path);
      add(repairs.byStem, clashKey(stemOf(path)), path);
    });
    return repairs;
  }

  /**
   * What a broken reference most likely means. Only items of its kind: an image is never mended with a video.
   * @param missing where it leads, decoded: there is no such file
   */
  async for(missing: SitePath): Promise<Repair[]> {
    const before = this.latest.get(missing);
    if (before) return before;
    const found = await this.find(missing);
    this.latest.set(missing, found);
    return found;
  }

  private async find(missing: SitePath): Promise<Repair[]> {
    const name = baseName(missing);
    const found = new Map<SitePath, RepairReason>();
    const offer = (paths: readonly SitePath[], reason: RepairReason) => {
      for (const path of paths)
        if (kindOf(path) === kindOf(missing) && !found.has(path)) found.set(path, reason);
    };
    const sameCase = this.byPath.get(clashKey(missing));
    if (sameCase !== undefined) offer([sameCase], 'case');
    const onward = this.redirects.get(`/${missing}`);
    const target = onward && this.byPath.get(clashKey(onward.slice(1)));
    if (target) offer([target], 'redirect');
    const near = (paths: readonly SitePath[]) =>
      sorted(paths, this.breathe, (a, b) => apart(missing, a) - apart(missing, b) || (a < b ? -1 : 1));
    offer(await near(this.byName.get(clashKey(name)) ?? []), 'name');
    offer(await near(this.byStem.get(clashKey(stemOf(missing))) ?? []), 'extension');
    if (found.size === 0) offer(await near(await this.alike(missing)), 'alike');
    const all = [...found].slice(0, OFFERED);
    const [first, second] = all;
    return all.map(([path, reason], at) => ({
      path,
      reason,
      sure:
        at === 0 &&
        (reason === 'case' ||
          reason === 'redirect' ||
          // One of its name, and nothing else of that name lies as near.
          ((reason === 'name' || (reason === 'extension' && folderOf(path) === folderOf(missing))) &&
            (!second ||
              second[1] !== first![1] ||
              apart(missing, second[0]) > apart(missing, first![0]) + 1))),
    }));
  }

  /** Files whose cleaned name differs by a slip of the pen, or by a size or a number behind it. */
  private async alike(missing: SitePath): Promise<SitePath[]> {
    const wanted = cleanStem(missing);
    if (wanted.length < 4) return [];
    const most = Math.min(3, Math.floor(wanted.length / 5));
    this.cleaned ??= await this.cleanStems();
    const found: { path: SitePath; by: number }[] = [];
    for (let length = wanted.length - most; length <= wanted.length + most; length++)
      await each(this.cleaned.get(length) ?? [], this.breathe, ({ path, stem }) => {
        const by = distance(wanted, stem);
        if (by > most) return;
        if (extensionOf(path) === extensionOf(missing) || kindOf(path) === kindOf(missing))
          found.push({ path, by });
      });
    return found.sort((a, b) => a.by - b.by || (a.path < b.path ? -1 : 1)).map((one) => one.path);
  }

  private async cleanStems() {
    const stems = new Map<number, { path: SitePath; stem: string }[]>();
    await each(this.byPath.values(), this.breathe, (path) => {
      const stem = cleanStem(path);
      const there = stems.get(stem.length);
      if (there) there.push({ path, stem });
      else stems.set(stem.length, [{ path, stem }]);
    });
    return stems;
  }
}

const cleanStem = (path: SitePath) =>
  stemOf(cleanName(baseName(path))).replace(/-(?:\d{2,5}x\d{2,5}|\d{3,4}w?|scaled|copy|final)$/, '');

function add(map: Map<string, SitePath[]>, key: string, path: SitePath): void {
  const there = map.get(key);
  if (there) there.push(path);
  else map.set(key, [path]);
}

/** How many folders lie between two files. */
function apart(one: SitePath, other: SitePath): number {
  const a = folderOf(one).toLowerCase().split('/');
  const b = folderOf(other).toLowerCase().split('/');
  let shared = 0;
  while (shared < a.length && shared < b.length && a[shared] === b[shared]) shared++;
  return a.length + b.length - 2 * shared;
}
