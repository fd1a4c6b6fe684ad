import { z } from 'zod';
import { Place } from '../../reference/schema.ts';
import { kindOfPlan } from './kind.ts';

/** Pages say what the records say, at these placements. */
export const pageWords = kindOfPlan('page-words', {
  right: 'describe',
  changes: 'files',
  request: {
    places: z.array(Place).min(1).max(10_000),
  },
});
