import { withoutPlace as kind } from '../../../core/plan/kinds/without-place.ts';
import { proposeWithoutPlace } from '../remedies.ts';
import { planned } from './kind.ts';

export const withoutPlace = planned(kind, (site, request, { progress }) =>
  proposeWithoutPlace(site, request.itemIds, progress),
);
