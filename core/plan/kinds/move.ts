import { z } from 'zod';
import { ids } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** Items into one folder. */
export const move = kindOfPlan('move', {
  right: 'organise',
  changes: 'files',
  drafts: true,
  request: { itemIds: ids, folder: z.string().max(2000) },
});
