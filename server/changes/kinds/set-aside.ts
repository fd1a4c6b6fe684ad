import { setAside as kind } from '../../../core/plan/kinds/set-aside.ts';
import { proposeAside } from '../files.ts';
import { planned } from './kind.ts';

export const setAside = planned(kind, (site, request) =>
  proposeAside(site, request.itemIds, request.leavePlaced),
);
