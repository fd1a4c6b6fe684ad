import { prepare as kind } from '../../../core/plan/kinds/prepare.ts';
import { proposePrepare } from '../prepare.ts';
import { planned } from './kind.ts';

export const prepare = planned(kind, (site, request) => proposePrepare(site, request));
