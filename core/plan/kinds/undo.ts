import { z } from 'zod';
import { kindOfPlan } from './kind.ts';

/** `withLater`: later changes that stand in its way are undone with it. */
export const undo = kindOfPlan('undo', {
  right: 'look',
  changes: 'files',
  request: { entryId: z.int(), withLater: z.boolean().default(false) },
});
