import { z } from 'zod';
import { kindOfPlan } from './kind.ts';

export const SERVICES = ['image-bank', 'tagging'] as const;
export type ServiceName = (typeof SERVICES)[number];
export const SERVICE_NAMES: Record<ServiceName, string> = {
  'image-bank': 'image bank',
  tagging: 'tagging service',
};

/** Where an outside service answers, and how many images a month may be sent to it. */
export const service = kindOfPlan('service', {
  right: 'settings',
  changes: 'records',
  request: {
    service: z.enum(SERVICES),
    /** Null: where the server was told, or nowhere. */
    address: z.string().trim().min(1).max(2000).nullable().optional(),
    /** Null: any number. */
    limit: z.int().min(0).max(1_000_000).nullable().optional(),
  },
});
