import { PlanRequest, type Applied, type EntryView, type PlanView } from '../../api/plans.ts';
import { isEmpty, type Plan } from '../../core/plan/plan.ts';
import { RECORD_NAMES } from '../../core/plan/words.ts';
import { Fault } from '../fault.ts';
import {
  applyProposal,
  proposeAddress,
  proposeAside,
  proposeFolder,
  proposeMove,
  proposeRecords,
  proposeTag,
  proposeRestore,
  proposeUndo,
  type Proposal,
} from '../ledger/propose.ts';
import type { Site } from '../site/site.ts';
import type { Route, Services } from './app.ts';
import { idOf, readBody } from './body.ts';

export function planRoutes(router: Route, { site, proposals }: Services): void {
  router.post('/plans', async (ctx) => {
    const proposal = await propose(site, await readBody(ctx, PlanRequest));
    ctx.body = planView(site, proposals.keep(proposal), proposal.plan);
  });

  router.post('/plans/:id/apply', async (ctx) => {
    const proposal = proposals.take(String(ctx.params['id']));
    const entryId = await applyProposal(site, proposal, ctx.state.person.id);
    ctx.body = { entryId, title: proposal.plan.title, totals: proposal.plan.totals } satisfies Applied;
  });

  router.get('/ledger', (ctx) => {
    const before = Number(ctx.query['before']);
    ctx.body = site.rows.list(
      100,
      Number.isSafeInteger(before) && before > 0 ? before : undefined,
    ) satisfies EntryView[];
  });

  router.get('/ledger/:id', (ctx) => {
    const entry = site.rows.get(idOf(ctx));
    if (!entry) throw new Fault('not-found', 'There is no such ledger entry.', 'Reload the Ledger.');
    ctx.body = planView(site, '', entry.plan);
  });
}

function propose(site: Site, request: PlanRequest): Promise<Proposal> {
  switch (request.kind) {
    case 'address':
      return proposeAddress(site, request.itemId, request.folder, request.name);
    case 'records':
      return Promise.resolve(proposeRecords(site, request.itemIds, request));
    case 'move':
      return proposeMove(site, request.itemIds, request.folder);
    case 'folder':
      return proposeFolder(site, request.folder, request.to);
    case 'tag':
      return Promise.resolve(proposeTag(site, request.tag, request.to));
    case 'set-aside':
      return proposeAside(site, request.itemIds);
    case 'restore':
      return proposeRestore(site, request.itemIds);
    case 'undo':
      return proposeUndo(site, request.entryId);
  }
}

/** So many of each kind of change are shown; the others are counted. */
const SHOWN = 500;

export function planView(site: Site, id: string, plan: Plan): PlanView {
  const moves = plan.files.flatMap((step) => (step.do === 'move' ? [{ from: step.from, to: step.to }] : []));
  const removed = plan.files.flatMap((step) => (step.do === 'remove' ? [step.path] : []));
  const created = plan.files.flatMap((step) => (step.do === 'create' ? [step.path] : []));
  const described = plan.records.flatMap((step) => {
    const fields = Object.keys(step.after).filter((field) => field in RECORD_NAMES);
    return fields.length > 0 ? [{ step, fields: fields as (keyof typeof RECORD_NAMES)[] }] : [];
  });
  const more = (list: readonly unknown[]) => Math.max(0, list.length - SHOWN);
  return {
    id,
    kind: plan.kind,
    title: plan.title,
    moves: moves.slice(0, SHOWN),
    removed: removed.slice(0, SHOWN),
    created: created.slice(0, SHOWN),
    records: described.slice(0, SHOWN).map(({ step, fields }) => ({
      path: site.items.get(step.itemId)?.path ?? '',
      fields: fields.map((field) => ({
        field: RECORD_NAMES[field],
        before: shownValue(step.before[field]),
        after: shownValue(step.after[field]),
      })),
    })),
    pages: plan.pages.slice(0, SHOWN),
    more: {
      moves: more(moves),
      removed: more(removed),
      created: more(created),
      records: more(described),
      pages: more(plan.pages),
    },
    clashes: plan.clashes,
    warnings: plan.warnings,
    redirects: plan.redirects.slice(0, SHOWN),
    totals: plan.totals,
    empty: isEmpty(plan),
  };
}

function shownValue(value: string | boolean | string[] | null | undefined): string {
  if (Array.isArray(value)) return value.join(', ');
  return typeof value === 'boolean' ? (value ? 'yes' : 'no') : (value ?? '');
}
