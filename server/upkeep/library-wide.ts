import type { RedirectFindings, TagFindings } from '../../api/upkeep.ts';
import { addressOf } from '../../core/address/redirects.ts';
import { redirectFindings } from '../../core/upkeep/redirects.ts';
import { nearTags } from '../../core/upkeep/tags.ts';
import { redirectsOf } from '../scan/redirects.ts';
import type { Site } from '../app/site.ts';
import { allTagCounts } from '../db/tags.ts';
import { breathe } from '../workers/breathe.ts';

/** Tags that are nearly the same, and those that one item bears; of what was said to be left alone, nothing is said. */
export async function tagFindings(site: Pick<Site, 'reader' | 'findings'>): Promise<TagFindings> {
  const [near, lone] = [
    await site.findings.dismissedBy('near-tags'),
    await site.findings.dismissedBy('lone-tags'),
  ];
  const tags = await allTagCounts(site.reader);
  return {
    near: (await nearTags(tags, breathe)).filter((one) => !near.has(one.name)),
    lone: tags.filter((one) => one.items === 1 && !lone.has(one.name)),
  };
}

/** Redirects that nobody needs, or that lead on by way of others. */
export async function redirectViews(site: Pick<Site, 'folder' | 'index'>): Promise<RedirectFindings> {
  const served = new Set<string>();
  for (const path of site.index.paths) {
    served.add(addressOf(path, site.index.map.roots));
    await breathe();
  }
  const isThere = (address: string) =>
    served.has(address) || served.has(`${address.replace(/\/$/, '')}/index.html`);
  return redirectFindings((await redirectsOf(site)).redirects, isThere);
}
