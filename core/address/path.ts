/**
 * Paths inside a site: relative to the site's root, '/' between names, no leading or trailing '/',
 * exactly as on disk (never percent-encoded). The root itself is ''.
 */
export type SitePath = string;

/** The last name of a path: 'a/b.png' -> 'b.png'. */
export function baseName(path: SitePath): string {
  return path.slice(path.lastIndexOf('/') + 1);
}

/** The folder a path lies in: 'a/b.png' -> 'a', 'b.png' -> ''. */
export function folderOf(path: SitePath): SitePath {
  const slash = path.lastIndexOf('/');
  return slash < 0 ? '' : path.slice(0, slash);
}

/** The extension in lower case with its dot: 'B.PNG' -> '.png'; '' where there is none ('.htaccess' has none). */
export function extensionOf(path: SitePath): string {
  const name = baseName(path);
  const dot = name.lastIndexOf('.');
  return dot <= 0 ? '' : name.slice(dot).toLowerCase();
}

/** The name without its extension: 'a/b.tar.gz' -> 'b.tar'. */
export function stemOf(path: SitePath): string {
  const name = baseName(path);
  const dot = name.lastIndexOf('.');
  return dot <= 0 ? name : name.slice(0, dot);
}

export function joinPath(folder: SitePath, name: string): SitePath {
  return folder === '' ? name : `${folder}/${name}`;
}

/** True when `path` is `folder` itself or lies anywhere below it. The root ('') holds everything. */
export function isWithin(folder: SitePath, path: SitePath): boolean {
  return folder === '' || path === folder || path.startsWith(`${folder}/`);
}

/** The path under which a file is served: without the public folder it lies in, if it lies in one. */
export function servedPath(path: SitePath, roots: readonly SitePath[]): SitePath {
  const root = roots.find((one) => one !== '' && isWithin(one, path));
  return root === undefined ? path : path.slice(root.length + 1);
}

/**
 * The key under which two paths clash: on a file system that ignores case or Unicode form they are one file.
 * Paths with the same key must never both be written by us.
 */
export function clashKey(path: SitePath): string {
  return path.normalize('NFC').toLowerCase();
}

/**
 * Percent-encodes a path for use in an address (URL standard, path percent-encode set, and the characters
 * that would end or split a path). '/' stays; everything outside ASCII becomes UTF-8 percent sequences.
 */
export function encodePath(path: SitePath): string {
  return PLAIN_PATH.test(path) ? path : path.split('/').map(encodeSegment).join('/');
}

const PLAIN_PATH = /^[A-Za-z0-9\-._~!$*+=:@/]*$/;

/** As encodePath, for one name between two slashes. */
export function encodeSegment(segment: string): string {
  return segment.replace(/[^A-Za-z0-9\-._~!$*+=:@]/gu, (char) =>
    Array.from(
      new TextEncoder().encode(char),
      (byte) => '%' + byte.toString(16).toUpperCase().padStart(2, '0'),
    ).join(''),
  );
}

/**
 * Why a text cannot be a path inside a site, or undefined when it can. This is the gate for every path that
 * comes from outside: no absolute path, no '.' or '..', no empty name, no NUL or control character, no
 * backslash, no name over 255 bytes of UTF-8.
 */
export function pathFault(path: string): string | undefined {
  if (path === '') return 'The path is empty.';
  for (const name of path.split('/')) {
    const fault = nameFault(name);
    if (fault) return fault;
  }
  return undefined;
}

/**
 * Why a text cannot be the path of a file that is there already, or undefined when it can: others may have given it a name that we never
 * would (a backslash, a line break). It only must not lead anywhere else.
 */
export function presentPathFault(path: string): string | undefined {
  const names = path.split('/');
  if (names.some((name) => name === '' || name === '.' || name === '..')) return pathFault(path);
  return path.includes('\u0000') ? nameFault(path) : undefined;
}

/** Why a text cannot be one name in a folder, or undefined when it can. */
export function nameFault(name: string): string | undefined {
  if (name === '') return 'A name is empty, or there is a slash at the start, at the end or twice in a row.';
  if (name === '.' || name === '..') return `“${name}” isn’t a name: it points to another folder.`;
  // eslint-disable-next-line no-control-regex
  if (/[\u0000-\u001f\u007f]/.test(name)) return 'The name has a control character. Type it by hand.';
  if (/[/\\]/.test(name)) return 'A name can’t contain a slash or a backslash.';
  if (new TextEncoder().encode(name).length > 255)
    return 'The name is too long for a file system (255 bytes at most).';
  return undefined;
}
