import { readRedirects, REDIRECTS_FILE, type Redirect } from '../../core/address/redirects.ts';
import type { Site } from './site.ts';

/** The redirects that the site keeps; none when the file cannot be read as such: a plan that changes it says why. */
export async function redirectsOf(site: Site): Promise<Redirect[]> {
  if (!(await site.folder.facts(REDIRECTS_FILE))) return [];
  try {
    return readRedirects((await site.folder.read(REDIRECTS_FILE)).toString('utf8'));
  } catch (error) {
    if (error instanceof SyntaxError) return [];
    throw error;
  }
}
