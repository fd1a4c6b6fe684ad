import { ids } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** Records whose file is gone are removed. */
export const forget = kindOfPlan('forget', {
  right: 'organise',
  changes: 'files',
  request: { itemIds: ids },
});
