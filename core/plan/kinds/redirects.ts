import { z } from 'zod';
import { kindOfPlan } from './kind.ts';

/** Redirects are pointed on, or taken out. */
export const redirects = kindOfPlan('redirects', {
  right: 'organise',
  changes: 'files',
  request: {
    redirects: z
      .array(z.strictObject({ from: z.string().max(2000), to: z.string().max(2000).nullable() }))
      .min(1)
      .max(10_000),
  },
});
