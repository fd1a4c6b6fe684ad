import { closeSync, fstatSync, openSync, readSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';

/** What the decoder's program offers of itself (@ffmpeg/core). */
interface Decoder {
  exec: (...args: string[]) => number;
  setLogger: (logger: (line: { message: string }) => void) => void;
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
async function startDecoder(): Promise<Decoder> {
  const program = require.resolve('@ffmpeg/core');
  wasm ??= readFile(program.replace(/\.js$/, '.wasm'));
  // The program expects to run in a browser's worker.
  Object.assign(globalThis, { self: globalThis, importScripts: () => {}, location: { href: '' } });
  const create = require(program) as (options: object) => Promise<Decoder>;
  const hint = Buffer.from(JSON.stringify({ wasmURL: 'core', workerURL: 'core' })).toString('base64');
  return create({ wasmBinary: await wasm, mainScriptUrlOrBlob: `core#${hint}` });
}

/** Runs the decoder over a file, which is read in place, and answers what it wrote. Undefined: it could not. */
async function decode(file: string, args: readonly string[], out: string): Promise<Uint8Array | undefined> {
  const decoder = await startDecoder();
  decoder.setLogger(() => {});
  decoder.setTimeout(30_000);
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
    const code = decoder.exec('-hide_banner', '-nostdin', '-protocol_whitelist', 'file', ...args, out);
    return code === 0 ? decoder.FS.readFile(out) : undefined;
  } finally {
    closeSync(handle);
  }
}

/** A frame of a film as PNG: one that says something, from its first hundred frames after a tenth of it (5 s at most). */
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
