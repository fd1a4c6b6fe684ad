import { encodePath, servedPath, type SitePath } from './path.ts';

/**
 * The redirects file: CSV (RFC 4180) in the site's root, written by Iconomos and read by its own site server; any web
 * server's rules can be made from it. Columns: from, to (addresses, percent-encoded, from the root), status (301).
 */
export const REDIRECTS_FILE: SitePath = 'iconomos-redirects.csv';

const HEADER = 'from,to,status';

export interface Redirect {
  /** Address before, percent-encoded, with a leading '/'. */
  from: string;
  to: string;
}

/** Reads a redirects file. Addresses are percent-encoded, so no field needs quotes; unknown lines are an error. */
export function readRedirects(text: string): Redirect[] {
  const lines = text
    .replace(/^\ufeff/, '')
    .split(/\r?\n/)
    .filter((line) => line !== '');
  if (lines.length > 0 && lines[0] !== HEADER)
    throw new SyntaxError(`${REDIRECTS_FILE} does not start with “${HEADER}”.`);
  return lines.slice(1).map((line, index) => {
    const match = /^"?(\/[^",]*)"?,"?(\/[^",]*)"?,301$/.exec(line);
    if (!match) throw new SyntaxError(`${REDIRECTS_FILE}, line ${index + 2}: “${line}” is not a redirect.`);
    return { from: match[1]!, to: match[2]! };
  });
}

/** Writes a redirects file, ordered by the old address, with CRLF line ends. */
export function writeRedirects(redirects: readonly Redirect[]): string {
  const sorted = [...redirects].sort((a, b) => (a.from < b.from ? -1 : 1));
  return [HEADER, ...sorted.map((one) => `${one.from},${one.to},301`)].map((line) => `${line}\r\n`).join('');
}

/**
 * The redirects after files have moved: each old address leads to the new one, older redirects are pointed on (no
 * chains), and one that starts where a file stands now is dropped.
 */
export function redirectsAfter(
  redirects: readonly Redirect[],
  moves: ReadonlyMap<SitePath, SitePath>,
  roots: readonly SitePath[] = [''],
): Redirect[] {
  const byFrom = new Map(redirects.map((one) => [one.from, one.to]));
  const address = new Map([...moves].map(([from, to]) => [addressOf(from, roots), addressOf(to, roots)]));
  for (const [from, to] of byFrom) byFrom.set(from, address.get(to) ?? to);
  for (const [from, to] of address) byFrom.set(from, to);
  for (const to of address.values()) byFrom.delete(to);
  return [...byFrom].filter(([from, to]) => from !== to).map(([from, to]) => ({ from, to }));
}

/** The redirects without what one change has added to them, in so far as it still stands; `was`: where one led before. */
export function redirectsWithout(
  redirects: readonly Redirect[],
  added: readonly { from: string; to: string; was?: string }[],
): Redirect[] {
  const undone = new Map(added.map((one) => [`${one.from} ${one.to}`, one.was]));
  return redirects.flatMap(({ from, to }) => {
    const key = `${from} ${to}`;
    if (!undone.has(key)) return [{ from, to }];
    const was = undone.get(key);
    return was === undefined ? [] : [{ from, to: was }];
  });
}

/**
 * The address under which the site serves a file: percent-encoded, from the root.
 * @param roots folders whose contents are served from the root
 */
export function addressOf(path: SitePath, roots: readonly SitePath[] = ['']): string {
  return `/${encodePath(servedPath(path, roots))}`;
}
