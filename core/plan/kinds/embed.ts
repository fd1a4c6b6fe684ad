import { z } from 'zod';
import { ids } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** The words are written into the files, or beside them as XMP. */
export const embed = kindOfPlan('embed', {
  right: 'describe',
  changes: 'files',
  request: { itemIds: ids, as: z.enum(['file', 'sidecar']) },
});
