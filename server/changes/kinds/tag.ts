import { tag as kind } from '../../../core/plan/kinds/tag.ts';
import { proposeTag } from '../records.ts';
import { planned } from './kind.ts';

export const tag = planned(kind, (site, request) => proposeTag(site, request.tag, request.to));
