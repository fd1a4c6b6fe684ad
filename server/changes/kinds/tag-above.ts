import { tagAbove as kind } from '../../../core/plan/kinds/tag-above.ts';
import { proposeAbove } from '../records.ts';
import { planned } from './kind.ts';

export const tagAbove = planned(kind, (site, request) => proposeAbove(site, request.tag, request.above));
