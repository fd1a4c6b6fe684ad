import { z } from 'zod';
import { kindOfPlan } from './kind.ts';

/** What somebody has becomes another's: items and drafts to look after, and proposals that are not done with. */
export const handOn = kindOfPlan('hand-on', {
  right: 'people',
  changes: 'records',
  request: { personId: z.int(), to: z.int() },
});
