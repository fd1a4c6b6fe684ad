import { outsideOf } from '../../core/people/reach.ts';
import { KINDS_OF_PLAN } from '../../core/plan/kinds/index.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import type { Person } from '../db/people.ts';
import { areOwnDrafts } from '../people/drafts.ts';
import type { Proposal } from './proposal.ts';

type Needs = Pick<Site, 'db' | 'items'>;

/** What a plan is about that lies outside the folders to which somebody's rights are narrowed; undefined: nothing. */
export function outsideReach(
  site: Needs,
  person: Person,
  { kind, plan }: Pick<Proposal, 'kind' | 'plan'>,
): string | undefined {
  if (person.folders.length === 0) return undefined;
  // What only writes means what it writes; where files move, pages follow.
  const moves = plan.files.some((step) => step.do !== 'write');
  const found = outsideOf(plan, person.folders, {
    placing: !moves || (kind !== undefined && KINDS_OF_PLAN[kind].right === 'place'),
    isItem: (path) => site.items.atPath(path) !== undefined,
    pathOf: (id) => (areOwnDrafts(site, person, [id]) ? undefined : site.items.get(id)?.path),
  });
  return found;
}

/** @throws Fault 'forbidden' */
export function needReach(site: Needs, person: Person, proposal: Pick<Proposal, 'kind' | 'plan'>): void {
  const outside = outsideReach(site, person, proposal);
  if (outside === undefined) return;
  throw new Fault(
    'forbidden',
    `You work in ${inWords(person.folders)} only: ${outside} lies outside.`,
    'Propose it, or ask somebody who works on the whole site.',
  );
}

const inWords = (folders: readonly string[]) => folders.map((folder) => `“${folder}”`).join(', ');
