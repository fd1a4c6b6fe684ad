import { z } from 'zod';
import { ids } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** Which image some images are sizes of: one that is named, none, or as it is found. */
export const family = kindOfPlan('family', {
  right: 'organise',
  changes: 'files',
  request: {
    itemIds: ids,
    of: z.union([z.int().min(1), z.enum(['apart', 'found'])]),
  },
});
