import type { PlanRequest } from '../../api/plans.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { propose } from '../changes/kinds/index.ts';
import { applyProposal } from '../changes/apply.ts';

export const apply = (site: OpenedSite, proposal: Awaited<ReturnType<typeof plan>>) =>
  applyProposal(site, proposal, 1);

export const plan = (site: OpenedSite, request: Parameters<typeof propose>[1] | PlanRequest) =>
  propose(site, request as Parameters<typeof propose>[1], { personId: 1 });

export const idOf = (site: OpenedSite, path: string) => site.items.atPath(path)!.id;

export const undo = async (site: OpenedSite, entryId: number) =>
  apply(site, await plan(site, { kind: 'undo', entryId }));
