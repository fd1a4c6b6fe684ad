import { readRedirects, REDIRECTS_FILE, type RedirectsFile } from '../../core/address/redirects.ts';
import { breathe } from '../workers/breathe.ts';
import type { Site } from '../app/site.ts';

/** The redirects that the site keeps, and the lines of their file that are none. */
export async function redirectsOf(site: Pick<Site, 'folder'>): Promise<RedirectsFile> {
  if (!(await site.folder.facts(REDIRECTS_FILE))) return { redirects: [], faults: [] };
  return readRedirects((await site.folder.read(REDIRECTS_FILE)).toString('utf8'), breathe);
}
