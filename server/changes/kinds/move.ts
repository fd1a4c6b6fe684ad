import { move as kind } from '../../../core/plan/kinds/move.ts';
import { proposeMove } from '../addresses.ts';
import { planned } from './kind.ts';

export const move = planned(kind, (site, request, { progress }) =>
  proposeMove(site, request.itemIds, request.folder, progress),
);
