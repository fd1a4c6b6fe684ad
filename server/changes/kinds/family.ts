import { family as kind } from '../../../core/plan/kinds/family.ts';
import { proposeFamily } from '../family.ts';
import { planned } from './kind.ts';

export const family = planned(kind, (site, request) => proposeFamily(site, request.itemIds, request.of));
