import { z } from 'zod';
import { ids } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** `freeNames`: an address that is taken by now gets a number, instead of standing in the way. */
export const restore = kindOfPlan('restore', {
  right: 'clean',
  changes: 'files',
  request: { itemIds: ids, freeNames: z.boolean().default(false) },
});
