import { z } from 'zod';
import { CheckNames } from '../../upkeep/schema.ts';
import { kindOfPlan } from './kind.ts';

/** Findings that are to be left alone; null: that are to be told again. Of items by their numbers. */
export const dismiss = kindOfPlan('dismiss', {
  right: 'clean',
  changes: 'records',
  request: {
    check: CheckNames,
    subjects: z.array(z.string().min(1).max(2000)).min(1).max(100_000),
    reason: z.string().trim().min(1).max(300).nullable(),
  },
});
