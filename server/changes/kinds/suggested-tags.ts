import { suggestedTags as kind } from '../../../core/plan/kinds/suggested-tags.ts';
import { proposeSuggestedTags } from '../suggested-tags.ts';
import { planned } from './kind.ts';

export const suggestedTags = planned(kind, (site, { suggestions }) =>
  proposeSuggestedTags(site, suggestions),
);
