import { folderOf } from '../../core/address/path.ts';
import type { Kind } from '../../core/address/kinds.ts';
import { asSetting, type FolderRule } from '../../core/intake/rules.ts';
import type { NamePattern } from '../../core/naming/pattern.ts';
import type { Treatment } from '../../core/picture/recipe/treatments.ts';
import type { SettingValue } from '../../core/plan/plan.ts';
import type { Db } from './database.ts';
import { storedJson } from './stored-json.ts';

interface RuleRow extends Omit<FolderRule, 'keepOriginal' | 'kinds' | 'tags' | 'pattern' | 'treatment'> {
  keepOriginal: number;
  kinds: string | null;
  tags: string;
  pattern: string | null;
  treatment: string | null;
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
           shape, largest_bytes as largestBytes, keep_original as keepOriginal, kinds, pattern, treatment, tags, licence
         from folder_rule order by folder`);
    return rows.map((row) => {
      const read = <Value>(text: string | null): Value | null =>
        text === null ? null : storedJson<Value | null>(text, null, `the rule of “${row.folder}”`);
      return {
        ...row,
        keepOriginal: row.keepOriginal === 1,
        kinds: read<Kind[]>(row.kinds),
        tags: read<string[]>(row.tags) ?? [],
        pattern: read<NamePattern>(row.pattern),
        treatment: read<Treatment>(row.treatment),
      };
    });
  }

  /** A folder's own rule as a setting, without the folder. */
  value(folder: string): SettingValue {
    const rule = this.all().find((one) => one.folder === folder);
    if (!rule) return null;
    const { folder: _folder, ...value } = rule;
    return asSetting(value) as unknown as SettingValue;
  }

  setValue(folder: string, value: SettingValue): void {
    if (value === null) this.db.run('delete from folder_rule where folder = ?', folder);
    else this.set({ ...(value as unknown as Omit<FolderRule, 'folder'>), folder });
  }

  private set(rule: FolderRule): void {
    this.db.run(
      `insert or replace into folder_rule (folder, purpose, least_width, least_height, largest_side, shape, largest_bytes,
           keep_original, kinds, pattern, treatment, tags, licence)
         values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
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
      // One from before there were treatments has none.
      rule.treatment ? JSON.stringify(rule.treatment) : null,
      JSON.stringify(rule.tags),
      rule.licence,
    );
  }
}
