import { z } from 'zod';
import { kindOfPlan } from './kind.ts';

/** A tag's name; where the new one is there already, both become one. Null: it is taken off every item. */
export const tag = kindOfPlan('tag', {
  right: 'describe',
  changes: 'records',
  request: {
    tag: z.string().min(1).max(80),
    to: z.string().max(80).nullable(),
  },
});
