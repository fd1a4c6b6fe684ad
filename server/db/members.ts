import type { SettingValue } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import type { AccessLog } from './access-log.ts';
import type { Db } from './database.ts';
import type { People, PersonRow } from './people.ts';

/** What plans change about somebody. */
export interface MemberValue {
  name: string;
  role: string;
  /** In which folders they may do what their role says; none: on the whole site. */
  folders: readonly string[];
  /** When their work here ended, ISO 8601; null: it goes on. */
  ended: string | null;
}

/** What people may do here, as plans change it; all of it stands in the access log too. */
export class Members {
  constructor(
    private readonly db: Db,
    private readonly people: People,
    private readonly log: AccessLog,
  ) {}

  /** @param key the person's number @returns null: nobody, or somebody who has not been given a role yet */
  value(key: string): SettingValue {
    const row = this.row(key);
    return row && !isWithoutRole(row) ? (valueOf(row) as unknown as SettingValue) : null;
  }

  /** Who came in by a provider, or by the first steward's hand, and waits for a role. */
  withoutRole(id: number): MemberValue | undefined {
    const row = this.row(String(id));
    return row && isWithoutRole(row) ? valueOf(row) : undefined;
  }

  /** The number that the next new person gets. */
  nextKey(): string {
    return String((this.db.value<number>('select max(id) from person') ?? 0) + 1);
  }

  /**
   * Nobody is taken out of the table, as the ledger names them: whoever is not to be there has ended.
   * @throws Fault 'clash' when nobody would be left who answers for all
   */
  setValue(key: string, value: SettingValue, byId: number, now: string): void {
    const id = Number(key);
    const before = this.row(key);
    const after =
      value === null ? before && { ...valueOf(before), ended: now } : (value as unknown as MemberValue);
    if (!after) return;
    const answered = this.people.isAnswered;
    if (!before) this.people.addAs(id, after.name, now);
    this.people.setRole(id, after.role, after.folders);
    this.people.end(id, after.ended);
    if (after.ended !== null) {
      this.db.run('delete from session where person_id = ?', id);
      this.db.run('delete from invitation where person_id = ?', id);
    }
    const left = answered ? this.people.isAnswered : this.people.hasSteward;
    if (!left)
      throw new Fault(
        'clash',
        'Nobody would be left who can invite people and set their roles.',
        'Make somebody else a steward first.',
      );
    if (before) this.tell(id, valueOf(before), after, byId);
  }

  private tell(id: number, before: MemberValue, after: MemberValue, byId: number): void {
    if (before.role !== after.role)
      this.log.add('role', id, { byId, details: `${before.role || 'no role'} to ${after.role}` });
    if (String(before.folders) !== String(after.folders))
      this.log.add('folders', id, { byId, details: after.folders.join(', ') });
    if ((before.ended === null) !== (after.ended === null))
      this.log.add(after.ended === null ? 'returned' : 'ended', id, { byId });
  }

  private row(key: string): PersonRow | null {
    return this.people.rows().find(({ id }) => id === Number(key)) ?? null;
  }
}

const isWithoutRole = ({ role, endedAt }: PersonRow) => role === '' && endedAt === null;
const valueOf = ({ name, role, folders, endedAt }: PersonRow): MemberValue => ({
  name,
  role,
  folders,
  ended: endedAt,
});
