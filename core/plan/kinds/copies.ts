import { folder, ids } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** Copies with their records: into a folder, or (null) each beside its own. */
export const copies = kindOfPlan('copies', {
  right: 'organise',
  changes: 'files',
  request: { itemIds: ids, folder: folder.nullable() },
});
