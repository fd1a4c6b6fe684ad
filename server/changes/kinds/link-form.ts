import { linkFormFault } from '../../../core/document/link-text.ts';
import { linkForm as kind } from '../../../core/plan/kinds/link-form.ts';
import { planSetting } from '../../../core/plan/settings.ts';
import { Fault } from '../../fault.ts';
import { planned } from './kind.ts';

export const linkForm = planned(kind, (site, { form }) => {
  const fault = form === null ? undefined : linkFormFault(form);
  if (fault) throw new Fault('bad-request', 'Links to documents can’t be worded like this.', fault);
  const title = form === null ? 'Word links to documents as usual' : 'Set how links to documents are worded';
  return { plan: planSetting(title, 'link-form', '', site.siteState.linkForm, form) };
});
