import { FolderRuleValue } from '../../intake/schema.ts';
import { folder } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** What fits into a folder; null: anything again. */
export const rule = kindOfPlan('rule', {
  right: 'settings',
  changes: 'records',
  request: { folder, rule: FolderRuleValue.nullable() },
});
