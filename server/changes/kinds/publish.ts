import { publish as kind } from '../../../core/plan/kinds/publish.ts';
import { proposePublish } from '../drafts.ts';
import { planned } from './kind.ts';

export const publish = planned(kind, (site, request) =>
  proposePublish(site, request.itemIds, request.freeNames),
);
