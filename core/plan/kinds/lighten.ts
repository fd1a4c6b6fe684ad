import { idsUpTo } from '../ids.ts';
import { kindOfPlan } from './kind.ts';

/** Images, videos and documents with fewer bytes, at the same address. */
export const lighten = kindOfPlan('lighten', {
  right: 'clean',
  changes: 'files',
  encodes: true,
  request: { itemIds: idsUpTo(500) },
});
