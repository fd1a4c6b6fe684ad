import { z } from 'zod';
import { Applied, EntryView, PlanView } from '../../../api/plans.ts';
import { Submitted } from '../../../api/submissions.ts';
import { Fault } from '../../fault.ts';
import { grantOf, may, whoMay, type Right } from '../../../core/people/rights.ts';
import { KINDS_OF_PLAN, type KindName } from '../../../core/plan/kinds/index.ts';
import type { Site } from '../../app/site.ts';
import { needProposer, needSubmission, planSubmission, restsOf } from '../../changes/submitting.ts';
import type { SubmissionRow } from '../../db/submissions.ts';
import { areOwnDrafts, hiddenDrafts, hiddenFrom } from '../../people/drafts.ts';
import { folderOf } from '../../../core/address/path.ts';
import type { Plan, SettingNamespace } from '../../../core/plan/plan.ts';
import { propose } from '../../changes/kinds/index.ts';
import { outsideReach } from '../../changes/reach.ts';
import { applyProposal } from '../../changes/apply.ts';
import { runAsJob, LONG, type Proposal } from '../../changes/proposal.ts';
import type { Person } from '../../db/people.ts';
import { LARGE } from '../body.ts';
import { namedItems } from '../named-items.ts';
import type { Services } from '../context.ts';
import { defineRoute, Done, Id, needRight, type Route } from '../route.ts';
import { planView } from '../views/plan.ts';
import { needAnswerer, needApprover } from './submissions.ts';

/** Who may take back what was set; all else is for who may set things. */
const RIGHTS_OF: Partial<Record<SettingNamespace, Right>> = {
  comment: 'describe',
  'suggested-tags': 'describe',
  person: 'people',
  proposer: 'people',
};

/**
 * What an undo takes back may have needed more than undoing does: its own steps say what.
 * @throws Fault 'forbidden'
 */
function needRights(site: Pick<Site, 'db' | 'submissions'>, person: Person, { kind, plan }: Proposal): void {
  if (kind !== 'undo') return;
  if (hiddenFrom(site, person, itemsOf(plan)).size > 0) needRight(person, 'publish');
  if (plan.files.length > 0) needRight(person, 'organise');
  // Without a file none of them is written: it is the text of a draft.
  if (plan.pages.length > 0 && plan.files.length > 0) needRight(person, 'place');
  if (plan.records.length > 0) needRight(person, 'describe');
  for (const { namespace, key, before, after } of plan.settings ?? []) {
    if (namespace === 'proposal') {
      needAnswerer(person, needSubmission(site, Number(key)), [before, after]);
      continue;
    }
    // A comment is taken away by who wrote it, or by who answers for all.
    const others = after === null && (before as { person?: string } | null)?.person !== person.name;
    needRight(person, namespace === 'comment' && others ? 'people' : (RIGHTS_OF[namespace] ?? 'settings'));
  }
}

/** Items that a plan writes into, or says something about. */
const itemsOf = ({ records, settings = [] }: Plan): number[] => [
  ...records.map((step) => step.itemId),
  ...settings.flatMap(({ namespace, key }) =>
    namespace === 'comment' || namespace === 'suggested-tags' ? [Number.parseInt(key, 10)] : [],
  ),
];

/** The right that a plan needs: with their own drafts, who may bring in may do what drafts can have done. */
function rightFor(site: Pick<Site, 'db'>, person: Person, kind: KindName, items: readonly number[]): Right {
  const { drafts, right } = KINDS_OF_PLAN[kind];
  return drafts && areOwnDrafts(site, person, items) ? 'bring-in' : right;
}

/** Plans: computed, applied, and as the ledger keeps them. */
export const planRoutes = ({ site, proposals }: Services): Route[] => {
  /** Two who approve the same at once: the second is told. */
  const answering = new Set<number>();

  /** Applies what somebody else has proposed, in their name; who approved it stands beside it. */
  async function approve(
    row: SubmissionRow,
    proposal: Proposal,
    person: Person,
    note: string,
  ): Promise<Applied> {
    needApprover(person, row);
    needProposer(site, row);
    if (row.state !== 'waiting' || answering.has(row.id))
      throw new Fault('clash', 'This proposal has been answered already.', 'Reload the list.');
    answering.add(row.id);
    try {
      const about = { note: note || row.note, approvedBy: person.id };
      const entryId = await applyProposal(site, proposal, row.personId, about);
      site.submissions.answer(row.id, ['waiting'], {
        state: 'applied',
        at: site.now(),
        by: person.id,
        answer: note,
        entryId,
      });
      site.events.emit('submissions');
      return { entryId, title: proposal.plan.title, totals: proposal.plan.totals };
    } finally {
      answering.delete(row.id);
    }
  }

  return [
    defineRoute({
      method: 'post',
      path: '/plans',
      right: 'look',
      body: 'PlanRequest',
      most: LARGE,
      answer: PlanView,
      handle: async ({ body: request, person }) => {
        const kind = KINDS_OF_PLAN[request.kind];
        const named = namedItems('/plans', { params: {}, body: request });
        const right = rightFor(site, person, request.kind, named);
        if (grantOf(person.role, right) === 'no') needRight(person, right);
        const many = Math.max(
          'itemIds' in request ? request.itemIds.length : 0,
          'names' in request ? request.names.length : 0,
          'places' in request ? request.places.length : 0,
        );
        // Of many, and where something is encoded, the computing shows as running work.
        const { id, proposal } = await proposals.compute(person.id, () =>
          many > LONG || kind.encodes
            ? runAsJob(site, 'Computing the plan', (progress) =>
                propose(site, request, { personId: person.id, progress }),
              )
            : propose(site, request, { personId: person.id }),
        );
        needRights(site, person, proposal);
        const view = await planView(site, id, proposal.plan);
        if (!may(person.role, right)) return { ...view, approval: whoMay(right) };
        const outside = outsideReach(site, person, proposal);
        if (outside === undefined) return view;
        const where = folderOf(outside);
        const whose = where === '' ? 'of the whole site' : `who works in “${where}”`;
        return { ...view, approval: `${whoMay(right)} ${whose}` };
      },
    }),

    defineRoute({
      method: 'post',
      path: '/plans/:id/apply',
      right: 'look',
      params: z.strictObject({ id: z.string().max(100) }),
      body: 'ApplyRequest',
      answer: Applied,
      handle: ({ params, body, person }) =>
        proposals.use(params.id, person.id, async (proposal) => {
          if (proposal.submission !== undefined)
            return approve(needSubmission(site, proposal.submission), proposal, person, body.note);
          // It may have been taken away since the plan was computed.
          const { kind, plan } = proposal;
          const changed = plan.files.length > 0 ? [] : plan.records.map((step) => step.itemId);
          if (kind) needRight(person, rightFor(site, person, kind, changed));
          needRights(site, person, proposal);
          const entryId = await applyProposal(site, proposal, person.id, { note: body.note });
          return { entryId, title: proposal.plan.title, totals: proposal.plan.totals };
        }),
    }),

    /** Instead of applying it: those who may are asked to. */
    defineRoute({
      method: 'post',
      path: '/plans/:id/submit',
      right: 'bring-in',
      params: z.strictObject({ id: z.string().max(100) }),
      body: 'SubmitRequest',
      answer: Submitted,
      handle: ({ params, body, person }) =>
        proposals.use(params.id, person.id, async ({ kind, request, plan, submission }) => {
          if (!kind || !request || kind === 'undo')
            throw new Fault('bad-request', 'This can’t be proposed.', 'Ask somebody who may do it.');
          const { right } = KINDS_OF_PLAN[kind];
          if (grantOf(person.role, right) === 'no') needRight(person, right);
          const [clash] = plan.clashes;
          if (clash) throw new Fault('clash', clash.why, 'Change the plan and try again.', plan.clashes);
          const now = {
            at: site.now(),
            title: plan.title,
            items: plan.totals.items,
            pages: plan.totals.pages,
            note: body.note,
            rests: await restsOf(plan),
          };
          const again = submission !== undefined;
          if (again && needSubmission(site, submission).personId !== person.id)
            throw new Fault('forbidden', 'This is somebody else’s proposal.', 'Send it back instead.');
          if (again && !site.submissions.again(submission, now))
            throw new Fault('clash', 'This proposal wasn’t sent back.', 'Reload the list.');
          const submissionId =
            submission ?? site.submissions.add({ ...now, personId: person.id, kind, request });
          const what = again ? 'Propose again' : 'Propose';
          const row = needSubmission(site, submissionId);
          await applyProposal(
            site,
            planSubmission(site, row, what, { state: 'waiting', answer: '' }),
            person.id,
          );
          site.events.emit('submissions');
          return { submissionId };
        }),
    }),

    defineRoute({
      method: 'get',
      path: '/ledger',
      right: 'look',
      query: z.strictObject({ before: z.coerce.number().int().min(1).optional() }),
      answer: z.array(EntryView),
      handle: ({ query, person }) => {
        const hidden = new Set(site.rows.about(hiddenDrafts(site, person)));
        return site.rows
          .list(100, query.before)
          .map((row) => (hidden.has(row.id) ? { ...row, title: 'A change of drafts', note: '' } : row));
      },
    }),

    defineRoute({
      method: 'get',
      path: '/ledger/:id',
      right: 'look',
      params: Id,
      answer: PlanView,
      handle: async ({ params, person }) => {
        const entry = await site.rows.read(params.id);
        if (!entry) throw new Fault('not-found', 'There is no such ledger entry.', 'Reload the Ledger.');
        if (hiddenFrom(site, person, itemsOf(entry.plan)).size > 0)
          throw new Fault(
            'forbidden',
            'This change is about drafts that you can’t see.',
            `Ask ${whoMay('publish')}.`,
          );
        return planView(site, '', entry.plan);
      },
    }),

    defineRoute({
      method: 'put',
      path: '/ledger/:id/note',
      right: 'describe',
      params: Id,
      body: 'NoteRequest',
      answer: Done,
      handle: ({ params, body }) => {
        site.rows.setNote(params.id, body.note);
        return {};
      },
    }),
  ];
};
