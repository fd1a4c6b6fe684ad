import { z } from 'zod';
import { kindOfPlan } from './kind.ts';

/** A PDF of a document, beside it; one that was made from it before is made anew. */
export const makePdf = kindOfPlan('make-pdf', {
  right: 'clean',
  changes: 'files',
  encodes: true,
  request: { path: z.string().min(1).max(2000) },
});
