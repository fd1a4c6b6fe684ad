import { repair as kind } from '../../../core/plan/kinds/repair.ts';
import { proposePointing } from '../placements.ts';
import { planned } from './kind.ts';

export const repair = planned(kind, (site, request) => proposePointing(site, request.places));
