import type { OwnField } from '../../core/describe/fields.ts';
import type { NamePattern } from '../../core/naming/pattern.ts';
import type { SettingValue } from '../../core/plan/plan.ts';
import type { Db } from './database.ts';
import { storedJson } from './stored-json.ts';

/** The patterns of names that people keep. */
export class NamePatterns {
  constructor(private readonly db: Db) {}

  all(): { name: string; pattern: NamePattern }[] {
    const rows = this.db.all<{
      name: string;
      pattern: string;
    }>('select name, pattern from name_pattern order by name');
    return rows.flatMap(({ name, pattern }) => {
      const read = storedJson<NamePattern | null>(pattern, null, `the name pattern “${name}”`);
      return read ? [{ name, pattern: read }] : [];
    });
  }

  value(name: string): SettingValue {
    const pattern = this.db.value('select pattern from name_pattern where name = ?', name);
    return pattern === undefined
      ? null
      : storedJson<SettingValue>(pattern as string, null, `the name pattern “${name}”`);
  }

  setValue(name: string, value: SettingValue): void {
    if (value === null) this.db.run('delete from name_pattern where name = ?', name);
    else
      this.db.run(
        'insert or replace into name_pattern (name, pattern) values (?, ?)',
        name,
        JSON.stringify(value),
      );
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
