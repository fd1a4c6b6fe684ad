import type { Db } from './database.ts';
import { hashOf, newToken } from './sessions.ts';

/** A token as its person sees it; times in milliseconds since 1970. */
export interface MachineTokenRow {
  id: number;
  personId: number;
  name: string;
  /** What it may do at most. */
  role: string;
  madeAt: number;
  endsAt: number;
  usedAt: number | null;
}

const COLUMNS =
  'id, person_id as personId, name, role, made_at as madeAt, ends_at as endsAt, used_at as usedAt';
/** When it was used is written down no more often. */
const USED_STEP = 60_000;

/**
 * Tokens by which programs come in on behalf of a person, for a time. The program alone has the token (256 random bits); here lies its
 * SHA-256.
 */
export class MachineTokens {
  constructor(
    private readonly db: Db,
    private readonly now: () => number = Date.now,
  ) {}

  /** @returns the token, which is told only this once */
  make(one: { personId: number; name: string; role: string; endsAt: number }): string {
    const token = newToken();
    this.db.run(
      'insert into machine_token (person_id, name, role, token_hash, made_at, ends_at) values (?, ?, ?, ?, ?, ?)',
      one.personId,
      one.name,
      one.role,
      hashOf(token),
      this.now(),
      one.endsAt,
    );
    return token;
  }

  /** Undefined: there is none, or its time is over. */
  find(token: string): MachineTokenRow | undefined {
    const row = this.db.get<MachineTokenRow>(
      `select ${COLUMNS} from machine_token where token_hash = ? and ends_at > ?`,
      hashOf(token),
      this.now(),
    );
    if (row && this.now() - (row.usedAt ?? 0) > USED_STEP)
      this.db.run('update machine_token set used_at = ? where id = ?', this.now(), row.id);
    return row;
  }

  /** Those of a person that still work. */
  of(personId: number): MachineTokenRow[] {
    return this.db.all<MachineTokenRow>(
      `select ${COLUMNS} from machine_token where person_id = ? and ends_at > ? order by id desc`,
      personId,
      this.now(),
    );
  }

  /** @returns its name; undefined: the person has no such token */
  end(personId: number, id: number): string | undefined {
    const name = this.db.value<string>(
      'select name from machine_token where id = ? and person_id = ?',
      id,
      personId,
    );
    this.db.run('delete from machine_token where id = ? and person_id = ?', id, personId);
    return name;
  }
}
