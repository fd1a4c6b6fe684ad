import { z } from 'zod';
import { folder } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** Which folders are served from the root; all else of the layout stays. */
export const publicFolders = kindOfPlan('public', {
  right: 'settings',
  changes: 'records',
  request: { folders: z.array(folder).min(1).max(200) },
});
