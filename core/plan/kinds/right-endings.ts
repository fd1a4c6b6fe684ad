import { ids } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** Files get the ending of what they are. */
export const rightEndings = kindOfPlan('right-endings', {
  right: 'clean',
  changes: 'files',
  request: { itemIds: ids },
});
