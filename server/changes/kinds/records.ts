import { records as kind } from '../../../core/plan/kinds/records.ts';
import { proposeRecords } from '../records.ts';
import { planned } from './kind.ts';

export const records = planned(kind, (site, request) => proposeRecords(site, request.itemIds, request));
