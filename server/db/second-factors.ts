import type { Db } from './database.ts';
import { hashOf } from './sessions.ts';

export interface SecondFactorRow {
  /** Base32. */
  secret: string;
  /** Null: it was begun, and no code has been shown yet. */
  setAt: number | null;
  /** Time step of the last code that worked. */
  lastStep: number;
}

/** Secrets by which people's devices make codes, and the hashes of codes for when a device is lost. */
export class SecondFactorRows {
  constructor(private readonly db: Db) {}

  of(personId: number): SecondFactorRow | undefined {
    return this.db.get<SecondFactorRow>(
      'select secret, set_at as setAt, last_step as lastStep from second_factor where person_id = ?',
      personId,
    );
  }

  /** Those who are asked for a code. */
  set(): Set<number> {
    return new Set(
      this.db
        .all<{ id: number }>('select person_id as id from second_factor where set_at is not null')
        .map(({ id }) => id),
    );
  }

  /** A new secret, for which no code has been shown. */
  begin(personId: number, secret: string): void {
    this.db.run(
      `insert into second_factor (person_id, secret, set_at, last_step) values (?, ?, null, 0)
         on conflict (person_id) do update set secret = excluded.secret, set_at = null, last_step = 0`,
      personId,
      secret,
    );
  }

  confirm(personId: number, at: number): void {
    this.db.run('update second_factor set set_at = ? where person_id = ?', at, personId);
  }

  used(personId: number, step: number): void {
    this.db.run('update second_factor set last_step = ? where person_id = ?', step, personId);
  }

  /** Others work no more. */
  setCodes(personId: number, codes: readonly string[]): void {
    this.db.run('delete from recovery_code where person_id = ?', personId);
    for (const code of codes)
      this.db.run('insert into recovery_code (person_id, code_hash) values (?, ?)', personId, hashOf(code));
  }

  codesLeft(personId: number): number {
    return this.db.value<number>('select count(*) from recovery_code where person_id = ?', personId) ?? 0;
  }

  /** @returns whether there was such a code; it works no more */
  useCode(personId: number, code: string): boolean {
    return (
      this.db.run('delete from recovery_code where person_id = ? and code_hash = ?', personId, hashOf(code))
        .changes > 0
    );
  }

  end(personId: number): void {
    this.db.run('delete from recovery_code where person_id = ?', personId);
    this.db.run('delete from second_factor where person_id = ?', personId);
  }
}
