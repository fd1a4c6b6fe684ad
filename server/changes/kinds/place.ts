import { place as kind } from '../../../core/plan/kinds/place.ts';
import { proposePlacing } from '../placements.ts';
import { planned } from './kind.ts';

export const place = planned(kind, (site, request) => proposePlacing(site, request));
