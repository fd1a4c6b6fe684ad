import { z } from 'zod';
import { Place } from '../../reference/schema.ts';
import { folder } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** Broken references, each with the file that it is to lead to. */
export const repair = kindOfPlan('repair', {
  right: 'place',
  changes: 'files',
  request: {
    places: z
      .array(Place.extend({ path: folder }))
      .min(1)
      .max(10_000),
  },
});
