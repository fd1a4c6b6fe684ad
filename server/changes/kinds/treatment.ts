import { treatment as kind } from '../../../core/plan/kinds/treatment.ts';
import { proposeTreatment } from '../records.ts';
import { planned } from './kind.ts';

export const treatment = planned(kind, (site, request) =>
  proposeTreatment(site, request.name, request.treatment),
);
