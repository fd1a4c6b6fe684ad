import { trim } from '../text/cut.ts';
import { targetFault } from '../address/target.ts';
import { isWithin, pathFault, type SitePath } from '../address/path.ts';
import type { PublishedAt } from './resolve.ts';

/** How a site's folder is laid out. An empty list: it is found out, or holds everywhere. */
export interface SiteLayout {
  /** Folders whose contents are served from the site's root; '' is the site's folder itself. Empty: guessed. */
  public: SitePath[];
  /** Only in these folders are files read as pages; elsewhere they are searched for names all the same. */
  pages: SitePath[];
  /** Only in these folders are files items. */
  media: SitePath[];
  /** Folders that are not looked at: what a generator builds, packages, archives. */
  leftOut: SitePath[];
  /** Addresses under which the site is published: 'https://www.site.example/docs/'. Empty: learned from its pages. */
  published: string[];
}

export const LAYOUT_PARTS = ['public', 'pages', 'media', 'leftOut', 'published'] as const;
export type LayoutPart = (typeof LAYOUT_PARTS)[number];

export const PLAIN_LAYOUT: SiteLayout = { public: [], pages: [], media: [], leftOut: [], published: [] };

export const LAYOUT_NAMES: Record<LayoutPart, string> = {
  public: 'Served from the root',
  pages: 'Pages lie in',
  media: 'Media lie in',
  leftOut: 'Not looked at',
  published: 'Own addresses',
};

export function holds(folders: readonly SitePath[], path: SitePath): boolean {
  return folders.length === 0 || folders.some((folder) => isWithin(folder, path));
}

/** An own address as origin and path. Undefined: it is no address of the web. */
export function publishedAt(address: string): PublishedAt | undefined {
  if (!/^https?:\/\//i.test(address) || !URL.canParse(address)) return undefined;
  const { host, pathname } = new URL(address);
  return {
    host: host.toLowerCase().replace(/^www\./, ''),
    prefix: pathname.endsWith('/') ? pathname : `${pathname}/`,
  };
}

/** What is written for one part of a layout, cleaned: no slashes around, none twice. Or what is wrong with it. */
export function readLayoutPart(part: LayoutPart, lines: readonly string[]): string[] | { fault: string } {
  const found: string[] = [];
  for (const line of lines.map((one) => one.trim()).filter((one) => one !== '')) {
    if (part === 'published') {
      if (!publishedAt(line))
        return { fault: `“${line}” is no address of the web. Write it as https://www.site.example/.` };
      found.push(line);
      continue;
    }
    const path = trim(line.replace(/^\.\//, ''), '/').replace(/^\.$/, '');
    const written = part === 'public' || part === 'media' ? targetFault : pathFault;
    const fault = path === '' ? undefined : written(path);
    if (fault) return { fault: `“${line}”: ${fault}` };
    if (path === '' && part === 'leftOut') return { fault: 'The site’s own folder cannot be left out.' };
    found.push(path);
  }
  return [...new Set(found)];
}
