import { bringBack as kind } from '../../../core/plan/kinds/bring-back.ts';
import { proposeBringBack } from '../versions.ts';
import { planned } from './kind.ts';

export const bringBack = planned(kind, (site, request) =>
  proposeBringBack(site, request.itemId, request.entryId),
);
