import { sizes as kind } from '../../../core/plan/kinds/sizes.ts';
import { proposeSizes } from '../sizes.ts';
import { planned } from './kind.ts';

export const sizes = planned(kind, (site, request) => proposeSizes(site, request.itemId));
