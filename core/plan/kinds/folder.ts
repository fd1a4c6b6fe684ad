import { z } from 'zod';
import { kindOfPlan } from './kind.ts';

/** A folder's own address: all within goes along. Where the new one is there already, both become one. */
export const folder = kindOfPlan('folder', {
  right: 'organise',
  changes: 'files',
  request: {
    folder: z.string().min(1).max(2000),
    to: z.string().max(2000),
  },
});
