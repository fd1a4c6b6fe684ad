import { undo as kind } from '../../../core/plan/kinds/undo.ts';
import { proposeUndo } from '../undo.ts';
import { planned } from './kind.ts';

export const undo = planned(kind, (site, request) => proposeUndo(site, request.entryId, request.withLater));
