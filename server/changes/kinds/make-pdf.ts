import { makePdf as kind } from '../../../core/plan/kinds/make-pdf.ts';
import { proposePdf } from '../make-pdf.ts';
import { planned } from './kind.ts';

export const makePdf = planned(kind, (site, request) => proposePdf(site, request.path));
