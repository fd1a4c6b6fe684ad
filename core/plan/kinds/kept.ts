import { idsUpTo } from '../ids.ts';
import { kindOfPlan } from './kind.ts';

/** Items get the latest other bytes that are kept of them, at the same address. */
export const kept = kindOfPlan('kept', {
  right: 'clean',
  changes: 'files',
  request: { itemIds: idsUpTo(500) },
});
