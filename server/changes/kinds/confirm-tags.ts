import { confirmTags as kind } from '../../../core/plan/kinds/confirm-tags.ts';
import { proposeConfirmedTags } from '../suggested-tags.ts';
import { planned } from './kind.ts';

export const confirmTags = planned(kind, (site, { itemIds, tags }) =>
  proposeConfirmedTags(site, itemIds, tags),
);
