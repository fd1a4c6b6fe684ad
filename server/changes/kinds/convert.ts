import { convert as kind } from '../../../core/plan/kinds/convert.ts';
import { proposeJpegs } from '../remedies.ts';
import { planned } from './kind.ts';

export const convert = planned(kind, (site, request, { progress }) =>
  proposeJpegs(site, request.itemIds, progress),
);
