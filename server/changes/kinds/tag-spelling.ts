import { tagSpelling as kind } from '../../../core/plan/kinds/tag-spelling.ts';
import { proposeSpelling } from '../records.ts';
import { planned } from './kind.ts';

export const tagSpelling = planned(kind, (site, request) =>
  proposeSpelling(site, request.tag, request.spelling, request.drop),
);
