import { offer as kind } from '../../../core/plan/kinds/offer.ts';
import { proposeOffered } from '../sizes.ts';
import { planned } from './kind.ts';

export const offer = planned(kind, (site, request, { progress }) =>
  proposeOffered(site, request.itemIds, progress),
);
