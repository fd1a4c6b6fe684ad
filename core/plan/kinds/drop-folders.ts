import { z } from 'zod';
import { folder } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** Folders in which nothing lies are removed. */
export const dropFolders = kindOfPlan('drop-folders', {
  right: 'organise',
  changes: 'files',
  request: { folders: z.array(folder).min(1).max(5000) },
});
