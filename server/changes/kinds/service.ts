import { SERVICE_NAMES, service as kind } from '../../../core/plan/kinds/service.ts';
import { emptyPlan, type SettingStep } from '../../../core/plan/plan.ts';
import { count } from '../../../core/text/format.ts';
import { readUrl } from '../../services/outgoing.ts';
import { planned } from './kind.ts';

export const service = planned(kind, (site, { service, address, limit }) => {
  const name = SERVICE_NAMES[service];
  const parts: string[] = [];
  const settings: SettingStep[] = [];
  const set = (key: string, after: string | null, said: string) => {
    const before = site.serviceSettings.value(key);
    if (before === after) return;
    settings.push({ namespace: 'service', key, before, after });
    parts.push(said);
  };
  if (address !== undefined) {
    const url = address === null ? null : readUrl(address);
    set(
      service,
      url?.href ?? null,
      url === null ? `remove the address of the ${name}` : `use the ${name} at ${url.host}`,
    );
  }
  if (limit !== undefined)
    set(
      `${service}-limit`,
      limit === null ? null : String(limit),
      limit === null
        ? `send the ${name} any number of images`
        : `send the ${name} ${count(limit, 'image')} a month at most`,
    );
  const title = parts.join(', ') || `leave the ${name} as it is`;
  return {
    plan: { ...emptyPlan('arrange', title.charAt(0).toUpperCase() + title.slice(1)), settings },
  };
});
