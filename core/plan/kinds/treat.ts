import { z } from 'zod';
import { Treatment } from '../../picture/recipe/treatments.ts';
import { idsUpTo } from '../ids.ts';
import { kindOfPlan } from './kind.ts';

/** Many images made anew from their originals by one treatment, at their addresses or as new items. */
export const treat = kindOfPlan('treat', {
  right: 'clean',
  changes: 'files',
  encodes: true,
  request: {
    itemIds: idsUpTo(500),
    treatment: Treatment,
    to: z.union([
      z.strictObject({ as: z.literal('these'), sizes: z.boolean() }),
      z.strictObject({ as: z.literal('new'), folder: z.string().max(1000) }),
    ]),
  },
});
