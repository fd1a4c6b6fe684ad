import { rule as kind } from '../../../core/plan/kinds/rule.ts';
import { proposeRule } from '../records.ts';
import { planned } from './kind.ts';

export const rule = planned(kind, (site, request) => proposeRule(site, request.folder, request.rule));
