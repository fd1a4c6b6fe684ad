import { z } from 'zod';
import { kindOfPlan } from './kind.ts';

/** One item gets another name, another folder, or both. */
export const address = kindOfPlan('address', {
  right: 'organise',
  changes: 'files',
  drafts: true,
  request: {
    itemId: z.int(),
    folder: z.string().max(2000),
    name: z.string().max(255),
  },
});
