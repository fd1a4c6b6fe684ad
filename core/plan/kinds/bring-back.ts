import { z } from 'zod';
import { kindOfPlan } from './kind.ts';

/** What one change took from an item, words and bytes. */
export const bringBack = kindOfPlan('bring-back', {
  right: 'clean',
  changes: 'files',
  request: { itemId: z.int(), entryId: z.int() },
});
