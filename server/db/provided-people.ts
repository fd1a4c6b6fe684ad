import type { Db } from './database.ts';

/** Which person somebody at an organisation's provider is. */
export class ProvidedPeople {
  constructor(private readonly db: Db) {}

  /** Undefined: nobody yet. */
  personOf(issuer: string, subject: string): number | undefined {
    return this.db.value<number>(
      'select person_id from provided_person where issuer = ? and subject = ?',
      issuer,
      subject,
    );
  }

  has(personId: number): boolean {
    return this.db.value('select 1 from provided_person where person_id = ?', personId) !== undefined;
  }

  /** Everybody who comes in by a provider. */
  all(): Set<number> {
    return new Set(
      this.db.all<{ id: number }>('select person_id as id from provided_person').map(({ id }) => id),
    );
  }

  add(issuer: string, subject: string, personId: number): void {
    this.db.run(
      'insert into provided_person (issuer, subject, person_id) values (?, ?, ?)',
      issuer,
      subject,
      personId,
    );
  }

  remove(personId: number): void {
    this.db.run('delete from provided_person where person_id = ?', personId);
  }
}
