import { OwnFieldView } from '../../describe/schema.ts';
import { kindOfPlan } from './kind.ts';

/** A field of the site's own; null: it is no more. */
export const ownField = kindOfPlan('own-field', {
  right: 'settings',
  changes: 'records',
  request: {
    name: OwnFieldView.shape.name,
    field: OwnFieldView.omit({ name: true }).nullable(),
  },
});
