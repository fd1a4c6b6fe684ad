import { handOn as kind } from '../../../core/plan/kinds/hand-on.ts';
import { proposeHandOn } from '../people.ts';
import { planned } from './kind.ts';

export const handOn = planned(kind, (site, { personId, to }) => proposeHandOn(site, personId, to));
