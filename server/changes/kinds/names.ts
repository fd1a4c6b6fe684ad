import { names as kind } from '../../../core/plan/kinds/names.ts';
import { proposeNames } from '../addresses.ts';
import { planned } from './kind.ts';

export const names = planned(kind, (site, request, { progress }) =>
  proposeNames(site, request.names, progress),
);
