import { count } from '../text/format.ts';

/** What a plan comes to, as far as its button says it. */
export interface PlanSums {
  title: string;
  totals: { items: number; pages: number; spans: number };
  /** Whether records or pages change; else only files do. */
  writes: boolean;
}

const rewrite = ({ totals: { pages } }: PlanSums) => (pages ? `, update ${count(pages, 'page')}` : '');
const items = ({ totals }: PlanSums) => count(totals.items, 'item');

/** What a plan does, by what the ledger calls it, as the button says that applies it. */
export const VERBS = {
  describe: (plan) =>
    plan.totals.items > 0 && !plan.writes
      ? `Write ${count(plan.totals.items, 'file')}`
      : plan.totals.items === 0
        ? 'Apply'
        : `Change ${items(plan)}`,
  rename: (plan) => `Rename ${items(plan)}${rewrite(plan)}`,
  move: (plan) => `Move ${items(plan)}${rewrite(plan)}`,
  copy: (plan) => `Copy ${items(plan)}`,
  replace: (plan) => (plan.title.startsWith('Replace') ? `Replace file${rewrite(plan)}` : 'Restore version'),
  prepare: (plan) =>
    `Save ${plan.totals.items === 1 ? 'image' : count(plan.totals.items, 'image')}${rewrite(plan)}`,
  write: () => 'Save document',
  'make-pdf': () => 'Save PDF',
  'set-aside': (plan) => `Set aside ${items(plan)}`,
  withdraw: (plan) => `Return ${items(plan)} to draft`,
  publish: (plan) => `Publish ${items(plan)}`,
  discard: (plan) => `Discard ${count(plan.totals.items, 'draft')}`,
  restore: (plan) => `Restore ${items(plan)}`,
  'bring-in': () => 'Apply',
  arrange: () => 'Apply',
  place: (plan) => (plan.totals.pages ? `Write ${count(plan.totals.pages, 'page')}` : 'Apply'),
  repair: (plan) => (plan.totals.spans ? `Repair ${count(plan.totals.spans, 'reference')}` : 'Apply'),
  merge: (plan) => `Merge and set aside ${items(plan)}${rewrite(plan)}`,
  lighten: (plan) => `Compress ${items(plan)}`,
  offer: (plan) => `Make sizes${rewrite(plan)}`,
  convert: (plan) => `Convert ${count(plan.totals.items, 'image')} to JPEG${rewrite(plan)}`,
  'without-place': (plan) => `Write ${count(plan.totals.items, 'file')}`,
  empty: () => 'Apply',
  undo: (plan) => (plan.title.startsWith('Redo') ? `Redo${rewrite(plan)}` : `Undo${rewrite(plan)}`),
} satisfies Record<string, (plan: PlanSums) => string>;

export type PlanKind = keyof typeof VERBS;
export const PLAN_KINDS = Object.keys(VERBS) as [PlanKind, ...PlanKind[]];
