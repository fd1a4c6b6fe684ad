import { forget as kind } from '../../../core/plan/kinds/forget.ts';
import { proposeForget } from '../missing.ts';
import { planned } from './kind.ts';

export const forget = planned(kind, (site, request) => proposeForget(site, request.itemIds));
