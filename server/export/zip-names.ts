import { numberedName, safeName } from '../../core/address/name.ts';
import { baseName, clashKey, folderOf, joinPath } from '../../core/address/path.ts';
import { targetFault } from '../../core/address/target.ts';

/** What tables are called. */
const TABLES = ['items.csv', 'items.jsonl'] as const;

/** Where a file stands in a ZIP: under a name that every system can unpack, of its own. */
export class ZipNames {
  private readonly taken = new Set<string>(TABLES);
  /** The number that the next of a name may have. */
  private readonly next = new Map<string, number>();

  of(path: string): string {
    const safe = path
      .split('/')
      .map((name) => (targetFault(name) === undefined && !/[\\:*?"<>|]/.test(name) ? name : safeName(name)))
      .join('/');
    let name = (TABLES as readonly string[]).includes(safe)
      ? safe.replace('items', 'items (from the site)')
      : safe;
    let number = this.next.get(clashKey(safe)) ?? 2;
    for (; this.taken.has(clashKey(name)); number++)
      name = joinPath(folderOf(safe), numberedName(baseName(safe), number));
    this.next.set(clashKey(safe), number);
    this.taken.add(clashKey(name));
    return name;
  }
}
