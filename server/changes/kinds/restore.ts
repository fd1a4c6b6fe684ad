import { restore as kind } from '../../../core/plan/kinds/restore.ts';
import { proposeRestore } from '../files.ts';
import { planned } from './kind.ts';

export const restore = planned(kind, (site, request) =>
  proposeRestore(site, request.itemIds, request.freeNames),
);
