import { z } from 'zod';
import { TEXT_FIELD_KEYS } from '../../describe/fields.ts';
import { EditView, ids } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** One change of a text field, the same for all. */
export const edit = kindOfPlan('edit', {
  right: 'describe',
  changes: 'records',
  drafts: true,
  request: { itemIds: ids, field: z.enum(TEXT_FIELD_KEYS), edit: EditView },
});
