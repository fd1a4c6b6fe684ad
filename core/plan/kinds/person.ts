import { z } from 'zod';
import { ROLES } from '../../people/rights.ts';
import { kindOfPlan } from './kind.ts';

/** Folders that somebody's rights can be narrowed to. */
const MOST_FOLDERS = 50;

/** What somebody may do here: as which role, in which folders (none: the whole site), and whether at all. */
export const person = kindOfPlan('person', {
  right: 'people',
  changes: 'records',
  request: {
    personId: z.int(),
    role: z.enum(ROLES).optional(),
    folders: z.array(z.string().min(1).max(1000)).max(MOST_FOLDERS).optional(),
    ended: z.boolean().optional(),
  },
});
