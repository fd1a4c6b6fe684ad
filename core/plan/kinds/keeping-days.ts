import { z } from 'zod';
import { kindOfPlan } from './kind.ts';

/** How long what is set aside is kept. */
export const keepingDays = kindOfPlan('keeping-days', {
  right: 'settings',
  changes: 'records',
  request: { days: z.int().min(1).max(3650) },
});
