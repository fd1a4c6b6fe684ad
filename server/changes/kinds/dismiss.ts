import { dismiss as kind } from '../../../core/plan/kinds/dismiss.ts';
import { proposeDismissal } from '../upkeep.ts';
import { planned } from './kind.ts';

export const dismiss = planned(kind, (site, request, { personId }) =>
  proposeDismissal(site, request.check, request.subjects, request.reason, personId),
);
