import { REDIRECTS_FILE } from '../../core/address/redirects.ts';
import { aRole, grantOf } from '../../core/people/rights.ts';
import { KINDS_OF_PLAN, PlanRequest, type KindName, type RequestOf } from '../../core/plan/kinds/index.ts';
import { emptyPlan, type Plan } from '../../core/plan/plan.ts';
import { each } from '../../core/paced.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import type { SubmissionRow, SubmissionValue, SubmittedRests } from '../db/submissions.ts';
import { breathe } from '../workers/breathe.ts';
import { currentHash, type Proposal } from './proposal.ts';

/** So many files and records of a proposal are compared again at most; sentences that tell of it. */
const MOST_RESTS = 20_000;
const MOST_TOLD = 20;

/** What a plan was computed from, to be compared when somebody looks at it later. */
export async function restsOf(plan: Plan): Promise<SubmittedRests> {
  const rests: SubmittedRests = { records: [], files: [] };
  await each(plan.records.slice(0, MOST_RESTS), breathe, ({ itemId, rowVersion }) =>
    rests.records.push([itemId, rowVersion]),
  );
  await each(plan.files.slice(0, MOST_RESTS), breathe, (step) => {
    if (step.do === 'move') rests.files.push([step.from, step.sha256], [step.to, null]);
    else if (step.do === 'write') rests.files.push([step.path, step.before]);
    else if (step.do === 'remove') rests.files.push([step.path, step.sha256]);
    else if (step.do === 'create') rests.files.push([step.path, null]);
  });
  return rests;
}

/** What has changed of that since, in sentences; the redirects, to which every change of address adds, are passed over. */
export async function movedOn(
  site: Pick<Site, 'items' | 'folder' | 'index' | 'pool'>,
  { records, files }: SubmittedRests,
): Promise<string[]> {
  const told: string[] = [];
  let more = 0;
  const tell = (sentence: string) => (told.length < MOST_TOLD ? told.push(sentence) : more++);
  for (const [id, rowVersion] of records) {
    const item = site.items.get(id);
    await breathe();
    if (!item || item.state === 'absent') tell(`${item ? `“${item.name}”` : 'An item'} is no longer there.`);
    else if (item.rowVersion !== rowVersion)
      tell(`“${item.name}” was changed${item.changedBy ? ` by ${item.changedBy}` : ''} since.`);
  }
  // Paths that the plan itself takes are told when they are taken, by what stands in its way.
  const known = new Map(files.filter(([path, sha256]) => sha256 !== null && path !== REDIRECTS_FILE));
  for (const [path, sha256] of known) {
    const now = await currentHash(site, path);
    await breathe();
    if (now === null) tell(`“${path}” is no longer there.`);
    else if (now !== sha256) tell(`“${path}” has changed since.`);
  }
  if (more > 0) told.push(`And ${more.toLocaleString('en')} more.`);
  return told;
}

/** Plans another state of a proposal, so that the ledger tells who did it. @param what 'Propose', 'Send back' */
export function planSubmission(
  site: Pick<Site, 'submissions'>,
  { id, title }: Pick<SubmissionRow, 'id' | 'title'>,
  what: string,
  to: SubmissionValue,
): Proposal {
  const before = site.submissions.value(String(id));
  // Everybody reads the ledger: drafts aren't named in it.
  const told = site.submissions.isAboutDrafts(id) ? 'a change of drafts' : title;
  const plan = emptyPlan('arrange', `${what}: ${told}`);
  plan.settings = [{ namespace: 'proposal', key: String(id), before, after: { ...to } }];
  return { plan };
}

/** What was proposed, as it was asked for. @throws Fault where it can't be read any more */
export function requestOf(site: Pick<Site, 'submissions'>, id: number): RequestOf<KindName> {
  const read = PlanRequest.safeParse(site.submissions.request(id));
  if (read.success) return read.data;
  throw new Fault(
    'bad-request',
    'This proposal was made with an older version and can’t be read any more.',
    'Send it back and ask for a new one.',
  );
}

/** @throws Fault 'not-found' */
export function needSubmission(site: Pick<Site, 'submissions'>, id: number): SubmissionRow {
  const row = site.submissions.get(id);
  if (!row) throw new Fault('not-found', `There is no proposal ${id}.`, 'Reload the page.');
  return row;
}

/** @throws Fault 'forbidden' when the one who proposed it has ended, or may not even propose it any more */
export function needProposer(site: Pick<Site, 'people'>, { personId, person, kind }: SubmissionRow): void {
  const proposer = site.people.get(personId);
  if (proposer && grantOf(proposer.role, KINDS_OF_PLAN[kind as KindName].right) !== 'no') return;
  throw new Fault(
    'forbidden',
    proposer
      ? `${person} is ${aRole(proposer.role)} now and may no longer propose this.`
      : `${person}’s access has ended, so the proposal can’t be applied.`,
    'Make the change yourself.',
  );
}
