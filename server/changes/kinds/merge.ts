import { merge as kind } from '../../../core/plan/kinds/merge.ts';
import { proposeMerge } from '../merge.ts';
import { planned } from './kind.ts';

export const merge = planned(kind, (site, request) => proposeMerge(site, request.groups));
