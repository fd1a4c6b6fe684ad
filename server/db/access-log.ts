import type { Db } from './database.ts';

/** What may happen at the door, and to people. */
export type AccessEvent =
  | 'signed-in'
  | 'signed-out'
  | 'refused'
  | 'slowed'
  | 'password-set'
  | 'session-ended'
  | 'invited'
  | 'invitation-used'
  | 'invitation-refused'
  | 'token-made'
  | 'token-ended'
  | 'token-refused'
  | 'provider-added'
  | 'provider-refused'
  | 'provider-connected'
  | 'provider-disconnected'
  | 'factor-set'
  | 'factor-ended'
  | 'code-refused'
  | 'recovery-used'
  | 'recovery-codes'
  | 'handed-on'
  | 'role'
  | 'folders'
  | 'ended'
  | 'returned';

export interface AccessRow {
  id: number;
  at: string;
  what: AccessEvent;
  /** Null: nobody of that name; what was typed is not kept, it may have been a password. */
  person: string | null;
  by: string | null;
  address: string;
  details: string;
}

/** So many lines are kept: whoever is not let in must not fill the disk. */
const KEPT = 100_000;

/** Who came in, who did not, and what was changed about people: only ever added to. */
export class AccessLog {
  constructor(
    private readonly db: Db,
    private readonly now: () => string,
  ) {}

  add(
    what: AccessEvent,
    personId: number | null,
    { byId = null, address = '', details = '' }: { byId?: number | null; address?: string; details?: string },
  ): void {
    const { lastInsertRowid } = this.db.run(
      'insert into access_log (at, what, person_id, by_id, address, details) values (?, ?, ?, ?, ?, ?)',
      this.now(),
      what,
      personId,
      byId,
      address,
      details,
    );
    this.db.run('delete from access_log where id <= ?', Number(lastInsertRowid) - KEPT);
  }

  /** The latest first. */
  list(most: number): AccessRow[] {
    return this.db.all<AccessRow>(
      `select access_log.id, at, what, person.name as person, actor.name as by, address, details from access_log
         left join person on person.id = person_id left join person actor on actor.id = by_id
         order by access_log.id desc limit ?`,
      most,
    );
  }
}
