import { followMoves as kind } from '../../../core/plan/kinds/follow-moves.ts';
import { proposeFollowMoves } from '../missing.ts';
import { planned } from './kind.ts';

export const followMoves = planned(kind, (site, request) => proposeFollowMoves(site, request.itemIds));
