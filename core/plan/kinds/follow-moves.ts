import { ids } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** References follow items that others have moved. */
export const followMoves = kindOfPlan('follow-moves', {
  right: 'organise',
  changes: 'files',
  request: { itemIds: ids },
});
