import { cells as kind } from '../../../core/plan/kinds/cells.ts';
import { proposeCells } from '../records.ts';
import { planned } from './kind.ts';

export const cells = planned(kind, (site, request) => proposeCells(site, request.cells));
