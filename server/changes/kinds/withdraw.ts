import { withdraw as kind } from '../../../core/plan/kinds/withdraw.ts';
import { proposeWithdraw } from '../drafts.ts';
import { planned } from './kind.ts';

export const withdraw = planned(kind, (site, request) => proposeWithdraw(site, request.itemIds));
