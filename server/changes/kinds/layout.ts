import { layout as kind } from '../../../core/plan/kinds/layout.ts';
import { proposeLayout } from '../records.ts';
import { planned } from './kind.ts';

export const layout = planned(kind, (site, request) => proposeLayout(site, request.layout));
