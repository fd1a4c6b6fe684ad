import { keepingDays as kind } from '../../../core/plan/kinds/keeping-days.ts';
import { proposeKeepingDays } from '../upkeep.ts';
import { planned } from './kind.ts';

export const keepingDays = planned(kind, (site, request) => proposeKeepingDays(site, request.days));
