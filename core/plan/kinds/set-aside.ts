import { z } from 'zod';
import { ids } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** `leavePlaced`: what is placed stays where it is, instead of standing in the way. */
export const setAside = kindOfPlan('set-aside', {
  right: 'clean',
  changes: 'files',
  request: { itemIds: ids, leavePlaced: z.boolean().default(false) },
});
