import { z } from 'zod';
import { Place } from '../../reference/schema.ts';
import { kindOfPlan } from './kind.ts';

/** A placement changes places with what stands before or after it. */
export const order = kindOfPlan('order', {
  right: 'place',
  changes: 'files',
  request: { ...Place.shape, to: z.enum(['up', 'down']) },
});
