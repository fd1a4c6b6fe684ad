import { MineView, SubmissionList, SubmittedPlan } from '../../../api/submissions.ts';
import { may } from '../../../core/people/rights.ts';
import { KINDS_OF_PLAN, type KindName } from '../../../core/plan/kinds/index.ts';
import { propose } from '../../changes/kinds/index.ts';
import { movedOn, needProposer, needSubmission, requestOf } from '../../changes/submitting.ts';
import type { Site } from '../../app/site.ts';
import { Fault } from '../../fault.ts';
import { viewOf } from '../../db/item-view.ts';
import { hiddenFrom } from '../../people/drafts.ts';
import type { Person } from '../../db/people.ts';
import type { SubmissionRow } from '../../db/submissions.ts';
import type { Services } from '../context.ts';
import { defineRoute, Done, Id, needRight, type Route } from '../route.ts';
import { planView } from '../views/plan.ts';

/** Comments that call somebody, the newest of them. */
const MOST_CALLS = 30;
const rightOf = ({ kind }: Pick<SubmissionRow, 'kind'>) => KINDS_OF_PLAN[kind as KindName].right;
/** Nobody approves what they have proposed themselves. */
const mayApprove = (person: Person, row: SubmissionRow) =>
  row.personId !== person.id && may(person.role, rightOf(row));

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
          items: site.items.concerning(person.id, may(person.role, 'publish')).map(viewOf),
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
      handle: ({ params, body, person }) => {
        const row = needSubmission(site, params.id);
        needApprover(person, row);
        const answer = { state: 'returned', at: site.now(), by: person.id, answer: body.answer } as const;
        if (!site.submissions.answer(row.id, ['waiting'], answer)) waiting({ ...row, state: 'returned' });
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
      handle: ({ params, person }) => {
        const row = needSubmission(site, params.id);
        if (row.personId !== person.id)
          throw new Fault(
            'forbidden',
            `Only ${row.person} can withdraw this proposal.`,
            'Send it back instead.',
          );
        const answer = { state: 'withdrawn', at: site.now(), by: person.id } as const;
        if (!site.submissions.answer(row.id, ['waiting', 'returned'], answer))
          throw new Fault('clash', 'This proposal has been applied already.', 'Undo it in the Ledger.');
        site.events.emit('submissions');
        return {};
      },
    }),
  ];
};
