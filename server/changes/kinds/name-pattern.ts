import { namePattern as kind } from '../../../core/plan/kinds/name-pattern.ts';
import { proposeNamePattern } from '../records.ts';
import { planned } from './kind.ts';

export const namePattern = planned(kind, (site, request) =>
  proposeNamePattern(site, request.name, request.pattern),
);
