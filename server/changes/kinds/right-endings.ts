import { rightEndings as kind } from '../../../core/plan/kinds/right-endings.ts';
import { proposeRightEndings } from '../remedies.ts';
import { planned } from './kind.ts';

export const rightEndings = planned(kind, (site, request, { progress }) =>
  proposeRightEndings(site, request.itemIds, progress),
);
