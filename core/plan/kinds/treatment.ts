import { Treatment } from '../../picture/recipe/treatments.ts';
import { kindOfPlan } from './kind.ts';

/** A treatment of images, kept; null: it is forgotten. */
export const treatment = kindOfPlan('treatment', {
  right: 'settings',
  changes: 'records',
  request: { name: Treatment.shape.name, treatment: Treatment.omit({ name: true }).nullable() },
});
