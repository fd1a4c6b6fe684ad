import { idsUpTo } from '../ids.ts';
import { kindOfPlan } from './kind.ts';

/** Photographs that are no JPEG become one. */
export const convert = kindOfPlan('convert', {
  right: 'clean',
  changes: 'files',
  encodes: true,
  request: { itemIds: idsUpTo(500) },
});
