import type { Db } from './database.ts';
import { hashOf, newToken } from './sessions.ts';

/** Links by which people set their password: each works once, and only for a while. Here lies only the hash of what a link holds. */
export class Invitations {
  constructor(
    private readonly db: Db,
    private readonly now: () => number = Date.now,
  ) {}

  /** An earlier link of the same person works no more. @param lasts milliseconds @returns what the link holds */
  make(personId: number, at: string, lasts: number): string {
    const token = newToken();
    this.db.run('delete from invitation where person_id = ?', personId);
    this.db.run(
      'insert into invitation (token_hash, person_id, at, until) values (?, ?, ?, ?)',
      hashOf(token),
      personId,
      at,
      this.now() + lasts,
    );
    return token;
  }

  /** Whose it is; undefined: it has been used, is too old, or there never was one. */
  personOf(token: string): number | undefined {
    return this.db.value<number>(
      'select person_id from invitation where token_hash = ? and until > ?',
      hashOf(token),
      this.now(),
    );
  }

  /** It works no more, and no other of this person does. */
  used(personId: number): void {
    this.db.run('delete from invitation where person_id = ?', personId);
  }
}
