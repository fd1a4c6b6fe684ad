import { z } from 'zod';
import { folder } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** A file is the one that a record misses. */
export const reunite = kindOfPlan('reunite', {
  right: 'organise',
  changes: 'files',
  request: { itemId: z.int(), path: folder },
});
