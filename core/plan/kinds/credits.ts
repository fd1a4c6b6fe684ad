import { ids } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** Pages that show images whose licence asks for a credit get it, in a caption. */
export const credits = kindOfPlan('credits', {
  right: 'place',
  changes: 'files',
  request: { itemIds: ids },
});
