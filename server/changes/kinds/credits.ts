import { credits as kind } from '../../../core/plan/kinds/credits.ts';
import { proposeCredits } from '../credits.ts';
import { planned } from './kind.ts';

export const credits = planned(kind, (site, { itemIds }, { progress }) =>
  proposeCredits(site, itemIds, progress),
);
