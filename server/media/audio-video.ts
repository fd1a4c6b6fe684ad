import { closeSync, fstatSync, openSync, readSync } from 'node:fs';
import { readFile, writeFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { FILM_LIMIT } from '../limits.ts';

/** What the decoder's program offers of itself (@ffmpeg/core). */
interface Decoder {
  exec: (...args: string[]) => number;
  setLogger: (logger: (line: { message: string }) => void) => void;
  setProgress: (progress: (state: { progress: number }) => void) => void;
  setTimeout: (ms: number) => void;
  reset: () => void;
  FS: {
    createDataFile: (folder: string, name: string, data: Uint8Array, read: boolean, write: boolean) => void;
    lookupPath: (path: string) => { node: { stream_ops: object } };
    readFile: (path: string) => Uint8Array;
    unlink: (path: string) => void;
  };
}

const require = createRequire(import.meta.url);
let wasm: Promise<Buffer> | undefined;

/** The decoder runs as WebAssembly: it has no network and sees no file but the one that is lent to it. */
export async function startDecoder(): Promise<Decoder> {
  const program = require.resolve('@ffmpeg/core');
  wasm ??= readFile(program.replace(/\.js$/, '.wasm'));
  // The program expects to run in a browser's worker.
  Object.assign(globalThis, { self: globalThis, importScripts: () => {}, location: { href: '' } });
  const create = require(program) as (options: object) => Promise<Decoder>;
  const hint = Buffer.from(JSON.stringify({ wasmURL: 'core', workerURL: 'core' })).toString('base64');
  return create({ wasmBinary: await wasm, mainScriptUrlOrBlob: `core#${hint}` });
}

/** A decoder that sees one file as 'input', which is read in place. */
async function withDecoder<T>(file: string, limit: number, work: (decoder: Decoder) => T): Promise<T> {
  const decoder = await startDecoder();
  decoder.setLogger(() => {});
  decoder.setTimeout(limit);
  const handle = openSync(file, 'r');
  try {
    const { size } = fstatSync(handle);
    decoder.FS.createDataFile('/', 'input', new Uint8Array(0), true, false);
    const { node } = decoder.FS.lookupPath('/input');
    Object.defineProperty(node, 'usedBytes', { get: () => size });
    node.stream_ops = {
      ...node.stream_ops,
      read: (_stream: unknown, buffer: Uint8Array, offset: number, length: number, position: number) =>
        readSync(handle, buffer, offset, length, position),
    };
    return work(decoder);
  } finally {
    closeSync(handle);
  }
}
const CAREFUL = ['-hide_banner', '-nostdin', '-protocol_whitelist', 'file'];

/** Runs the decoder over a file and answers what it wrote. Undefined: it could not. */
function decode(file: string, args: readonly string[], out: string): Promise<Uint8Array | undefined> {
  return withDecoder(file, 30_000, (decoder) =>
    decoder.exec(...CAREFUL, ...args, out) === 0 ? decoder.FS.readFile(out) : undefined,
  );
}

/** A frame of a video as PNG: one that says something, from its first hundred frames after a tenth of it (5 s at most). */
export async function posterOf(file: string, duration: number, side: number): Promise<Buffer | undefined> {
  const at = Math.min(5, duration / 10).toFixed(2);
  const scale = `thumbnail=25,scale=${side}:${side}:force_original_aspect_ratio=decrease`;
  const picture =
    (await decode(file, ['-ss', at, '-i', 'input', '-frames:v', '1', '-vf', scale], 'out.png')) ??
    (await decode(file, ['-i', 'input', '-frames:v', '1'], 'out.png'));
  return picture && Buffer.from(picture);
}

/** How many columns a waveform has. */
export const WAVE_COLUMNS = 320;
const WAVE_RATE = 4000;

/** Seconds of a sound that its waveform shows at most. */
export const LONGEST_WAVE = 3600;

/** The loudest sample in each of WAVE_COLUMNS equal parts of a sound, 0 to 1, and how many seconds could be played. */
export async function waveformOf(file: string): Promise<{ wave: number[]; seconds: number } | undefined> {
  const bytes = await decode(
    file,
    ['-i', 'input', '-t', String(LONGEST_WAVE), '-vn', '-ac', '1', '-ar', String(WAVE_RATE), '-f', 's16le'],
    'out.pcm',
  );
  if (!bytes || bytes.byteLength < 2) return undefined;
  const samples = new Int16Array(
    bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + (bytes.byteLength & ~1)),
  );
  const wave = Array.from({ length: WAVE_COLUMNS }, (_, column) => {
    const from = Math.floor((column * samples.length) / WAVE_COLUMNS);
    const to = Math.max(from + 1, Math.floor(((column + 1) * samples.length) / WAVE_COLUMNS));
    let peak = 0;
    for (let i = from; i < to && i < samples.length; i++) peak = Math.max(peak, Math.abs(samples[i]!));
    return peak / 32768;
  });
  return { wave, seconds: samples.length / WAVE_RATE };
}

/** Why a video is left as it is, as the end of a sentence. */
export class FilmLeft extends Error {}

/** Containers that videos are encoded for, as the encoder calls them. */
const CONTAINERS: Record<string, string> = {
  'video/mp4': 'mp4',
  'video/x-m4v': 'mp4',
  'video/quicktime': 'mov',
};
/** Pixels of the longer side that a video keeps. */
const LONGEST_FRAME = 1920;
/** Bits a second that its images take at most, and on the average of a second or two. */
const MOST_BITS = '6M';
/** What is made is held in memory. */
const MOST_SECONDS = 240;

/**
 * A copy of a video with fewer bits: H.264 (ITU-T H.264), at most LONGEST_FRAME pixels wide or high; sound, texts and chapters as they are.
 * @param piece only a part of it, in seconds
 * @param progress 0 to 1
 * @throws FilmLeft when it cannot be encoded here without losing something
 */
export async function shrinkFilm(
  file: string,
  to: string,
  mime: string,
  piece: { from: number; seconds: number } | undefined,
  progress: (share: number) => void,
): Promise<void> {
  const container = CONTAINERS[mime];
  if (!container) throw new FilmLeft('videos of this format are not encoded here');
  const made = await withDecoder(file, FILM_LIMIT, (decoder) => {
    const told = (name: string) => {
      const lines: string[] = [];
      decoder.setLogger(({ message }) => lines.push(message));
      decoder.exec(...CAREFUL, '-i', name);
      decoder.reset();
      decoder.setLogger(() => {});
      return lines.join('\n');
    };
    const facts = told('input');
    const seconds = secondsIn(facts);
    if (seconds === undefined || !/Stream .*: Video: /.test(facts)) throw new FilmLeft('it cannot be read');
    if (/smpte2084|arib-std-b67/.test(facts))
      throw new FilmLeft('its colours are for bright screens and would be others');
    const wanted = piece ? Math.min(piece.seconds, seconds - piece.from) : seconds;
    if (wanted > MOST_SECONDS)
      throw new FilmLeft(
        `it is longer than ${MOST_SECONDS / 60} minutes, which is more than is encoded here`,
      );
    decoder.setProgress(({ progress: share }) => progress(Math.min(1, Math.max(0, share))));
    const side = (name: string) => `'min(${LONGEST_FRAME},${name})'`;
    const code = decoder.exec(
      ...CAREFUL,
      ...['-i', 'input'],
      // Decoded up to there: not every video says rightly where it can be entered.
      ...(piece ? ['-ss', String(piece.from), '-t', String(piece.seconds)] : []),
      ...['-map', '0:v:0', '-map', '0:a?', '-map', '0:s?'],
      ...['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '23', '-maxrate', MOST_BITS, '-bufsize', '12M'],
      ...['-pix_fmt', 'yuv420p', '-vf'],
      `scale=w=${side('iw')}:h=${side('ih')}:force_original_aspect_ratio=decrease:force_divisible_by=2`,
      ...['-c:a', 'copy', '-c:s', 'copy', '-map_metadata', '0', '-movflags', '+faststart'],
      ...['-f', container, 'made'],
    );
    if (code !== 0) throw new FilmLeft('the encoder could not read all of it');
    const after = secondsIn(told('made'));
    if (after === undefined || Math.abs(after - wanted) > 0.2 + wanted / 100)
      throw new FilmLeft('its copy would not be as long as it is');
    return decoder.FS.readFile('made');
  });
  await writeFile(to, made);
}

/** How long a video is, by what the decoder says of it. */
function secondsIn(facts: string): number | undefined {
  const found = /Duration: (\d+):(\d\d):(\d\d(?:\.\d+)?)/.exec(facts);
  return found ? Number(found[1]) * 3600 + Number(found[2]) * 60 + Number(found[3]) : undefined;
}
