/** The text files of a bag, and its rules for paths: BagIt 1.0 (RFC 8493). A folder of files with their hashes, which anybody can check. */

/** What we write. */
export const HASHES = ['sha256', 'sha512'] as const;
export type HashName = (typeof HASHES)[number];
/** What is read, also of older bags. */
export const READ_HASHES = [...HASHES, 'sha1', 'md5'] as const;
export type ReadHash = (typeof READ_HASHES)[number];
/** Hexadecimal digits. */
const DIGITS: Readonly<Record<ReadHash, number>> = { sha256: 64, sha512: 128, sha1: 40, md5: 32 };

/** The declaration of a bag (2.1.1). */
export const DECLARATION = 'BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n';

export interface ManifestLine {
  /** Of the manifest, from 1. */
  line: number;
  /** In the bag, with “/”, as on disk. */
  path: string;
  /** Lower-case hexadecimal digits. */
  hash: string;
}

/** A path as manifests write it (2.1.3): line ends and per cent signs are percent-encoded. */
const written = (path: string): string =>
  path.replace(/%/g, '%25').replace(/\r/g, '%0D').replace(/\n/g, '%0A');
const readPath = (text: string): string =>
  text.replace(/%0A/gi, '\n').replace(/%0D/gi, '\r').replace(/%25/g, '%');

/** One line of a manifest, with its end. */
export const manifestLine = ({ path, hash }: Omit<ManifestLine, 'line'>): string =>
  `${hash}  ${written(path)}\n`;

/** Why a path can't be one of a bag's files; undefined: it can. What leads out of the bag is never followed (6.1.1). */
export function bagPathFault(path: string): string | undefined {
  if (path === '') return 'It names no file.';
  if (path.includes('\0')) return 'A name holds a character that no name may hold.';
  if (/^([a-z]:|[\\/~])/i.test(path)) return 'It begins outside of the bag.';
  if (path.split('/').some((part) => part === '..')) return 'It leads out of the bag.';
  if (path.split('/').some((part) => part === '' || part === '.')) return 'It isn’t written plainly.';
  return undefined;
}

/** What a text of a bag says, and what is wrong in it: each with its line, from 1. */
export interface Told {
  line: number;
  says: string;
}

/** Reads a manifest line by line. Lines that say nothing usable are told; the rest goes on. */
export function readManifest(text: string, hash: ReadHash): { lines: ManifestLine[]; faults: Told[] } {
  const lines: ManifestLine[] = [];
  const faults: Told[] = [];
  const seen = new Set<string>();
  for (const [at, one] of text.split(/\r\n|\r|\n/).entries()) {
    if (one === '') continue;
    const fault = (says: string) => faults.push({ line: at + 1, says });
    const parts = /^([0-9a-f]+)[ \t]+(?:\*|\.\/)?([^ \t].*)$/i.exec(one);
    if (!parts) {
      fault('The line isn’t a hash with a path.');
      continue;
    }
    const path = readPath(parts[2]!);
    const digits = parts[1]!.toLowerCase();
    const why = bagPathFault(path);
    if (why !== undefined) fault(`“${path}” is left out. ${why}`);
    else if (digits.length !== DIGITS[hash])
      fault(`The hash of “${path}” isn’t one of ${hash.toUpperCase()}.`);
    else if (seen.has(path)) fault(`“${path}” is listed twice.`);
    else {
      seen.add(path);
      lines.push({ line: at + 1, path, hash: digits });
    }
  }
  return { lines, faults };
}

/** bag-info.txt (2.2.2). A label may come several times. */
export const bagInfo = (labels: readonly (readonly [string, string])[]): string =>
  labels
    .map(
      ([label, value]) =>
        `${label}: ${value
          .split(/[\r\n]+/)
          .map((part) => part.trim())
          .join(' ')}\n`,
    )
    .join('');

/** What bag-info.txt or the declaration says. A line that begins with a blank goes on with the one before. */
export function readLabels(text: string): Map<string, string> {
  const labels = new Map<string, string>();
  let last = '';
  for (const one of text.replace(/^\ufeff/, '').split(/\r\n|\r|\n/)) {
    const [, label, value] = /^([^:\s][^:]*):\s?(.*)$/.exec(one) ?? [];
    if (label !== undefined) labels.set((last = label.trim().toLowerCase()), value!.trim());
    else if (last !== '' && /^[ \t]/.test(one)) labels.set(last, `${labels.get(last)!} ${one.trim()}`);
  }
  return labels;
}
