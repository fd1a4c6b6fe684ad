import type { SettingValue } from '../../core/plan/plan.ts';
import type { Db } from './database.ts';

/** SQL: whether it is known of every item whether anything uses it. While it is not, none is told as unused or offered for cleaning. */
export const USE_KNOWN = "((select value from site_state where name = 'use-known') = '1')";

/** What is known of the site as a whole. */
export class SiteState {
  constructor(private readonly db: Db) {}

  /** Whether every placement and mention is of the files as they are. False: they are being connected anew. */
  get connected(): boolean {
    return this.db.value("select value from site_state where name = 'connected'") === '1';
  }

  /** How links to documents are worded, as people have set it; null: as usual. */
  get linkForm(): string | null {
    return this.db.value<string>("select value from site_state where name = 'link-form'") ?? null;
  }

  setLinkForm(form: SettingValue): void {
    this.db.run("delete from site_state where name = 'link-form'");
    if (form !== null) this.db.run("insert into site_state (name, value) values ('link-form', ?)", form);
  }

  /** @param useKnown every text has been read or searched: what nothing refers to is unused */
  setConnected(connected: boolean, useKnown = false): void {
    const set = 'update site_state set value = ? where name = ?';
    this.db.run(set, connected ? '1' : '0', 'connected');
    this.db.run(set, connected && useKnown ? '1' : '0', 'use-known');
  }
}
