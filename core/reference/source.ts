/**
 * A text file as its bytes, with one character per byte.
 *
 * All syntax of HTML, CSS, XML and Markdown is ASCII, so the parsers are given the bytes as Latin-1: each
 * character is one byte and every offset they report is a byte offset, also behind multi-byte text, a BOM or
 * CRLF. Text between two offsets is decoded by the file's real encoding only when it is needed.
 */
export interface Source {
  readonly bytes: Uint8Array;
  /** One character (U+0000 to U+00FF) for each byte. */
  readonly raw: string;
  readonly encoding: 'utf-8' | 'windows-1252';
  /** Number of bytes of a byte order mark at the start (0 or 3). */
  readonly bom: number;
}

const strictUtf8 = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });
const looseUtf8 = new TextDecoder('utf-8', { fatal: false, ignoreBOM: true });
const windows1252 = new TextDecoder('windows-1252', { ignoreBOM: true });

/** What windows-1252 makes of the bytes 80 to 9F, so that it can be undone. */
const FROM_1252 = new Map(
  Array.from(
    { length: 32 },
    (_, i) => [windows1252.decode(Uint8Array.of(0x80 + i)), String.fromCharCode(0x80 + i)] as const,
  ),
);

/** The raw string of bytes: one character per byte. */
export function rawOf(bytes: Uint8Array): string {
  // The platform's own decoder is many times faster than a loop; windows-1252 is Latin-1 but for 32 characters.
  const text = windows1252.decode(bytes);
  return /[\u0100-\uffff]/.test(text)
    ? text.replace(/[\u0100-\uffff]/g, (char) => FROM_1252.get(char)!)
    : text;
}

/** The bytes of a raw string; the inverse of rawOf. Throws RangeError on a character above U+00FF. */
export function bytesOf(raw: string): Uint8Array {
  const bytes = new Uint8Array(raw.length);
  for (let at = 0; at < raw.length; at++) {
    const code = raw.charCodeAt(at);
    if (code > 0xff) throw new RangeError(`not a raw string: U+${code.toString(16)} at ${at}`);
    bytes[at] = code;
  }
  return bytes;
}

/**
 * Reads bytes as text. Answers why not when they are not text in an ASCII-compatible encoding
 * (UTF-16 or a NUL byte): such a file is searched for names as it is and never rewritten.
 *
 * Encoding: BOM, then what the file declares (WHATWG names; every single-byte Western label means windows-1252,
 * as in the Encoding standard), then UTF-8 if the bytes are valid UTF-8, else windows-1252.
 */
export function readSource(bytes: Uint8Array): Source | { unread: string } {
  if ((bytes[0] === 0xff && bytes[1] === 0xfe) || (bytes[0] === 0xfe && bytes[1] === 0xff)) {
    return { unread: 'The file is UTF-16. It is searched for names, but not parsed or rewritten.' };
  }
  if (bytes.includes(0)) return { unread: 'The file holds NUL bytes, so it is not text.' };
  const bom = bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf ? 3 : 0;
  const raw = rawOf(bytes);
  return { bytes, raw, bom, encoding: bom ? 'utf-8' : encodingOf(bytes, raw) };
}

function encodingOf(bytes: Uint8Array, raw: string): Source['encoding'] {
  const declared = /(?:charset|encoding)[\s=][\s="']*([\w-]+)/i.exec(raw.slice(0, 2048))?.[1]?.toLowerCase();
  if (declared && /^(iso-8859-1|latin1|windows-1252|cp1252|us-ascii|ascii|x-cp1252|l1)$/.test(declared)) {
    return 'windows-1252';
  }
  if (declared === 'utf-8' || declared === 'utf8') return 'utf-8';
  try {
    strictUtf8.decode(bytes);
    return 'utf-8';
  } catch {
    // TextDecoder answers "not valid UTF-8" by throwing; the bytes are then single-byte text.
    return 'windows-1252';
  }
}

/** Decodes part of a raw string by the source's encoding. */
export function decodeRaw(encoding: Source['encoding'], raw: string): string {
  if (!/[\u0080-\u00ff]/.test(raw)) return raw;
  return (encoding === 'utf-8' ? looseUtf8 : windows1252).decode(bytesOf(raw));
}

/** Offsets of line starts, for lineAt. Lines end at LF, CR or CRLF. */
export function lineStarts(raw: string): Uint32Array {
  const starts: number[] = [0];
  if (!raw.includes('\r')) {
    for (let at = raw.indexOf('\n'); at >= 0; at = raw.indexOf('\n', at + 1)) starts.push(at + 1);
    return Uint32Array.from(starts);
  }
  for (let at = 0; at < raw.length; at++) {
    const code = raw.charCodeAt(at);
    if (code === 10 || (code === 13 && raw.charCodeAt(at + 1) !== 10)) starts.push(at + 1);
  }
  return Uint32Array.from(starts);
}

/** The line (from 1) that holds a byte offset. */
export function lineAt(starts: Uint32Array, offset: number): number {
  let low = 0;
  let high = starts.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (starts[middle]! <= offset) low = middle;
    else high = middle - 1;
  }
  return low + 1;
}
