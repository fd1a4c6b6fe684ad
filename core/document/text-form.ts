/**
 * How a text lies in its file: its encoding and the ends of its lines. A text is edited as characters with line feeds; written back, every
 * line that is still there keeps its own end, and the file its encoding.
 */
import { diffArrays } from 'diff';

export const ENCODINGS = ['utf-8', 'utf-16le', 'utf-16be', 'windows-1252'] as const;
export type Encoding = (typeof ENCODINGS)[number];
export const LINE_ENDS = ['\n', '\r\n', '\r'] as const;
export type LineEnd = (typeof LINE_ENDS)[number];

export interface TextForm {
  encoding: Encoding;
  /** It begins with a byte order mark. */
  mark: boolean;
  /** The end that most lines have, which new lines get. */
  lineEnd: LineEnd;
  /** Lines have different ends. */
  mixed: boolean;
}
export interface FormedText extends TextForm {
  /** With line feeds only, and without the mark. */
  text: string;
}

/** Why bytes are no text, or a text can't be written in an encoding. */
export class NoText extends Error {}

const UTF_16: Record<'utf-16le' | 'utf-16be', [number, number]> = {
  'utf-16le': [0xff, 0xfe],
  'utf-16be': [0xfe, 0xff],
};

/** Reads bytes as text: by their mark, else as UTF-8, else as windows-1252 (as the Encoding standard has it for the West). @throws NoText */
export function readText(bytes: Uint8Array): FormedText {
  const { encoding, mark } = encodingOf(bytes);
  const whole = decode(bytes, encoding);
  const raw = mark ? whole.slice(1) : whole;
  if (raw.includes('\0')) throw new NoText('It holds zero bytes, so it isn’t text.');
  const count = { '\n': 0, '\r\n': 0, '\r': 0 };
  for (const [end] of raw.matchAll(/\r\n|\n|\r/g)) count[end as LineEnd]++;
  const lineEnd = LINE_ENDS.reduce((best, one) => (count[one] > count[best] ? one : best), '\n' as LineEnd);
  return {
    encoding,
    mark,
    lineEnd,
    mixed: LINE_ENDS.filter((one) => count[one] > 0).length > 1,
    text: raw.replace(/\r\n?/g, '\n'),
  };
}

/** Encodings whose bytes read alike here, by the names that HTML gives them (Encoding standard, 4.2). */
const LIKE_1252 = new Set(['windows-1252', 'cp1252', 'iso-8859-1', 'latin1', 'l1', 'ascii', 'us-ascii']);

/**
 * The encoding that a page in HTML says it has, where that is another one than it would be read and written in: what is typed would come out as
 * other characters. Undefined: there is none such.
 */
export function otherEncoding({ encoding, text }: FormedText): string | undefined {
  if (encoding !== 'windows-1252') return undefined;
  const said = /<meta[^>]+charset[\s=]*["']?([\w-]+)/i.exec(text.slice(0, 2048))?.[1]?.toLowerCase();
  return said === undefined || LIKE_1252.has(said) ? undefined : said;
}

function encodingOf(bytes: Uint8Array): { encoding: Encoding; mark: boolean } {
  for (const encoding of ['utf-16le', 'utf-16be'] as const) {
    const [first, second] = UTF_16[encoding];
    if (bytes[0] === first && bytes[1] === second) return { encoding, mark: true };
  }
  const mark = bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf;
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes);
    return { encoding: 'utf-8', mark };
  } catch {
    // Not UTF-8: every row of bytes is windows-1252.
    return { encoding: 'windows-1252', mark: false };
  }
}

/**
 * A text in the form of the bytes that it comes from: lines that are still there keep the ends that they had.
 * @param text with line feeds
 * @throws NoText when the encoding has no such character
 */
export function writeText(before: Uint8Array, text: string): Uint8Array {
  const { encoding, mark, lineEnd, mixed } = readText(before);
  let ended = text;
  if (mixed) ended = withEnds(before, text, lineEnd);
  else if (lineEnd !== '\n') ended = text.replace(/\n/g, lineEnd);
  return encode(`${mark ? '\ufeff' : ''}${ended}`, encoding);
}

/** Each line with its own end, where lines of a text have different ones. */
function withEnds(before: Uint8Array, text: string, lineEnd: LineEnd): string {
  const raw = decode(before, readText(before).encoding);
  // Words and ends in turns.
  const parts = raw.split(/(\r\n|\n|\r)/);
  const old = Array.from({ length: (parts.length + 1) / 2 }, (_, at) => ({
    words: parts[2 * at]!,
    end: parts[2 * at + 1] ?? '',
  }));
  const now = text.split('\n').map((words) => ({ words, end: '' }));
  const written: string[] = [];
  let at = 0;
  for (const { added, removed, value } of diffArrays(old, now, {
    comparator: (a, b) => a.words === b.words,
  })) {
    if (removed) at += value.length;
    else for (const { words } of value) written.push(`${words}${(added ? '' : old[at++]?.end) || lineEnd}`);
  }
  const whole = written.join('');
  // The last of the lines that were split at line feeds has none.
  return whole.replace(/(?:\r\n|\n|\r)$/, '');
}

function encode(text: string, encoding: Encoding): Uint8Array {
  if (encoding === 'utf-8') return new TextEncoder().encode(text);
  if (encoding === 'windows-1252') return encode1252(text);
  const bytes = new Uint8Array(2 * text.length);
  const view = new DataView(bytes.buffer);
  for (let at = 0; at < text.length; at++)
    view.setUint16(2 * at, text.charCodeAt(at), encoding === 'utf-16le');
  return bytes;
}

/** What the bytes 80 to 9F mean in windows-1252 (Encoding standard, index windows-1252); not every runtime's decoder knows. */
const ABOVE_80 = '€\x81‚ƒ„…†‡ˆ‰Š‹Œ\x8dŽ\x8f\x90‘’“”•–—˜™š›œ\x9džŸ';
const IN_1252 = new Map(
  Array.from({ length: 256 }, (_, code) => [
    code >= 0x80 && code <= 0x9f ? ABOVE_80[code - 0x80]! : String.fromCharCode(code),
    code,
  ]),
);

/** Bytes of windows-1252 as text. */
export const decode1252 = (bytes: Uint8Array): string =>
  new TextDecoder('latin1')
    .decode(bytes)
    .replace(/[\x80-\x9f]/g, (char) => ABOVE_80[char.charCodeAt(0) - 0x80]!);

const decode = (bytes: Uint8Array, encoding: Encoding): string =>
  encoding === 'windows-1252'
    ? decode1252(bytes)
    : new TextDecoder(encoding, { ignoreBOM: true }).decode(bytes);

function encode1252(text: string): Uint8Array {
  const codes: number[] = [];
  for (const char of text) {
    const code = IN_1252.get(char);
    if (code === undefined)
      throw new NoText(`The file is in the encoding windows-1252, which has no “${char}”.`);
    codes.push(code);
  }
  return Uint8Array.from(codes);
}
