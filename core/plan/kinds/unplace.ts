import { z } from 'zod';
import { Place } from '../../reference/schema.ts';
import { kindOfPlan } from './kind.ts';

/** Placements go; their items stay on the site. */
export const unplace = kindOfPlan('unplace', {
  right: 'place',
  changes: 'files',
  request: { places: z.array(Place).min(1).max(1000) },
});
