import { reunite as kind } from '../../../core/plan/kinds/reunite.ts';
import { proposeReunite } from '../missing.ts';
import { planned } from './kind.ts';

export const reunite = planned(kind, (site, request) => proposeReunite(site, request.itemId, request.path));
