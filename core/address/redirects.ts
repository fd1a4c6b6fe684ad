import { each, flatMap, mapOf, sorted, WITHOUT_PAUSE, type Breathe } from '../paced.ts';
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

/** A redirects file as it was read. */
export interface RedirectsFile {
  redirects: Redirect[];
  /** Lines that are no redirects, by their number from 1: they lead nowhere, and stay in the file. */
  faults: { line: number; text: string; why: string }[];
}

/** Reads a redirects file. Addresses are percent-encoded, so no field needs quotes; what is no redirect is told, the rest is used. */
export async function readRedirects(text: string, breathe: Breathe = WITHOUT_PAUSE): Promise<RedirectsFile> {
  const found: RedirectsFile = { redirects: [], faults: [] };
  await each(text.replace(/^\ufeff/, '').split(/\r?\n/), breathe, (line, index) => {
    if (line === '' || (index === 0 && line === HEADER)) return;
    const parts = /^"?([^",]*)"?,"?([^",]*)"?,301$/.exec(line);
    const why = parts
      ? (addressFault(parts[1]!, 'old') ?? addressFault(parts[2]!, 'new'))
      : `It is not of the form “${HEADER}”.`;
    if (why === undefined) found.redirects.push({ from: parts![1]!, to: parts![2]! });
    else found.faults.push({ line: index + 1, text: line, why });
  });
  return found;
}

/** Characters of an address (RFC 3986), without those that a CSV or a web server would take for its own. */
const ADDRESS = /^\/[A-Za-z0-9\-._~!$&'()*+;=:@/%?#[\]]*$/;

/** Why a text is no address of the site, or undefined when it is one. */
export function addressFault(address: string, which: 'old' | 'new'): string | undefined {
  const name = `The ${which} address “${address}”`;
  if (!address.startsWith('/') || address.startsWith('//'))
    return `${name} is not one of the site: it must begin with one slash.`;
  if (!ADDRESS.test(address)) return `${name} holds characters that must be percent-encoded.`;
  try {
    const text = decodeURIComponent(address);
    // Servers would write it into their answer.
    // eslint-disable-next-line no-control-regex
    return /[\u0000-\u001f\u007f]/.test(text) && which === 'new'
      ? `${name} holds a line break or another control character.`
      : undefined;
  } catch {
    return `${name} holds a percent sign that is followed by no valid sequence.`;
  }
}

/** Writes a redirects file in UTF-8, ordered by the old address, with CRLF line ends. @param faults lines that stay, at its end */
export async function writeRedirects(
  redirects: readonly Redirect[],
  faults: RedirectsFile['faults'] = [],
  breathe: Breathe = WITHOUT_PAUSE,
): Promise<Uint8Array<ArrayBuffer>> {
  const order = await sorted(redirects, breathe, (a, b) => (a.from < b.from ? -1 : a.from > b.from ? 1 : 0));
  const encoder = new TextEncoder();
  const parts = [encoder.encode(`${HEADER}\r\n`)];
  for (let at = 0; at < order.length; at += WRITTEN_AT_ONCE) {
    const some = order.slice(at, at + WRITTEN_AT_ONCE);
    parts.push(encoder.encode(some.map(({ from, to }) => `${from},${to},301\r\n`).join('')));
    await breathe();
  }
  for (const one of faults) parts.push(encoder.encode(`${one.text}\r\n`));
  const bytes = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let end = 0;
  for (const part of parts) {
    bytes.set(part, end);
    end += part.length;
  }
  return bytes;
}

/** Lines that are put into bytes at once. */
const WRITTEN_AT_ONCE = 500;

/**
 * The redirects after files have moved: each old address leads to the new one, older redirects are pointed on (no
 * chains), and one that starts where a file stands now is dropped.
 */
export async function redirectsAfter(
  redirects: readonly Redirect[],
  moves: ReadonlyMap<SitePath, SitePath>,
  roots: readonly SitePath[] = [''],
  breathe: Breathe = WITHOUT_PAUSE,
): Promise<Redirect[]> {
  const address = await mapOf(moves, breathe, ([from, to]) => [addressOf(from, roots), addressOf(to, roots)]);
  const byFrom = await mapOf(redirects, breathe, ({ from, to }) => [from, address.get(to) ?? to]);
  await each(address, breathe, ([from, to]) => byFrom.set(from, to));
  await each(address.values(), breathe, (to) => byFrom.delete(to));
  return flatMap(byFrom, breathe, ([from, to]) => (from === to ? [] : [{ from, to }]));
}

/** The redirects without what one change has added to them, in so far as it still stands; `was`: where one led before. */
export async function redirectsWithout(
  redirects: readonly Redirect[],
  added: readonly { from: string; to: string; was?: string }[],
  breathe: Breathe = WITHOUT_PAUSE,
): Promise<Redirect[]> {
  const undone = await mapOf(added, breathe, (one) => [`${one.from} ${one.to}`, one.was]);
  return flatMap(redirects, breathe, ({ from, to }) => {
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
