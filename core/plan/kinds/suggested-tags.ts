import { z } from 'zod';
import { TWICE } from '../ids.ts';
import { eachOnce, tag } from './fields.ts';
import { kindOfPlan } from './kind.ts';

const some = z.array(tag).max(100);

/** What people say to the tags that a service suggests: these are taken, until somebody confirms them, those are not suggested again. */
export const suggestedTags = kindOfPlan('suggested-tags', {
  right: 'describe',
  changes: 'records',
  drafts: true,
  request: {
    suggestions: z
      .array(z.strictObject({ itemId: z.int(), take: some, refuse: some }))
      .min(1)
      .max(100_000)
      .refine(eachOnce, TWICE),
  },
});
