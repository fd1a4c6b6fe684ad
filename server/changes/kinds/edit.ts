import { edit as kind } from '../../../core/plan/kinds/edit.ts';
import { proposeEdit } from '../records.ts';
import { planned } from './kind.ts';

export const edit = planned(kind, (site, request) =>
  proposeEdit(site, request.itemIds, request.field, request.edit),
);
