import { ownField as kind } from '../../../core/plan/kinds/own-field.ts';
import { proposeOwnField } from '../records.ts';
import { planned } from './kind.ts';

export const ownField = planned(kind, (site, request) => proposeOwnField(site, request.name, request.field));
