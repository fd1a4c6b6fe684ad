import { service as kind } from '../../../core/plan/kinds/service.ts';
import { planSetting } from '../../../core/plan/settings.ts';
import { readUrl } from '../../services/outgoing.ts';
import { planned } from './kind.ts';

export const service = planned(kind, (site, { service, address }) => {
  const url = address === null ? null : readUrl(address);
  const title = url === null ? 'Remove the address of the image bank' : `Use the image bank at ${url.host}`;
  const before = site.settings.get('service', service);
  return { plan: planSetting(title, 'service', service, before, url?.href ?? null) };
});
