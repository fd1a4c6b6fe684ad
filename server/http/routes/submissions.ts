import { MineView, SubmissionList, SubmittedPlan } from '../../../api/submissions.ts';
import { may, mayDraft } from '../../../core/people/rights.ts';
import type { SettingValue } from '../../../core/plan/plan.ts';
import { KINDS_OF_PLAN, type KindName } from '../../../core/plan/kinds/index.ts';
import { propose } from '../../changes/kinds/index.ts';
import { applyProposal } from '../../changes/apply.ts';
import {
  movedOn,
  needProposer,
  needSubmission,
  planSubmission,
  requestOf,
} from '../../changes/submitting.ts';
import type { Site } from '../../app/site.ts';
import { Fault } from '../../fault.ts';
import { viewOf } from '../../db/item-view.ts';
import { hiddenFrom } from '../../people/drafts.ts';
import type { Person } from '../../db/people.ts';
import type { SubmissionRow, SubmissionValue } from '../../db/submissions.ts';
import type { Services } from '../context.ts';
import { defineRoute, Done, Id, needRight, type Route } from '../route.ts';
import { planView } from '../views/plan.ts';

/** Comments that call somebody, the newest of them. */
const MOST_CALLS = 30;
const rightOf = ({ kind }: Pick<SubmissionRow, 'kind'>) => KINDS_OF_PLAN[kind as KindName].right;
/** Nobody approves what they have proposed themselves. */
const mayApprove = (person: Person, row: SubmissionRow) =>
  row.personId !== person.id && may(person.role, rightOf(row));

/** What waits about an item, of one's own or to be approved. */
export const proposalsAbout = (site: Pick<Site, 'submissions'>, itemId: number, person: Person) =>
  site.submissions
    .about(itemId)
    .filter((row) => row.personId === person.id || mayApprove(person, row))
    .map(({ id, at, person, title }) => ({ id, at, person, title }));

export const submissionCounts = (site: Pick<Site, 'submissions'>, person: Person) => ({
  toApprove: site.submissions.waiting().filter((row) => mayApprove(person, row)).length,
  sentBack: site.submissions.of(person.id).filter((row) => row.state === 'returned').length,
});

/** @throws Fault 'forbidden' */
export function needApprover(person: Person, row: SubmissionRow): void {
  if (row.personId === person.id)
    throw new Fault(
      'forbidden',
      'You can’t approve your own proposal.',
      'Ask somebody else, or withdraw it.',
    );
  needRight(person, rightOf(row));
}

/**
 * For undoing what was done about a proposal: who withdrew it or let it wait is its author, who sent it back an approver.
 * @throws Fault 'forbidden'
 */
export function needAnswerer(person: Person, row: SubmissionRow, values: readonly SettingValue[]): void {
  if (values.some((value) => (value as unknown as SubmissionValue | null)?.state === 'returned'))
    return needApprover(person, row);
  if (row.personId !== person.id)
    throw new Fault('forbidden', `Only ${row.person} can change this proposal.`, 'Send it back instead.');
}

/** Plans that people propose to others: what waits, what came of it. Applying one is applying its plan (see plans.ts). */
export const submissionRoutes = ({ site, proposals }: Services): Route[] => {
  const waiting = (row: SubmissionRow) => {
    if (row.state !== 'waiting')
      throw new Fault('clash', 'This proposal has been answered already.', 'Reload the list.');
  };
  return [
    /** Items that this person has something to do with. */
    defineRoute({
      method: 'get',
      path: '/mine',
      right: 'look',
      answer: MineView,
      handle: ({ person }) => {
        const calls = site.comments.calling(person.name, MOST_CALLS);
        const hidden = hiddenFrom(
          site,
          person,
          calls.map(({ itemId }) => itemId),
        );
        return {
          items: site.items.concerning(person.id, mayDraft(person.role, false)).map(viewOf),
          calls: calls
            .filter(({ itemId }) => !hidden.has(itemId))
            .map((one) => {
              const { path, state } = site.items.need(one.itemId);
              return { ...one, path, state };
            }),
        };
      },
    }),

    defineRoute({
      method: 'get',
      path: '/submissions',
      right: 'look',
      answer: SubmissionList,
      handle: ({ person }) => ({
        waiting: site.submissions.waiting().filter((row) => mayApprove(person, row)),
        mine: site.submissions.of(person.id),
      }),
    }),

    /** What it would change now. Who approves may apply it as any plan. */
    defineRoute({
      method: 'post',
      path: '/submissions/:id/plan',
      right: 'look',
      params: Id,
      body: 'Nothing',
      answer: SubmittedPlan,
      handle: async ({ params, person }) => {
        const row = needSubmission(site, params.id);
        // What was sent back can be looked at by its author, to be proposed again.
        if (row.personId !== person.id || row.state !== 'returned') waiting(row);
        if (row.personId !== person.id) {
          needApprover(person, row);
          needProposer(site, row);
        }
        const request = requestOf(site, row.id);
        const moved = await movedOn(site, site.submissions.rests(row.id));
        const { id, proposal } = await proposals.compute(person.id, async () => ({
          ...(await propose(site, request, { personId: row.personId })),
          submission: row.id,
        }));
        return { submission: row, plan: await planView(site, id, proposal.plan), moved };
      },
    }),

    defineRoute({
      method: 'post',
      path: '/submissions/:id/return',
      right: 'look',
      params: Id,
      body: 'ReturnRequest',
      answer: Done,
      handle: async ({ params, body, person }) => {
        const row = needSubmission(site, params.id);
        needApprover(person, row);
        waiting(row);
        const answer = { state: 'returned', answer: body.answer } as const;
        await applyProposal(site, planSubmission(site, row, 'Send back', answer), person.id);
        site.events.emit('submissions');
        return {};
      },
    }),

    defineRoute({
      method: 'post',
      path: '/submissions/:id/withdraw',
      right: 'look',
      params: Id,
      body: 'Nothing',
      answer: Done,
      handle: async ({ params, person }) => {
        const row = needSubmission(site, params.id);
        if (row.personId !== person.id)
          throw new Fault(
            'forbidden',
            `Only ${row.person} can withdraw this proposal.`,
            'Send it back instead.',
          );
        if (row.state !== 'waiting' && row.state !== 'returned')
          throw new Fault('clash', 'This proposal has been applied already.', 'Undo it in the Ledger.');
        const answer = { state: 'withdrawn', answer: '' } as const;
        await applyProposal(site, planSubmission(site, row, 'Withdraw', answer), person.id);
        site.events.emit('submissions');
        return {};
      },
    }),
  ];
};
