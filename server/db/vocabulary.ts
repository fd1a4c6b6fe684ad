import type { OwnField } from '../../core/describe/fields.ts';
import type { Treatment } from '../../core/picture/recipe/treatments.ts';
import type { NamePattern } from '../../core/naming/pattern.ts';
import type { SettingValue } from '../../core/plan/plan.ts';
import type { Db } from './database.ts';
import { storedJson } from './stored-json.ts';

/** What people keep by a name, as JSON. */
abstract class KeptByName<Value> {
  /** The table, and its column, which are called alike but for the one that was there first. */
  protected abstract readonly table: string;
  protected abstract readonly column: string;
  protected abstract readonly called: string;
  constructor(protected readonly db: Db) {}

  protected list(): { name: string; value: Value }[] {
    const rows = this.db.all<{ name: string; value: string }>(
      `select name, ${this.column} as value from ${this.table} order by name`,
    );
    return rows.flatMap(({ name, value }) => {
      const read = storedJson<Value | null>(value, null, `the ${this.called} “${name}”`);
      return read ? [{ name, value: read }] : [];
    });
  }

  value(name: string): SettingValue {
    const value = this.db.value(`select ${this.column} from ${this.table} where name = ?`, name);
    return value === undefined
      ? null
      : storedJson<SettingValue>(value as string, null, `the ${this.called} “${name}”`);
  }

  setValue(name: string, value: SettingValue): void {
    if (value === null) this.db.run(`delete from ${this.table} where name = ?`, name);
    else
      this.db.run(
        `insert or replace into ${this.table} (name, ${this.column}) values (?, ?)`,
        name,
        JSON.stringify(value),
      );
  }
}

/** The patterns of names that people keep. */
export class NamePatterns extends KeptByName<NamePattern> {
  protected readonly table = 'name_pattern';
  protected readonly column = 'pattern';
  protected readonly called = 'name pattern';

  all(): { name: string; pattern: NamePattern }[] {
    return this.list().map(({ name, value }) => ({ name, pattern: value }));
  }
}

/** The treatments of images that people keep. */
export class Treatments extends KeptByName<Omit<Treatment, 'name'>> {
  protected readonly table = 'treatment';
  protected readonly column = 'treatment';
  protected readonly called = 'treatment';

  all(): Treatment[] {
    return this.list().map(({ name, value }) => ({ name, ...value }));
  }
}

/** The fields that the site has of its own. Taking one away leaves its values in the records, unseen until it is back. */
export class OwnFields {
  constructor(private readonly db: Db) {}

  all(): OwnField[] {
    const rows = this.db.all<Omit<OwnField, 'choices'> & { choices: string }>(
      'select name, kind, choices from own_field order by name',
    );
    return rows.map((row) => ({
      ...row,
      choices: storedJson<string[]>(row.choices, [], `the field “${row.name}”`),
    }));
  }

  value(name: string): SettingValue {
    const field = this.all().find((one) => one.name.toLowerCase() === name.toLowerCase());
    return field ? { kind: field.kind, choices: field.choices } : null;
  }

  setValue(name: string, value: SettingValue): void {
    if (value === null) {
      this.db.run('delete from own_field where name = ?', name);
      return;
    }
    const { kind, choices } = value as unknown as Omit<OwnField, 'name'>;
    this.db.run(
      'insert or replace into own_field (name, kind, choices) values (?, ?, ?)',
      name,
      kind,
      JSON.stringify(choices),
    );
  }
}
