import { withoutQuery } from '../text/cut.ts';
import { isItemPath, isPagePath, runsSomewhere } from '../address/kinds.ts';
import { baseName, encodePath, type SitePath } from '../address/path.ts';
import { decodePathname } from './resolve.ts';

/** False for addresses that cannot lead to a media, style or script file: in-page links, mail, data; and links to pages, unless wanted. */
export function canNameFile(url: string, links: boolean): boolean {
  const latest = links ? latestWithLinks : latestWithout;
  let can = latest.get(url);
  if (can === undefined) {
    if (latest.size >= LATEST) latest.clear();
    latest.set(url, (can = looksAsIf(url, links)));
  }
  return can;
}
/** Pages of one site share most of their addresses: so many of the latest answers are kept. */
const LATEST = 2000;
const latestWithLinks = new Map<string, boolean>();
const latestWithout = new Map<string, boolean>();

function looksAsIf(url: string, links: boolean): boolean {
  const address = url.trim();
  if (address === '' || address[0] === '#' || address[0] === '?') return false;
  if (/^(?:data|blob|mailto|javascript|tel|about|news|irc|ftp|urn):/i.test(address)) return false;
  const path = mediaPath(address);
  if (links || isItemPath(path)) return true;
  // Any other file may be an item that a person has brought in.
  const inSite = path.replace(/^(?:[a-z][a-z0-9+.-]*:)?\/\/[^/]*/i, '');
  if (/\.[a-z0-9]{1,12}$/i.test(inSite) && !runsSomewhere(inSite)) return true;
  return /\.(?:css|m?js|webmanifest|xml|rss|atom)$/i.test(path);
}

/**
 * True for a value that is one address of a file and nothing else: a path or an address of the web whose path ends in a
 * known extension of media, styles, scripts or pages. So that words with a dot are no addresses.
 */
export function looksLikeFileAddress(value: string): boolean {
  const text = value.trim();
  if (text === '' || text.length > 2000 || /[\s<>"{}|\\^`]/.test(withoutQuery(text))) return false;
  if (/^https?:\/\//i.test(text)) return true;
  if (/^[a-z][a-z0-9+.-]*:/i.test(text)) return false;
  const path = mediaPath(text);
  return (isItemPath(path) || isPagePath(path)) && baseName(path).replace(/\.[^.]*$/, '') !== '';
}

/** True when every reference to a file of this path is read also without the links to pages. */
export function isReadWithoutLinks(path: SitePath): boolean {
  return canNameFile(`/${encodePath(path)}`, false);
}

/** The path part of an address, percent-decoded: what the extension is read from. */
function mediaPath(address: string): string {
  return decodePathname(withoutQuery(address.replace(/[\t\n\r]/g, '')).replace(/\\/g, '/'));
}

/**
 * True for an address that, leading nowhere, counts as broken: its path ends in a media extension and it is
 * no unfilled placeholder of a template.
 */
export function isMediaAddress(url: string): boolean {
  if (/\{\{|\}\}|\$\{|<\?|<%|%>|\[\w+\]|%[sd](?![0-9a-fA-F])|\{[\w.]+\}|#\{/.test(url)) return false;
  const path = mediaPath(url.trim());
  return isItemPath(path) && baseName(path).replace(/\.[^.]*$/, '') !== '';
}
