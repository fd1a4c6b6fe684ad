import { folder } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** A folder, empty so far. */
export const newFolder = kindOfPlan('new-folder', {
  right: 'organise',
  changes: 'files',
  request: { folder },
});
