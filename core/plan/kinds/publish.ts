import { z } from 'zod';
import { ids } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** Drafts onto the site. `freeNames`: an address that is taken by now gets a number, instead of standing in the way. */
export const publish = kindOfPlan('publish', {
  right: 'publish',
  changes: 'files',
  request: { itemIds: ids, freeNames: z.boolean().default(false) },
});
