import { createHash, randomBytes } from 'node:crypto';
import type { Db } from './database.ts';

/** Unused for so long, a session ends; and at the latest so long after its start. In milliseconds. */
export const IDLE = 12 * 3600_000;
export const LONGEST = 14 * 24 * 3600_000;
/** An old token works so long beside the new one, for what was on its way. */
const OVERLAP = 30_000;
/** When a window was seen is written down no more often. */
const SEEN_STEP = 60_000;

/** A session as its person sees it. */
export interface SessionRow {
  id: number;
  personId: number;
  /** What the person might do when its token was given. */
  role: string;
  startedAt: number;
  seenAt: number;
  address: string;
  agent: string;
}

/** Where a request comes from, as it says itself. */
export interface Origin {
  address: string;
  agent: string;
}

const COLUMNS = 'id, person_id as personId, role, started_at as startedAt, seen_at as seenAt, address, agent';

/**
 * Who is signed in. Only the browser has the token (256 random bits); here lies its SHA-256, so that nobody can sign in with what a copy of the
 * data holds.
 */
export class Sessions {
  constructor(
    private readonly db: Db,
    private readonly now: () => number = Date.now,
  ) {}

  /** @returns its token */
  start(personId: number, role: string, { address, agent }: Origin): string {
    const token = newToken();
    const at = this.now();
    this.db.run(
      `insert into session (token_hash, person_id, role, started_at, seen_at, address, agent) values (?, ?, ?, ?, ?, ?, ?)`,
      hashOf(token),
      personId,
      role,
      at,
      at,
      address,
      agent.slice(0, 300),
    );
    return token;
  }

  /** Undefined: there is none, or it has ended. */
  find(token: string): SessionRow | undefined {
    const hash = hashOf(token);
    const row =
      this.db.get<SessionRow>(`select ${COLUMNS} from session where token_hash = ?`, hash) ??
      this.db.get<SessionRow>(
        `select ${COLUMNS} from session where old_hash = ? and old_until > ?`,
        hash,
        this.now(),
      );
    return row && this.lasts(row) ? row : undefined;
  }

  /** Whether it still goes on. */
  goesOn(id: number): boolean {
    const row = this.db.get<SessionRow>(`select ${COLUMNS} from session where id = ?`, id);
    return row !== undefined && this.lasts(row);
  }

  /** A window of it was seen. */
  seen(session: SessionRow): void {
    const at = this.now();
    if (at - session.seenAt >= SEEN_STEP)
      this.db.run('update session set seen_at = ? where id = ?', at, session.id);
  }

  /** Another token for the same session; the old one works for half a minute more. @returns the new one */
  renew(id: number, role: string): string {
    const token = newToken();
    this.db.run(
      'update session set old_hash = token_hash, old_until = ?, token_hash = ?, role = ? where id = ?',
      this.now() + OVERLAP,
      hashOf(token),
      role,
      id,
    );
    return token;
  }

  of(personId: number): SessionRow[] {
    return this.db
      .all<SessionRow>(`select ${COLUMNS} from session where person_id = ? order by seen_at desc`, personId)
      .filter((row) => this.lasts(row));
  }

  /** Of this person only: nobody ends those of others by their number. */
  end(id: number, personId: number): void {
    this.db.run('delete from session where id = ? and person_id = ?', id, personId);
  }

  /** @param but that goes on */
  endAll(personId: number, but = 0): void {
    this.db.run('delete from session where person_id = ? and id <> ?', personId, but);
  }

  /** Takes away those that have ended by themselves. */
  sweep(): void {
    const now = this.now();
    this.db.run('delete from session where seen_at < ? or started_at < ?', now - IDLE, now - LONGEST);
  }

  private lasts({ seenAt, startedAt }: SessionRow): boolean {
    const now = this.now();
    return now - seenAt < IDLE && now - startedAt < LONGEST;
  }
}

/** 256 random bits, fit for a cookie and an address. */
export const newToken = (): string => randomBytes(32).toString('base64url');

/** What is kept of a token. */
export const hashOf = (token: string): string => createHash('sha256').update(token).digest('hex');
