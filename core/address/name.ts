import { trim } from '../text/cut.ts';
import { withoutLatinMarks } from '../text/latin.ts';
import { extensionOf, stemOf } from './path.ts';

/** Why a file name says little to visitors and search engines. 'rule': it does not follow its folder's pattern. */
export const NAME_FAULTS = [
  'camera',
  'no-words',
  'spaces',
  'upper-case',
  'characters',
  'low-lines',
  'long',
  'stuffed',
  'rule',
] as const;
export type NameFault = (typeof NAME_FAULTS)[number];
/** Characters of a name without its extension beyond which nobody reads it. */
const LONG = 80;

/** Names that cameras, phones and programs give: a prefix or a date, and a number. */
const CAMERA = [
  /^(img|dsc[nf]?|dscn|p|pict|pic|image|photo|foto|bild|mvi|mov|vid|video|gopr|dji|cimg|sam|hpim|kodak|scan|snap)[-_ ]?\(?\d{2,}\)?([-_ ~(]\d+\)?)?$/i,
  /^(img|vid|pxl|mvimg|wp|photo)[-_]?\d{8}[-_]\w*$/i,
  /^_?(dsc|mg|igp|dsf)[a-z]?_?\d{3,}$/i,
  /^(screenshot|screen[-_ ]shot|bildschirmfoto|capture|aufnahme|untitled|unbenannt|image|scan|download)[\d.:()at _-]*$/i,
  /^\d{8}[-_]\d{4,}$/,
];

/** Three Latin letters; two of other scripts, whose vowels are marks; one where a sign is a syllable or a word. */
const WORD =
  /\p{L}{3}|(?:(?!\p{Script=Latin})[\p{L}\p{M}]){2}|[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Hangul}]/u;
/** What joins or parts the letters of a word in scripts that are written together (Persian, Hindi), between two of them. */
const JOINERS = /(?<=[\p{L}\p{M}])[\u200c\u200d](?=[\p{L}\p{M}])/gu;

/** The same elsewhere: nobody sees them, and two names would look alike. */
const STRAY_JOINERS =
  /(?<![\p{L}\p{M}])[\u200c\u200d]|[\u200c\u200d](?![\p{L}\p{M}])|(?<=\p{Script=Latin})[\u200c\u200d]/gu;

/** What is wrong with a file name, the worst first; empty when it is made of words (lower case, hyphens). */
export function nameFaults(name: string): NameFault[] {
  const stem = stemOf(name);
  const faults: NameFault[] = [];
  if (CAMERA.some((pattern) => pattern.test(stem))) faults.push('camera');
  else if (!WORD.test(stem) || /^[0-9a-f]{16,}$/i.test(stem)) faults.push('no-words');
  if (/\s/.test(name)) faults.push('spaces');
  if (name !== name.toLowerCase()) faults.push('upper-case');
  if (/[^\p{L}\p{N}\p{M}\s._@-]/u.test(name.replace(JOINERS, ''))) faults.push('characters');
  const words = stem.toLowerCase().split(/[^\p{L}\p{N}\p{M}]+/u);
  // 'open_night': search engines read one word. A camera's own low line is told as such.
  if (/\p{L}_+\p{L}/u.test(stem) && !faults.includes('camera')) faults.push('low-lines');
  if (stem.length > LONG) faults.push('long');
  if (words.some((word) => /\p{L}{3}/u.test(word) && words.filter((one) => one === word).length > 2))
    faults.push('stuffed');
  return faults;
}

export const NAME_FAULT_TEXTS: Record<NameFault, string> = {
  camera: 'This is a camera or app file name.',
  'no-words': 'The name has no readable words.',
  spaces: 'The name has spaces, which appear as %20 in addresses.',
  'upper-case': 'The name has capital letters. Many servers treat them as different names.',
  characters: 'The name has characters that must be encoded in addresses.',
  'low-lines': 'Words are joined by underscores, so search engines read them as one word. Use hyphens.',
  long: `The name is longer than ${LONG} characters.`,
  stuffed: 'The name repeats a word. Search engines penalise that.',
  rule: 'The name doesn’t follow its folder’s pattern.',
};

const FOLDED: Record<string, string> = { ß: 'ss', æ: 'ae', œ: 'oe', ø: 'o', đ: 'd', ł: 'l', þ: 'th', ı: 'i' };

/**
 * A name made of words from any text: lower case, without marks on Latin letters, words joined by hyphens, the extension kept in
 * lower case; at most 120 characters. Letters of other scripts stay. 'file' when nothing is left.
 */
export function cleanName(name: string): string {
  const extension = extensionOf(name).replace(/[^\p{L}\p{N}.]/gu, '');
  const stem = stemOf(name).normalize('NFKC').toLowerCase();
  const words = withoutLatinMarks(stem)
    .replace(/[ßæœøđłþı]/g, (char) => FOLDED[char]!)
    .replace(/&/g, ' and ')
    .replace(/['’]/g, '')
    .replace(/[^\p{L}\p{N}\p{M}\u200c\u200d]+/gu, '-');
  const trimmed = trim(trim(words, '-').slice(0, LONGEST_NAME - extension.length), '-', 'end');
  return (isReserved(trimmed) ? `${trimmed}-file` : trimmed || 'file') + extension;
}

/** Faults of a folder's name: those that make its address hard to read or to type. What it is called is the person's own. */
export function folderNameFaults(name: string): NameFault[] {
  return nameFaults(name).filter((one) => ['spaces', 'upper-case', 'characters', 'low-lines'].includes(one));
}

/** Characters that a name may have at most, with its extension. */
export const LONGEST_NAME = 120;

/** Device names that some systems reserve, with any extension. */
export function isReserved(stem: string): boolean {
  return /^(con|prn|aux|nul|com\d|lpt\d)$/i.test(stem);
}

/** Dots, and all that counts as white space. */
const DOTS_AND_SPACES =
  '. \t\n\v\f\r\u00a0\u1680\u2000\u2001\u2002\u2003\u2004\u2005\u2006\u2007\u2008\u2009\u200a\u2028\u2029\u202f\u205f\u3000\ufeff';

/**
 * A safe name as close to the given one as possible, for a file that arrives: NFC, no control or direction marks, no
 * separators, no leading dot or dash, no trailing dot or space, not reserved, at most 120 characters.
 */
export function safeName(given: string): string {
  const plain = given
    .normalize('NFC')
    // eslint-disable-next-line no-control-regex
    .replace(/[\u0000-\u001f\u007f-\u009f\u200b\u200e\u200f\u202a-\u202e\u2060-\u2069\ufeff]/g, '')
    .replace(STRAY_JOINERS, '')
    .replace(/[\\/:*?"<>|]/g, '-');
  const flat = trim(plain, DOTS_AND_SPACES, 'end');
  const extension = extensionOf(flat);
  let stem = flat.slice(0, flat.length - extension.length).replace(/^[.\-\s]+/, '');
  if (isReserved(stem)) stem += '-file';
  while (
    stem.length > 0 &&
    (stem.length + extension.length > LONGEST_NAME || new TextEncoder().encode(stem).length > 200)
  ) {
    stem = Array.from(stem).slice(0, -1).join('');
  }
  return (stem.trimEnd() || 'file') + extension;
}

/** The name with a number before its extension: 'dome.jpg', 2 -> 'dome-2.jpg'. */
export function numberedName(name: string, number: number): string {
  const stem = stemOf(name);
  return `${stem}-${number}${name.slice(stem.length)}`;
}
