import { idsUpTo } from '../ids.ts';
import { kindOfPlan } from './kind.ts';

/** Files without the place where they were taken. */
export const withoutPlace = kindOfPlan('without-place', {
  right: 'clean',
  changes: 'files',
  encodes: true,
  request: { itemIds: idsUpTo(500) },
});
