import { copies as kind } from '../../../core/plan/kinds/copies.ts';
import { proposeCopies } from '../files.ts';
import { planned } from './kind.ts';

export const copies = planned(kind, (site, request) => proposeCopies(site, request.itemIds, request.folder));
