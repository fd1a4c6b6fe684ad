import { z } from 'zod';
import { tag } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** Another spelling that finds a tag, or, with drop, finds it no longer. */
export const tagSpelling = kindOfPlan('tag-spelling', {
  right: 'describe',
  changes: 'records',
  request: { tag, spelling: tag, drop: z.boolean().default(false) },
});
