import { kept as kind } from '../../../core/plan/kinds/kept.ts';
import { proposeKept } from '../versions.ts';
import { planned } from './kind.ts';

export const kept = planned(kind, (site, request, { progress }) =>
  proposeKept(site, request.itemIds, progress),
);
