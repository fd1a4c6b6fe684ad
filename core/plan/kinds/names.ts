import { z } from 'zod';
import { TWICE } from '../ids.ts';
import { eachOnce } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** New names of items, each in its own folder. */
export const names = kindOfPlan('names', {
  right: 'organise',
  changes: 'files',
  drafts: true,
  request: {
    names: z
      .array(z.strictObject({ itemId: z.int(), name: z.string().min(1).max(255) }))
      .min(1)
      .max(100_000)
      .refine(eachOnce, TWICE),
  },
});
