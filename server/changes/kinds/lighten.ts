import { lighten as kind } from '../../../core/plan/kinds/lighten.ts';
import { proposeLighter } from '../remedies.ts';
import { planned } from './kind.ts';

export const lighten = planned(kind, (site, request, { progress }) =>
  proposeLighter(site, request.itemIds, progress),
);
