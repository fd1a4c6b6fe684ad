import { z } from 'zod';
import { SomeWords } from '../../describe/schema.ts';
import { TWICE } from '../ids.ts';
import { eachOnce } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** Other words for each of some records; `rowVersion`: as it was when they were written. */
export const cells = kindOfPlan('cells', {
  right: 'describe',
  changes: 'records',
  drafts: true,
  request: {
    cells: z
      .array(z.strictObject({ itemId: z.int(), rowVersion: z.int().optional(), set: SomeWords }))
      .min(1)
      .max(100_000)
      .refine(eachOnce, TWICE),
  },
});
