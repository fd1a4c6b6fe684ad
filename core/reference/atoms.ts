import { decodeHTMLAttribute, decodeHTML } from 'entities';
import { bytesOf, decodeRaw, type Source } from './source.ts';

/**
 * The smallest piece of source that stands for something: a byte, a multi-byte character, a character
 * reference, an escape. `text` is what it stands for; start and end are byte offsets in the file.
 */
export interface Atom {
  text: string;
  start: number;
  end: number;
}

export function textOf(atoms: readonly Atom[]): string {
  let text = '';
  for (const atom of atoms) text += atom.text;
  return text;
}

/** One atom for each character of the source between two byte offsets. */
export function charAtoms(source: Pick<Source, 'raw' | 'encoding'>, start: number, end: number): Atom[] {
  const atoms: Atom[] = [];
  for (let at = start; at < end;) {
    const length = Math.min(source.encoding === 'utf-8' ? sequenceLength(source.raw, at) : 1, end - at);
    const raw = source.raw.slice(at, at + length);
    atoms.push({ text: decodeRaw(source.encoding, raw), start: at, end: at + length });
    at += length;
  }
  return atoms;
}

/** Length in bytes of the well-formed UTF-8 sequence at an offset; 1 for a stray byte. */
function sequenceLength(raw: string, at: number): number {
  const lead = raw.charCodeAt(at);
  const length = lead < 0xc2 ? 1 : lead < 0xe0 ? 2 : lead < 0xf0 ? 3 : lead < 0xf5 ? 4 : 1;
  for (let i = 1; i < length; i++) {
    if ((raw.charCodeAt(at + i) & 0xc0) !== 0x80) return 1;
  }
  return length;
}

/** Joins the atoms of each match of `pattern` (global) into one atom whose text `decode` gives. */
function joinMatches(
  atoms: Atom[],
  pattern: RegExp,
  decode: (match: string, next: string) => { text: string; length: number } | undefined,
): Atom[] {
  const text = textOf(atoms);
  pattern.lastIndex = 0;
  if (!pattern.test(text)) return atoms;
  const joined: Atom[] = [];
  let index = 0; // into atoms
  let offset = 0; // of atoms[index] in text
  pattern.lastIndex = 0;
  for (let match = pattern.exec(text); match; match = pattern.exec(text)) {
    const decoded = decode(match[0], text[match.index + match[0].length] ?? '');
    if (!decoded) continue;
    while (offset < match.index) {
      joined.push(atoms[index]!);
      offset += atoms[index++]!.text.length;
    }
    const start = atoms[index]!.start;
    let end = start;
    const stop = match.index + decoded.length;
    while (offset < stop) {
      end = atoms[index]!.end;
      offset += atoms[index++]!.text.length;
    }
    joined.push({ text: decoded.text, start, end });
    pattern.lastIndex = stop;
  }
  return joined.concat(atoms.slice(index));
}

/** Character references in an attribute value (HTML standard, "character reference state" in attributes). */
export function attributeAtoms(atoms: Atom[]): Atom[] {
  return joinMatches(atoms, /&(?:#[xX]?[0-9a-fA-F]+;?|[a-zA-Z][a-zA-Z0-9]*;?)/g, (match, next) => {
    const after = /[=a-zA-Z0-9]/.test(next) ? next : '';
    const decoded = decodeHTMLAttribute(match + after);
    const text = after ? decoded.slice(0, -1) : decoded;
    return text === match ? undefined : { text, length: match.length };
  });
}

/** Escapes in CSS strings and url() (CSS Syntax Level 3, "consume an escaped code point"). */
export function cssAtoms(atoms: Atom[]): Atom[] {
  return joinMatches(atoms, /\\(?:([0-9a-fA-F]{1,6})(?:\r\n|[ \t\n\r\f])?|\r\n|[\s\S])/g, (match) => {
    const hex = /^\\([0-9a-fA-F]+)/.exec(match)?.[1];
    if (hex) {
      const code = parseInt(hex, 16);
      const bad = code === 0 || code > 0x10ffff || (code >= 0xd800 && code <= 0xdfff);
      return { text: bad ? '\ufffd' : String.fromCodePoint(code), length: match.length };
    }
    return { text: /^\\[\r\n\f]/.test(match) ? '' : match.slice(1), length: match.length };
  });
}

/** Backslash escapes and character references in Markdown (CommonMark 2.4 and 2.5). */
export function markdownAtoms(atoms: Atom[]): Atom[] {
  return joinMatches(
    atoms,
    /\\[!-/:-@[-`{-~]|&(?:#[xX]?[0-9a-fA-F]{1,7}|[a-zA-Z][a-zA-Z0-9]*);/g,
    (match) => {
      const text = match[0] === '\\' ? match.slice(1) : decodeHTML(match);
      return text === match ? undefined : { text, length: match.length };
    },
  );
}

const ESCAPES: Record<string, string> = {
  '0': '\0',
  a: '\x07',
  b: '\b',
  e: '\x1b',
  f: '\f',
  n: '\n',
  N: '\x85',
  r: '\r',
  t: '\t',
  v: '\v',
  _: '\xa0',
};

/** Escapes in strings in double quotes: JSON (RFC 8259, 7), and what YAML 1.2 (5.7) and TOML add. */
export function escapedAtoms(atoms: Atom[]): Atom[] {
  return joinMatches(atoms, /\\(?:u[0-9a-fA-F]{4}|x[0-9a-fA-F]{2}|U[0-9a-fA-F]{8}|[\s\S])/g, (match) => {
    const code = match.length > 2 ? parseInt(match.slice(2), 16) : undefined;
    if (code !== undefined && code > 0x10ffff) return undefined;
    // Half of a surrogate pair stands for itself: joined with the other half, the text is whole again.
    const text =
      code === undefined
        ? (ESCAPES[match[1]!] ?? match[1]!)
        : code > 0xffff
          ? String.fromCodePoint(code)
          : String.fromCharCode(code);
    return { text, length: match.length };
  });
}

/** Quotes written twice inside single quotes (YAML 1.2, 7.3.2). */
export function singleQuotedAtoms(atoms: Atom[]): Atom[] {
  return joinMatches(atoms, /''/g, (match) => ({ text: "'", length: match.length }));
}

/** Where each text offset of the joined atoms lies in the file: result[i] is the start byte of text offset i. */
export function offsetsOf(atoms: readonly Atom[], end: number): Uint32Array {
  const offsets: number[] = [];
  for (const atom of atoms) for (let i = 0; i < atom.text.length; i++) offsets.push(atom.start);
  offsets.push(end);
  return Uint32Array.from(offsets);
}

/** A raw string for text that is about to be parsed again (srcdoc, style attribute): UTF-8 bytes of the text. */
export function rawFromText(text: string): string {
  let raw = '';
  for (const byte of new TextEncoder().encode(text)) raw += String.fromCharCode(byte);
  return raw;
}

export { bytesOf };
