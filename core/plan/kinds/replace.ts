import { z } from 'zod';
import { kindOfPlan } from './kind.ts';

/** Other bytes for an item: of a file at the door, or of another item. */
export const replace = kindOfPlan('replace', {
  right: 'clean',
  changes: 'files',
  request: {
    itemId: z.int(),
    by: z.union([z.strictObject({ arrivalId: z.int() }), z.strictObject({ itemId: z.int() })]),
    name: z.enum(['keep', 'new']),
    dates: z.enum(['keep', 'new']),
  },
});
