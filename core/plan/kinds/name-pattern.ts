import { NamePattern, SavedPattern } from '../../naming/schema.ts';
import { kindOfPlan } from './kind.ts';

/** A pattern of names, kept; null: it is forgotten. */
export const namePattern = kindOfPlan('name-pattern', {
  right: 'settings',
  changes: 'records',
  request: { ...SavedPattern.shape, pattern: NamePattern.nullable() },
});
