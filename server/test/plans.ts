import { expect } from 'vitest';
import { PlanRequest } from '../../api/plans.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { propose } from '../changes/kinds/index.ts';
import { applyProposal } from '../changes/apply.ts';
import type { Proposal } from '../changes/proposal.ts';
import type { Site } from '../app/site.ts';

/** Plans what a request asks for, as it comes over HTTP. */
export const plan = (site: Site, request: PlanRequest): Promise<Proposal> =>
  propose(site, PlanRequest.parse(request), { personId: 1 });

/** Plans and applies. @returns the entry's number */
export const apply = async (site: Site, request: PlanRequest): Promise<number> =>
  applyProposal(site, await plan(site, request), 1);

/** Takes a change back; nothing may stand in the way. @returns what was planned */
export async function undo(site: Site, entryId: number): Promise<Plan> {
  const proposal = await plan(site, { kind: 'undo', entryId });
  expect(proposal.plan.clashes).toEqual([]);
  await applyProposal(site, proposal, 1);
  return proposal.plan;
}

export const idOf = (site: Site, path: string): number => site.items.atPath(path)!.id;
