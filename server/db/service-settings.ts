import type { ServiceName } from '../../core/plan/kinds/service.ts';
import type { SettingValue } from '../../core/plan/plan.ts';
import type { Db } from './database.ts';

/** Where outside services answer, and how much may be sent to them, as people have set it. */
export class ServiceSettings {
  constructor(private readonly db: Db) {}

  /** Null: nothing is set; the server may have been told one. */
  address(service: ServiceName): string | null {
    return this.value(service);
  }

  /** How many images may be sent to it in a month; null: any number. */
  limit(service: ServiceName): number | null {
    const text = this.value(`${service}-limit`);
    return text === null ? null : Number(text);
  }

  /** @param key the service, or with '-limit' what may be sent to it in a month */
  value(key: string): string | null {
    return this.db.value<string>('select value from site_state where name = ?', key) ?? null;
  }

  setValue(key: string, value: SettingValue): void {
    this.db.run('delete from site_state where name = ?', key);
    if (value !== null) this.db.run('insert into site_state (name, value) values (?, ?)', key, value);
  }
}
