import { placement as kind } from '../../../core/plan/kinds/placement.ts';
import { proposePlacement } from '../placement-edits.ts';
import { planned } from './kind.ts';

export const placement = planned(kind, (site, request) => proposePlacement(site, request));
