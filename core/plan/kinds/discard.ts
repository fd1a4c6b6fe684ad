import { ids } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** Drafts that will not be published. */
export const discard = kindOfPlan('discard', {
  right: 'bring-in',
  changes: 'records',
  drafts: true,
  request: { itemIds: ids },
});
