import { LayoutLines } from '../../reference/schema.ts';
import { kindOfPlan } from './kind.ts';

/** How the site’s folder is laid out. */
export const layout = kindOfPlan('layout', {
  right: 'settings',
  changes: 'records',
  request: { layout: LayoutLines },
});
