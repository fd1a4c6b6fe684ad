import { ids, tags } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** Tags that were suggested and taken are as those that people wrote: somebody has looked. Without `tags`, all of them. */
export const confirmTags = kindOfPlan('confirm-tags', {
  right: 'describe',
  changes: 'records',
  drafts: true,
  request: { itemIds: ids, tags },
});
