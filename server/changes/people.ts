import { aRole, grantOf, narrows, type Role } from '../../core/people/rights.ts';
import { targetFault } from '../../core/address/target.ts';
import { emptyPlan, type Plan, type SettingValue } from '../../core/plan/plan.ts';
import { sameValue } from '../../core/plan/settings.ts';
import { cameFrom } from '../db/acting.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import type { MemberValue } from '../db/members.ts';
import { applyProposal, type Applying } from './apply.ts';
import type { Proposal } from './proposal.ts';
import { proposeRecords } from './records.ts';

export interface MemberChange {
  role?: Role | undefined;
  folders?: readonly string[] | undefined;
  ended?: boolean | undefined;
}

/** Plans what somebody may do here. @throws Fault */
export function proposeMember(
  site: Pick<Site, 'members' | 'now'>,
  personId: number,
  { role, folders, ended }: MemberChange,
): Proposal {
  const before = site.members.value(String(personId)) as unknown as MemberValue | null;
  const was = before ?? site.members.withoutRole(personId);
  if (!was) throw new Fault('not-found', 'There is no such person.', 'Reload the page.');
  const after: MemberValue = {
    ...was,
    role: role ?? was.role,
    folders: tidyFolders(folders ?? was.folders),
    ended: ended === undefined ? was.ended : ended ? (was.ended ?? site.now()) : null,
  };
  // A right that no folder can hold is not narrowed by folders.
  if (!narrows(after.role)) {
    if (folders && folders.length > 0)
      throw new Fault(
        'bad-request',
        `What ${aRole(after.role)} may do isn’t bound to folders.`,
        'Make them a contributor or an editor first.',
      );
    after.folders = [];
  }
  const title = before ? titleOf(before, after) : `Add ${was.name} as ${aRole(after.role)}`;
  return { plan: planMember(title, String(personId), before, after) };
}

/** Plans that what somebody looks after, and what they propose, becomes another's. @throws Fault */
export async function proposeHandOn(
  site: Pick<Site, 'items' | 'people' | 'submissions' | 'tags'>,
  personId: number,
  toId: number,
): Promise<Proposal> {
  const from = site.people.rows().find(({ id }) => id === personId);
  const to = site.people.get(toId);
  if (!from || from.id === to?.id)
    throw new Fault('not-found', 'There is no such person.', 'Reload the page.');
  if (!to || grantOf(to.role, 'publish') === 'no')
    throw new Fault('bad-request', 'Nobody of that name may propose anything.', 'Choose somebody else.');
  const title = `Hand on what ${from.name} had to ${to.name}`;
  const held = site.items.heldBy(from.id);
  const plan =
    held.length > 0
      ? (await proposeRecords(site, held, { owner: to.name })).plan
      : emptyPlan('arrange', title);
  plan.settings = site.submissions.openOf(from.id).map((id) => ({
    namespace: 'proposer',
    key: String(id),
    before: String(from.id),
    after: String(to.id),
  }));
  return { plan: { ...plan, title } };
}

/** Plans a new person, who has no password yet. */
export function proposeNewMember(
  site: Pick<Site, 'members' | 'access'>,
  name: string,
  role: Role,
): { proposal: Proposal; id: number } {
  const called = site.access.newName(name);
  const key = site.members.nextKey();
  const after: MemberValue = { name: called, role, folders: [], ended: null };
  return {
    proposal: { plan: planMember(`Invite ${called} as ${aRole(role)}`, key, null, after) },
    id: Number(key),
  };
}

/** Sets the role that a provider's groups give, in the name of the person themselves. */
export const roleSetter =
  (site: Applying & Pick<Site, 'members'>, provider: string) =>
  async (personId: number, role: Role): Promise<void> => {
    const proposal = proposeMember(site, personId, { role });
    await cameFrom(provider, () => applyProposal(site, proposal, personId));
  };

function planMember(title: string, key: string, before: MemberValue | null, after: MemberValue): Plan {
  const plan = emptyPlan('arrange', title);
  const [was, becomes] = [before, after] as unknown as [SettingValue, SettingValue];
  if (!sameValue(was, becomes)) plan.settings = [{ namespace: 'person', key, before: was, after: becomes }];
  return plan;
}

function titleOf(before: MemberValue, after: MemberValue): string {
  const { name } = before;
  if (before.ended === null && after.ended !== null) return `End the access of ${name}`;
  if (before.ended !== null && after.ended === null) return `Bring ${name} back`;
  if (before.role !== after.role) return `Make ${name} ${aRole(after.role)}`;
  return after.folders.length > 0
    ? `Narrow the rights of ${name} to ${after.folders.map((one) => `“${one}”`).join(', ')}`
    : `Give ${name} rights on the whole site`;
}

/** Sorted, none within another. @throws Fault for what can be no folder */
function tidyFolders(folders: readonly string[]): string[] {
  const tidy = [
    ...new Set(folders.map((one) => one.normalize('NFC').split('/').filter(Boolean).join('/'))),
  ].sort();
  for (const folder of tidy) {
    const fault = targetFault(folder);
    if (fault) throw new Fault('bad-request', fault, 'Choose another folder.');
  }
  return tidy.filter((one) => !tidy.some((other) => other !== one && one.startsWith(`${other}/`)));
}
