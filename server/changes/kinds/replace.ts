import { replace as kind } from '../../../core/plan/kinds/replace.ts';
import { proposeReplace } from '../replace.ts';
import { planned } from './kind.ts';

export const replace = planned(kind, (site, request, { personId }) =>
  proposeReplace(site, request, personId),
);
