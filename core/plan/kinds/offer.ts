import { idsUpTo } from '../ids.ts';
import { kindOfPlan } from './kind.ts';

/** Pages offer an image in smaller sizes. */
export const offer = kindOfPlan('offer', {
  right: 'clean',
  changes: 'files',
  encodes: true,
  request: { itemIds: idsUpTo(200) },
});
