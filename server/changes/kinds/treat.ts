import { treat as kind } from '../../../core/plan/kinds/treat.ts';
import { proposeTreat } from '../treat.ts';
import { planned } from './kind.ts';

export const treat = planned(kind, (site, request, { progress }) => proposeTreat(site, request, progress));
