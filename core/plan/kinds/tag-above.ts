import { tag } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** A tag belongs below another: who asks for that one finds it too. */
export const tagAbove = kindOfPlan('tag-above', {
  right: 'describe',
  changes: 'records',
  request: { tag, above: tag.nullable() },
});
