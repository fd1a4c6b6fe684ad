import { ids } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** Items of the site that nothing uses become drafts again. */
export const withdraw = kindOfPlan('withdraw', {
  right: 'publish',
  changes: 'files',
  request: { itemIds: ids },
});
