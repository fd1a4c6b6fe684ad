import { focal as kind } from '../../../core/plan/kinds/focal.ts';
import { proposeFocal } from '../placements.ts';
import { planned } from './kind.ts';

export const focal = planned(kind, (site, request) =>
  proposeFocal(site, request.itemId, request.focal, request.places),
);
