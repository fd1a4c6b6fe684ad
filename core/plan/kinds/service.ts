import { z } from 'zod';
import { kindOfPlan } from './kind.ts';

/** Where an outside service answers; null: where the server was told, or nowhere. */
export const service = kindOfPlan('service', {
  right: 'settings',
  changes: 'records',
  request: { service: z.literal('image-bank'), address: z.string().trim().min(1).max(2000).nullable() },
});
