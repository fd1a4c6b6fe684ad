import { each, filter, flatMap, setOf, WITHOUT_PAUSE, type Breathe } from '../paced.ts';
import { trim } from '../text/cut.ts';
import { clashKey, encodePath, folderOf, joinPath, servedPath, type SitePath } from '../address/path.ts';
import type { Reference, Target } from './model.ts';

/** Where the site is published: an own origin and the path under which the folder's root is served ('/' or '/docs/'). */
export interface PublishedAt {
  /** Host in lower case without a leading 'www.', with its port if it is not the scheme's own. */
  host: string;
  prefix: string;
}

const ROOT = 'http://site.invalid/';
/** A folder that no site has, so that an address which climbs out of the root can be told from one that does not. */
const INSIDE = `${ROOT}%00root/`;
const INSIDE_PATH = '/%00root/';
/** So many of the latest answers are kept: pages of one folder share most of their addresses. */
const LATEST = 5000;

/** Control characters and the space, which an address loses at its ends (URL standard, 4.4). */
const CONTROLS = String.fromCharCode(...Array.from({ length: 0x21 }, (_, code) => code));

/** The files of a site, for resolving addresses by the URL standard. */
export class SiteMap {
  private readonly files = new Set<SitePath>();
  private readonly byNormal = new Map<string, SitePath>();
  private readonly byFold = new Map<string, SitePath>();
  private readonly folders = new Set<SitePath>(['']);
  /** Links inside the site: where each stands and where it leads. */
  readonly aliases: readonly [SitePath, SitePath][];
  private readonly published: readonly PublishedAt[];
  /** Folders whose contents are served from the site's root, the first first; '' is the site's folder itself. */
  readonly roots: readonly SitePath[];

  /**
   * @param files every file of the site, also those that are neither page nor item
   * @param aliases links inside the site: [path of the link, path it leads to]
   * @param published own origins; addresses under them are local
   * @param roots folders whose contents are served from the site's root
   */
  constructor(
    files: Iterable<SitePath>,
    aliases: Iterable<[SitePath, SitePath]> = [],
    published: readonly PublishedAt[] = [],
    roots: readonly SitePath[] = [''],
  ) {
    this.published = published;
    this.roots = roots.length > 0 ? roots : [''];
    this.aliases = [...aliases];
    for (const path of files) this.add(path);
    for (const [link] of this.aliases) {
      for (let folder = link; !this.folders.has(folder); folder = folderOf(folder)) this.folders.add(folder);
    }
  }

  /** As the constructor, for any number of files: others go on meanwhile. */
  static async of(
    files: Iterable<SitePath>,
    aliases: Iterable<[SitePath, SitePath]>,
    published: readonly PublishedAt[],
    roots: readonly SitePath[],
    breathe: Breathe,
  ): Promise<SiteMap> {
    const map = new SiteMap([], aliases, published, roots);
    await each(files, breathe, (path) => map.add(path));
    return map;
  }

  private add(path: SitePath): void {
    this.files.add(path);
    const normal = path.normalize('NFC');
    if (!this.byNormal.has(normal) || normal === path) this.byNormal.set(normal, path);
    const fold = clashKey(path);
    if (!this.byFold.has(fold)) this.byFold.set(fold, path);
    for (let folder = folderOf(path); !this.folders.has(folder); folder = folderOf(folder))
      this.folders.add(folder);
  }

  /** The same site without some files and with others. */
  async changed(without: Iterable<SitePath>, others: Iterable<SitePath>, breathe: Breathe): Promise<SiteMap> {
    const files = new Set<SitePath>();
    await each(this.files, breathe, (path) => files.add(path));
    await each(without, breathe, (path) => files.delete(path));
    await each(others, breathe, (path) => files.add(path));
    return SiteMap.of(files, this.aliases, this.published, this.roots, breathe);
  }

  /** All that the map was made of, to be made again on another thread. */
  parts(): {
    files: SitePath[];
    aliases: readonly [SitePath, SitePath][];
    published: readonly PublishedAt[];
    roots: readonly SitePath[];
  } {
    return {
      files: [...this.files],
      aliases: this.aliases,
      published: this.published,
      roots: this.roots,
    };
  }

  /** True when a map of so many files with these aliases, origins and public folders would say the same of the same files. */
  isLaidOut(
    aliases: readonly [SitePath, SitePath][],
    published: readonly PublishedAt[],
    roots: readonly SitePath[],
    files: number,
  ): boolean {
    const same = JSON.stringify([this.aliases, this.published, this.roots]);
    return this.files.size === files && same === JSON.stringify([aliases, published, roots]);
  }

  has(path: SitePath): boolean {
    return this.files.has(path);
  }

  /** The same site after files have moved, for checking a rewrite before it is done. */
  withMoves(moves: ReadonlyMap<SitePath, SitePath | null>): SiteMap {
    const files = [...this.files].flatMap((path) => placeAfter(path, moves));
    return new SiteMap(files, this.aliases, this.published, this.roots);
  }

  /** The same, while others go on. */
  async afterMoves(moves: ReadonlyMap<SitePath, SitePath | null>, breathe: Breathe): Promise<SiteMap> {
    const files = await flatMap(this.files, breathe, (path) => placeAfter(path, moves));
    return SiteMap.of(files, this.aliases, this.published, this.roots, breathe);
  }

  /** The path under which a file is served, from the site's root, not percent-encoded. */
  served(path: SitePath): SitePath {
    return servedPath(path, this.roots);
  }

  /** Where a reference leads from the page it stands in; a loose one from the site's root, when not from there. */
  follow(reference: Pick<Reference, 'url' | 'base' | 'loose'>, page: SitePath): Target {
    const target = this.resolve(reference.url, page, reference.base);
    if (!reference.loose || target.to === 'file' || /^\s*(?:[a-z][a-z0-9+.-]*:|[\\/])/i.test(reference.url))
      return target;
    const fromRoot = this.resolve(`/${reference.url.trimStart()}`, page);
    return fromRoot.to === 'file' ? fromRoot : target;
  }

  /**
   * Where an address leads from a page.
   * @param url as decoded from the source
   * @param page the page (or style sheet) it stands in
   * @param baseHref the page's `base href`, if it has one
   */
  resolve(url: string, page: SitePath, baseHref?: string): Target {
    // Where it leads depends on the page's folder only, unless it is the page itself that is meant.
    if (!/^[^\s?#]/.test(url)) return this.resolveNow(url, page, baseHref);
    const key = `${folderOf(page)}\n${baseHref ?? ''}\n${url}`;
    let target = this.latest.get(key);
    if (!target) {
      if (this.latest.size >= LATEST) this.latest.clear();
      this.latest.set(key, (target = this.resolveNow(url, page, baseHref)));
    }
    return target;
  }
  private readonly latest = new Map<string, Target>();

  private resolveNow(url: string, page: SitePath, baseHref?: string): Target {
    const base = baseHref === undefined ? undefined : this.baseOf(baseHref, page);
    if (base && base.to !== 'inside') return { to: base.to };
    const located = this.locate(url, INSIDE + (base ? base.pathname : encodePath(page)));
    if (located.to !== 'inside') return { to: located.to };
    const path = decodePathname(located.pathname);
    return located.fromRoot ? this.findServed(path) : this.find(path);
  }

  /** An address from the root leads into the first of the public folders that has it. */
  private findServed(path: SitePath): Target {
    let first: Target | undefined;
    for (const root of this.roots) {
      const found = this.find(joinPath(root, path));
      if (found.to === 'file') return found;
      first = first?.to === 'missing' && first.near ? first : found;
    }
    return first!;
  }

  private baseOf(baseHref: string, page: SitePath) {
    return this.locate(baseHref, INSIDE + encodePath(page));
  }

  /** Resolves to a pathname below INSIDE, or says where else it leads. */
  private locate(
    url: string,
    base: string,
  ): { to: 'inside'; pathname: string; fromRoot: boolean } | { to: 'above' | 'external' | 'none' } {
    // The URL standard: leading and trailing C0 controls and spaces are removed, tabs and newlines anywhere.
    const address = trim(url, CONTROLS).replace(/[\t\n\r]/g, '');
    const scheme = /^([a-zA-Z][a-zA-Z0-9+.-]*):/.exec(address)?.[1]?.toLowerCase();
    if (scheme && scheme !== 'http' && scheme !== 'https')
      return { to: scheme === 'file' ? 'external' : 'none' };
    const slashes = /^[\\/]{2,}/.test(address);
    if (scheme || slashes) {
      const absolute = parse(address, 'https://iconomos.invalid/');
      if (!absolute) return { to: 'none' };
      if (scheme && !/^https?:[\\/]{2}/i.test(address)) return { to: 'external' };
      const host = absolute.host.toLowerCase().replace(/^www\./, '');
      for (const own of this.published) {
        if (own.host === host && absolute.pathname.startsWith(own.prefix)) {
          return { to: 'inside', pathname: absolute.pathname.slice(own.prefix.length), fromRoot: true };
        }
      }
      return { to: 'external' };
    }
    if (/^[\\/]/.test(address)) {
      const rooted = new URL(address, ROOT);
      // The same from a folder that is not the root: an empty segment counts as one that '..' leaves.
      if (!new URL(`./${address.slice(1)}`, INSIDE).pathname.startsWith(INSIDE_PATH)) return { to: 'above' };
      return { to: 'inside', pathname: this.unprefixed(rooted.pathname), fromRoot: true };
    }
    // Without a scheme or a host there is nothing that could be no address.
    const { pathname } = new URL(address, base);
    if (!pathname.startsWith(INSIDE_PATH)) return { to: 'above' };
    return { to: 'inside', pathname: pathname.slice(INSIDE_PATH.length), fromRoot: false };
  }

  /** A root-relative pathname without the sub-path the site is published under, when the folder lacks it. */
  private unprefixed(pathname: string): string {
    const path = pathname.slice(1);
    if (this.isServed(decodePathname(path))) return path;
    for (const own of this.published) {
      if (own.prefix !== '/' && pathname.startsWith(own.prefix)) {
        const shorter = pathname.slice(own.prefix.length);
        if (this.isServed(decodePathname(shorter))) return shorter;
      }
    }
    return path;
  }

  private isServed(path: SitePath): boolean {
    return this.roots.some((root) => this.find(joinPath(root, path)).to === 'file');
  }

  private lookup(path: SitePath): SitePath | undefined {
    if (this.files.has(path)) return path;
    const normal = this.byNormal.get(path.normalize('NFC'));
    if (normal !== undefined) return normal;
    for (const [link, real] of this.aliases) {
      if (path === link) return this.lookup(real);
      if (path.startsWith(`${link}/`))
        return this.lookup(real === '' ? path.slice(link.length + 1) : real + path.slice(link.length));
    }
    return undefined;
  }

  /** Empty segments are passed over, as file systems and servers do. */
  private find(written: SitePath): Target {
    const path = written.replace(/\/{2,}/g, '/').replace(/^\//, '');
    const trimmed = path.replace(/\/$/, '');
    const exact = path === trimmed ? this.lookup(path) : undefined;
    if (exact !== undefined) return { to: 'file', path: exact };
    if (this.folders.has(trimmed)) {
      const inFolder = trimmed === '' ? '' : `${trimmed}/`;
      const index = this.lookup(`${inFolder}index.html`) ?? this.lookup(`${inFolder}index.htm`);
      return index === undefined ? { to: 'missing', path: trimmed } : { to: 'file', path: index };
    }
    const near = this.byFold.get(clashKey(path));
    return near === undefined ? { to: 'missing', path } : { to: 'missing', path, near };
  }
}

/** So many of a site's addresses from the root must lead somewhere through a folder before it is taken for a public one. */
const SOME = 2;

/**
 * Guesses which folders are served from the site's root, by where its addresses from the root lead: [''] for a folder
 * that is the site as it is served (a start page lies in it), ['static'] or ['src/assets', 'public'] for one that a generator builds from.
 * @param addresses paths of media that pages name from the root, decoded, without the leading '/'
 */
export async function guessRoots(
  files: ReadonlySet<SitePath>,
  addresses: Iterable<SitePath>,
  breathe: Breathe = WITHOUT_PAUSE,
): Promise<SitePath[]> {
  if (files.has('index.html') || files.has('index.htm')) return [''];
  const named = await setOf(addresses, breathe, (path) => path);
  const open = await setOf(named, breathe, (path) => (files.has(path) ? undefined : path));
  // Which of the addresses each folder has, of the folders in the order in which they come.
  const has = new Map<SitePath, SitePath[]>();
  await each(files, breathe, (path) => {
    for (let slash = path.indexOf('/'), depth = 0; slash >= 0 && depth < 2; depth++) {
      const folder = path.slice(0, slash);
      const there = has.get(folder) ?? [];
      has.set(folder, there);
      const within = path.slice(slash + 1);
      if (open.has(within)) there.push(within);
      slash = path.indexOf('/', slash + 1);
    }
  });
  const enough = Math.max(SOME, named.size / 20);
  const roots: SitePath[] = [];
  // Each takes a twentieth of the addresses at least.
  for (;;) {
    let best: { folder: SitePath; found: SitePath[] } | undefined;
    await each(has, breathe, ([folder, there]) => {
      if (there.length < enough || there.length <= (best?.found.length ?? 0)) return;
      const found = there.filter((path) => open.has(path));
      if (found.length >= enough && found.length > (best?.found.length ?? 0)) best = { folder, found };
    });
    if (!best) break;
    roots.push(best.folder);
    await each(best.found, breathe, (path) => open.delete(path));
    has.delete(best.folder);
  }
  const direct = (await filter(named, breathe, (path) => files.has(path))).length > 0;
  return direct || roots.length === 0 ? [...roots, ''] : roots;
}

function parse(url: string, base: string): URL | undefined {
  return URL.canParse(url, base) ? new URL(url, base) : undefined;
}

const utf8 = new TextDecoder('utf-8', { ignoreBOM: true });

/** Percent-decodes once; a stray '%' stands for itself. */
export function decodePathname(pathname: string): SitePath {
  return pathname.replace(/(?:%[0-9a-fA-F]{2})+/g, (run) =>
    utf8.decode(Uint8Array.from(run.slice(1).split('%'), (hex) => parseInt(hex, 16))),
  );
}

/**
 * Learns where the site is published from the addresses by which pages name themselves (rel=canonical, og:url):
 * the origin and prefix that the most pages agree on, at least two of them or all there are.
 */
export function learnPublished(
  pages: Iterable<{ path: SitePath; canonical: readonly string[] }>,
): PublishedAt[] {
  const votes = new Map<string, { at: PublishedAt; count: number }>();
  let total = 0;
  for (const { path, canonical } of pages) {
    for (const url of new Set(canonical)) {
      const parsed = /^(https?:)?\/\//i.test(url.trim())
        ? parse(url, 'https://iconomos.invalid/')
        : undefined;
      if (!parsed) continue;
      const pathname = decodePathname(parsed.pathname);
      const ending = [path, path.replace(/(^|\/)index\.html?$/, '$1'), path.replace(/\.html?$/, '')].find(
        (tail) => pathname.endsWith(`/${tail}`),
      );
      if (ending === undefined) continue;
      total++;
      const at = {
        host: parsed.host.toLowerCase().replace(/^www\./, ''),
        prefix: pathname.slice(0, pathname.length - ending.length),
      };
      const key = `${at.host} ${at.prefix}`;
      const vote = votes.get(key) ?? { at, count: 0 };
      vote.count++;
      votes.set(key, vote);
    }
  }
  return [...votes.values()].filter((vote) => vote.count >= Math.max(1, total / 2)).map((vote) => vote.at);
}

/** Where a file lies after some have moved; nowhere, when it is taken away. */
function placeAfter(path: SitePath, moves: ReadonlyMap<SitePath, SitePath | null>): SitePath[] {
  const to = moves.get(path);
  return to === undefined ? [path] : to === null ? [] : [to];
}
