import { mayDraft } from '../../core/people/rights.ts';
import type { Site } from '../app/site.ts';
import type { Person } from '../db/people.ts';

/** Who asks, as far as drafts go. */
type Asker = Pick<Person, 'id' | 'role'>;

/** Items of a list that are drafts: whether each is the person's own, brought in by them or theirs to look after. */
function draftsAmong(
  site: Pick<Site, 'db'>,
  person: Asker,
  ids: readonly number[],
): { id: number; own: 0 | 1 }[] {
  return site.db.all<{ id: number; own: 0 | 1 }>(
    `select id, coalesce(added_by = @person, 0) or coalesce(owner_id = @person, 0) as own
       from item where state = 'draft' and id in (select value from json_each(@ids))`,
    { person: person.id, ids: JSON.stringify(ids) },
  );
}

/** Which of some items are drafts that the person may not see: to them they aren't there. */
export function hiddenFrom(site: Pick<Site, 'db'>, person: Asker, ids: readonly number[]): Set<number> {
  if (ids.length === 0 || mayDraft(person.role, false)) return new Set();
  const drafts = draftsAmong(site, person, ids).filter(({ own }) => !mayDraft(person.role, own === 1));
  return new Set(drafts.map(({ id }) => id));
}

/** All drafts that the person may not see. */
export function hiddenDrafts(site: Pick<Site, 'db'>, person: Asker): number[] {
  if (mayDraft(person.role, false)) return [];
  const drafts = site.db.all<{ id: number }>("select id from item where state = 'draft'");
  return [
    ...hiddenFrom(
      site,
      person,
      drafts.map(({ id }) => id),
    ),
  ];
}

/** Whether all of some items are the person's own drafts. */
export function areOwnDrafts(site: Pick<Site, 'db'>, person: Asker, ids: readonly number[]): boolean {
  const drafts = draftsAmong(site, person, ids);
  return ids.length > 0 && drafts.length === new Set(ids).size && drafts.every(({ own }) => own === 1);
}
