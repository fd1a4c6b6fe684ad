import { withoutQuery } from '../text/cut.ts';
import { baseName, encodeSegment, folderOf, type SitePath } from '../address/path.ts';
import {
  attributeAtoms,
  charAtoms,
  cssAtoms,
  escapedAtoms,
  markdownAtoms,
  singleQuotedAtoms,
  type Atom,
} from './atoms.ts';
import type { Reference } from './model.ts';
import { decodePathname, type SiteMap } from './resolve.ts';
import type { Source } from './source.ts';

export function addressAtoms(source: Source, reference: Reference): Atom[] {
  const atoms = charAtoms(source, reference.start, reference.end);
  switch (reference.writing) {
    case 'attribute':
    case 'srcset':
      return attributeAtoms(atoms);
    case 'css-bare':
    case 'css-string':
      return cssAtoms(atoms);
    case 'attribute-css-bare':
    case 'attribute-css-string':
      return cssAtoms(attributeAtoms(atoms));
    case 'markdown':
      return markdownAtoms(atoms);
    case 'escaped':
      return escapedAtoms(atoms);
    case 'single-quoted':
      return singleQuotedAtoms(atoms);
    case 'plain':
      return atoms;
  }
}

/** The path part of an address: behind scheme and host, before query and fragment; without white space at the ends. */
export function pathSpan(url: string): { start: number; end: number } {
  // eslint-disable-next-line no-control-regex
  const lead = /^[\s\u0000-\u0020]*/.exec(url)![0].length;
  const authority = /^(?:https?:)?[\\/]{2}[^\\/?#]*/i.exec(url.slice(lead))?.[0].length ?? 0;
  const start = lead + authority;
  const rest = /^[^?#]*/.exec(url.slice(start))![0];
  return { start, end: start + rest.trimEnd().length };
}

/**
 * Ways to write the path of the new place in the manner of the old one, the closest first. The caller takes the first
 * that resolves to the new place.
 */
export function* newAddresses(
  written: string,
  oldPath: SitePath,
  newPath: SitePath,
  baseFolder: SitePath | undefined,
  page: SitePath,
  pageAfter: SitePath,
  keepUnicode: boolean,
  site: SiteMap,
  fromRoot: boolean,
): Generator<string> {
  const encode = (segment: string) =>
    keepUnicode
      ? Array.from(segment, (char) => (char > '\u007f' ? char : encodeSegment(char))).join('')
      : encodeSegment(segment);
  const encoded = newPath.split('/').map(encode);
  // An address of a folder stands for the page within it: it stays one.
  const asFolder = /(^|[\\/])$/.test(written) && /^index\.html?$/.test(baseName(newPath));
  if (asFolder) encoded[encoded.length - 1] = '';
  // A reference that is to lead where it leads already is to be tidied.
  const tidied = oldPath === newPath && page === pageAfter;
  // The author's own spelling of the folders is kept where only the name changes.
  if (!tidied && folderOf(oldPath) === folderOf(newPath) && page !== oldPath && !asFolder) {
    const slash = Math.max(written.lastIndexOf('/'), written.lastIndexOf('\\'));
    const name = encoded.at(-1)!;
    yield written.slice(0, slash + 1) + (slash < 0 && name.includes(':') ? `./${name}` : name);
  }
  const served = site.served(newPath).split('/').map(encode);
  if (asFolder) served[served.length - 1] = '';
  if (fromRoot && !/^[\\/]/.test(written)) yield (/^\.\//.test(written) ? './' : '') + served.join('/');
  if (/^[\\/]/.test(written)) {
    // Root-relative or absolute: what stands before the old path (a sub-path of the deployment) stays.
    const decoded = decodePathname(written);
    const was = site.served(oldPath);
    const place = asFolder ? was.slice(0, -baseName(was).length) : was;
    const prefix = decoded.endsWith(place) ? written.slice(0, prefixLength(written, place)) : '/';
    if (!tidied && isUntidy(written)) yield written[0] + spelledLike(written.slice(1), served.join('/'));
    yield prefix + served.join('/');
    yield '/' + served.join('/');
    return;
  }
  const from = (baseFolder ?? '').split('/').filter((name) => name !== '');
  const to = newPath.split('/');
  let shared = 0;
  while (shared < from.length && shared < to.length - 1 && from[shared] === to[shared]) shared++;
  const relative = '../'.repeat(from.length - shared) + encoded.slice(shared).join('/');
  if (!tidied && isUntidy(written)) yield spelledLike(written, relative);
  const dotted = /^\.[\\/]/.test(written) && !relative.startsWith('../');
  yield dotted || relative === '' || /^[^/]*:/.test(relative) ? `./${relative}` : relative;
  // With a base element the shortest way is unknown: from the root.
  yield '/' + served.join('/');
}

/** True for a path with empty segments or '.' within it: it is served, and may be written more plainly. */
export function isUntidy(written: string): boolean {
  return /[^:\\/][\\/]{2,}|[\\/]\.[\\/]|^\.[\\/]{2,}/.test(withoutQuery(written));
}

/** A path of as many segments, with the empty ones and '.' where the author wrote them; else the path itself. */
function spelledLike(written: string, path: string): string {
  const parts = written.split(/([\\/]+)/);
  const names = parts.filter((part) => part !== '' && part !== '.' && !/^[\\/]/.test(part));
  const wanted = path.split('/');
  if (names.length !== wanted.length) return path;
  return parts
    .map((part) => (part === '' || part === '.' || /^[\\/]/.test(part) ? part : wanted.shift()!))
    .join('');
}

/** Length of what stands in a written path before the part that decodes to `oldPath`. */
function prefixLength(written: string, oldPath: SitePath): number {
  for (let at = 0; at < written.length; at++) {
    if (/[\\/]/.test(written[at]!) && decodePathname(written.slice(at + 1)) === oldPath) return at + 1;
  }
  return 1;
}
