import { unplace as kind } from '../../../core/plan/kinds/unplace.ts';
import { proposeUnplace } from '../placement-edits.ts';
import { planned } from './kind.ts';

export const unplace = planned(kind, (site, request) => proposeUnplace(site, request.places));
