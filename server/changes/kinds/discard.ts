import { discard as kind } from '../../../core/plan/kinds/discard.ts';
import { proposeDiscard } from '../drafts.ts';
import { planned } from './kind.ts';

export const discard = planned(kind, (site, request) => proposeDiscard(site, request.itemIds));
