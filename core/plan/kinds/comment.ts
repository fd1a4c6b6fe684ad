import { z } from 'zod';
import { kindOfPlan } from './kind.ts';

/** Something is said about an item; `key`: a comment is taken away again. */
export const comment = kindOfPlan('comment', {
  right: 'describe',
  changes: 'records',
  drafts: true,
  request: {
    itemId: z.int(),
    say: z.union([
      z.strictObject({ text: z.string().trim().min(1).max(5000) }),
      z.strictObject({ key: z.string().max(100) }),
    ]),
  },
});
