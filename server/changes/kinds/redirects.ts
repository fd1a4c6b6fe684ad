import { redirects as kind } from '../../../core/plan/kinds/redirects.ts';
import { proposeRedirects } from '../upkeep.ts';
import { planned } from './kind.ts';

export const redirects = planned(kind, (site, request) => proposeRedirects(site, request.redirects));
