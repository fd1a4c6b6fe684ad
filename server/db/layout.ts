import { LAYOUT_PARTS, PLAIN_LAYOUT, type SiteLayout } from '../../core/reference/layout.ts';
import type { SettingValue } from '../../core/plan/plan.ts';
import type { Db } from './database.ts';

/** How the site's folder is laid out, as a person has said it; a part that nobody has set is found out. */
export class Layout {
  constructor(private readonly db: Db) {}

  get(): SiteLayout {
    const layout = { ...PLAIN_LAYOUT };
    for (const part of LAYOUT_PARTS) {
      const value = this.value(part);
      if (typeof value === 'string') layout[part] = value.split('\n');
    }
    return layout;
  }

  /** A part's lines, joined; null: not set. */
  value(part: string): SettingValue {
    return (this.db.value('select lines from layout where part = ?', part) ?? null) as SettingValue;
  }

  setValue(part: string, value: SettingValue): void {
    if (value === null) this.db.run('delete from layout where part = ?', part);
    else this.db.run('insert or replace into layout (part, lines) values (?, ?)', part, value);
  }
}
