import { person as kind } from '../../../core/plan/kinds/person.ts';
import { proposeMember } from '../people.ts';
import { planned } from './kind.ts';

export const person = planned(kind, (site, { kind: _kind, personId, ...change }) =>
  proposeMember(site, personId, change),
);
