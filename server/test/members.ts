import type { SettingValue } from '../../core/plan/plan.ts';
import type { Db } from '../db/database.ts';
import { Members, type MemberValue } from '../db/members.ts';
import type { People } from '../db/people.ts';
import { applyProposal } from '../changes/apply.ts';
import { proposeMember, type MemberChange } from '../changes/people.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import type { Access } from '../people/access.ts';

/** Changes what somebody may do, as a plan does when it is applied. */
export function setMember(
  { db, people, access }: { db: Db; people: People; access: Access },
  id: number,
  to: { role?: string; folders?: string[]; ended?: boolean },
  byId = 1,
): void {
  const members = new Members(db, people, access.log);
  const before = (members.value(String(id)) ?? members.withoutRole(id)) as unknown as MemberValue;
  const now = new Date().toISOString();
  const ended = to.ended === undefined ? before.ended : to.ended ? now : null;
  const after = { ...before, ...to, ended } as unknown as SettingValue;
  db.write(() => members.setValue(String(id), after, byId, now));
}

/** A new person, with the link by which they set a password. */
export function inviteMember(
  { db, people, access }: { db: Db; people: People; access: Access },
  name: string,
  role: string,
) {
  const members = new Members(db, people, access.log);
  const [key, now] = [members.nextKey(), new Date().toISOString()];
  const value = { name: access.newName(name), role, folders: [], ended: null };
  db.write(() => members.setValue(key, value, 1, now));
  return access.linkFor(Number(key), people.get(1)!, { address: '', agent: '' });
}

/** Changes what somebody may do, by a plan of the site's first steward. */
export async function changeMember(site: OpenedSite, id: number, to: MemberChange): Promise<void> {
  await applyProposal(site, proposeMember(site, id, to), 1);
}
