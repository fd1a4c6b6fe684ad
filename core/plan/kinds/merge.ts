import { z } from 'zod';
import { idsUpTo } from '../ids.ts';
import { kindOfPlan } from './kind.ts';

/** Of each group one stays, and stands for the others. */
export const merge = kindOfPlan('merge', {
  right: 'clean',
  changes: 'files',
  request: {
    groups: z
      .array(z.strictObject({ keeperId: z.int(), otherIds: idsUpTo(1000) }))
      .min(1)
      .max(5000),
  },
});
