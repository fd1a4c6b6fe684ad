import { z } from 'zod';
import { kindOfPlan } from './kind.ts';

/** The sizes that pages offer of an image, as files beside it. */
export const sizes = kindOfPlan('sizes', {
  right: 'place',
  changes: 'files',
  request: { itemId: z.int() },
});
