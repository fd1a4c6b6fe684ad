import { order as kind } from '../../../core/plan/kinds/order.ts';
import { proposeOrder } from '../placement-edits.ts';
import { planned } from './kind.ts';

export const order = planned(kind, (site, request) =>
  proposeOrder(site, request.page, request.start, request.to),
);
