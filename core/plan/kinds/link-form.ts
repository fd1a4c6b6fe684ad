import { z } from 'zod';
import { LONGEST_FORM } from '../../document/link-text.ts';
import { kindOfPlan } from './kind.ts';

/** How new links to documents are worded. */
export const linkForm = kindOfPlan('link-form', {
  right: 'settings',
  changes: 'records',
  request: {
    /** Null: as usual. */
    form: z.string().trim().min(1).max(LONGEST_FORM).nullable(),
  },
});
