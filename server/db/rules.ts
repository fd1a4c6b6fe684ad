import { folderOf } from '../../core/address/path.ts';
import type { Kind } from '../../core/address/kinds.ts';
import type { FolderRule } from '../../core/intake/rules.ts';
import type { NamePattern } from '../../core/naming/pattern.ts';
import type { SettingValue } from '../../core/plan/plan.ts';
import type { Db } from './database.ts';
import { storedJson } from './stored-json.ts';

interface RuleRow extends Omit<FolderRule, 'keepOriginal' | 'kinds' | 'tags' | 'pattern'> {
  keepOriginal: number;
  kinds: string | null;
  tags: string;
  pattern: string | null;
}

const patterns = new Map<string, NamePattern | null>();

/** The pattern of names that holds in a folder: of its own rule, else of the nearest one above. Null: there is none. */
export function patternAt(db: Db, folder: string): NamePattern | null {
  const at = 'select folder, pattern from folder_rule where folder = ?';
  let best: { folder: string; pattern: string | null } | undefined;
  // Asked upwards: there may be as many rules as folders.
  for (let up = folder; !best; up = folderOf(up)) {
    best = db.get<typeof best>(at, up)!;
    if (up === '') break;
  }
  if (!best || best.pattern === null) return null;
  let pattern = patterns.get(best.pattern);
  if (pattern === undefined)
    patterns.set(
      best.pattern,
      (pattern = storedJson<NamePattern | null>(best.pattern, null, `the rule of “${best.folder}”`)),
    );
  return pattern;
}

/** The rules of folders: what they are for, what their items need, and what is more than useful. */
export class Rules {
  constructor(private readonly db: Db) {}

  all(): FolderRule[] {
    const rows = this.db
      .all<RuleRow>(`select folder, purpose, least_width as leastWidth, least_height as leastHeight, largest_side as largestSide,
           shape, largest_bytes as largestBytes, keep_original as keepOriginal, kinds, pattern, tags, licence
         from folder_rule order by folder`);
    return rows.map((row) => ({
      ...row,
      keepOriginal: row.keepOriginal === 1,
      kinds:
        row.kinds === null ? null : storedJson<Kind[] | null>(row.kinds, null, `the rule of “${row.folder}”`),
      tags: storedJson<string[]>(row.tags, [], `the rule of “${row.folder}”`),
      pattern:
        row.pattern === null
          ? null
          : storedJson<NamePattern | null>(row.pattern, null, `the rule of “${row.folder}”`),
    }));
  }

  /** A folder's own rule as a setting, without the folder. */
  value(folder: string): SettingValue {
    const rule = this.all().find((one) => one.folder === folder);
    if (!rule) return null;
    const { folder: _folder, ...value } = rule;
    return value;
  }

  setValue(folder: string, value: SettingValue): void {
    if (value === null) this.db.run('delete from folder_rule where folder = ?', folder);
    else this.set({ ...(value as unknown as Omit<FolderRule, 'folder'>), folder });
  }

  private set(rule: FolderRule): void {
    this.db.run(
      `insert or replace into folder_rule (folder, purpose, least_width, least_height, largest_side, shape, largest_bytes,
           keep_original, kinds, pattern, tags, licence)
         values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
      rule.folder,
      rule.purpose,
      rule.leastWidth,
      rule.leastHeight,
      rule.largestSide,
      rule.shape,
      rule.largestBytes,
      Number(rule.keepOriginal),
      rule.kinds && JSON.stringify(rule.kinds),
      rule.pattern && JSON.stringify(rule.pattern),
      JSON.stringify(rule.tags),
      rule.licence,
    );
  }
}
