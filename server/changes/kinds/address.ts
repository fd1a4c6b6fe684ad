import { address as kind } from '../../../core/plan/kinds/address.ts';
import { proposeAddress } from '../addresses.ts';
import { planned } from './kind.ts';

export const address = planned(kind, (site, request) =>
  proposeAddress(site, request.itemId, request.folder, request.name),
);
