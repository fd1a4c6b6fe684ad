import { createHash } from 'node:crypto';
import { createReadStream, readFileSync, statSync } from 'node:fs';
import { open, type FileHandle } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import { fileTypeFromBuffer, fileTypeFromFile } from 'file-type';
import mediaInfoFactory, { type MediaInfo } from 'mediainfo.js';
import sharp from 'sharp';
import { kindOf, mimeOf } from '../../core/address/kinds.ts';
import type { SitePath } from '../../core/address/path.ts';
import type { ItemFacts } from '../../core/media/facts.ts';
import { LIMITS } from '../limits.ts';

/** At most this many pixels a frame are decoded. */
const PIXEL_LIMIT = LIMITS.framePixels;

/** Bytes up to which a file is read whole. */
const AT_ONCE = 4_000_000;

/** Images that are decoded here. Others are kept without preview, or with the one that they carry inside. */
export const DECODED: ReadonlySet<string> = new Set(
  ['jpeg', 'png', 'apng', 'gif', 'webp', 'avif', 'tiff', 'svg+xml', 'bmp', 'vnd.microsoft.icon'].map(
    (type) => `image/${type}`,
  ),
);

/** SHA-256 of a file, streamed. Runs in workers. */
export async function hashFile(file: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(file, { highWaterMark: 1 << 20 }), hash);
  return hash.digest('hex');
}

/** Hashes a media file and measures it by its kind. Never throws for what the file holds: it says so in `unreadable`. */
export async function inspectItem(file: string, path: SitePath): Promise<ItemFacts> {
  // Most images of a site are small: their bytes are read once for all that is asked of them.
  const bytes = statSync(file).size <= AT_ONCE ? readFileSync(file) : undefined;
  const facts: ItemFacts = {
    sha256: bytes ? createHash('sha256').update(bytes).digest('hex') : await hashFile(file),
  };
  const type = await (bytes ? fileTypeFromBuffer(bytes) : fileTypeFromFile(file)).catch(() => {
    facts.unreadable = 'The content could not be recognised: it may be damaged.';
    return undefined;
  });
  if (type) facts.contentMime = type.mime;
  const kind = kindOf(path);
  if (kind === 'image') await measurePicture(file, bytes, path, facts);
  else if (kind === 'video' || kind === 'audio') await measureTimed(file, facts);
  return facts;
}

async function measurePicture(
  file: string,
  bytes: Buffer | undefined,
  path: SitePath,
  facts: ItemFacts,
): Promise<void> {
  try {
    const found = await sharp(bytes ?? file, { limitInputPixels: PIXEL_LIMIT, failOn: 'none' }).metadata();
    const { width, height } = found.autoOrient;
    facts.width = width;
    facts.height = found.pageHeight && found.pages && found.pages > 1 ? found.pageHeight : height;
    // The canvas, which frames may fill in part.
    if (found.format === 'gif') {
      const screen = bytes ?? (await readHeader(file));
      Object.assign(facts, { width: screen.readUInt16LE(6), height: screen.readUInt16LE(8) });
    }
    if (!facts.contentMime && found.format === 'svg') facts.contentMime = mimeOf(path);
  } catch {
    // The image library refuses what it cannot decode; icons and bitmaps say their size in their header.
    const header = await readHeader(file);
    const size = headerSize(header);
    if (size) Object.assign(facts, size);
    else if (DECODED.has(mimeOf(path))) facts.unreadable = 'The image is damaged and can’t be read.';
  }
}

/** Bytes in which an image says its size; those of the HEIF family list tiles before it. */
const HEADER = 65_536;

async function readHeader(file: string): Promise<Buffer> {
  let handle: FileHandle | undefined;
  try {
    handle = await open(file, 'r');
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(HEADER), 0, HEADER, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await handle?.close();
  }
}

/** Pixel size from the header of an icon (largest entry), a bitmap, a layered image, or one of the HEIF family. */
export function headerSize(header: Buffer): { width: number; height: number } | undefined {
  if (header.length >= 26 && header.toString('latin1', 0, 4) === '8BPS')
    return { width: header.readUInt32BE(18), height: header.readUInt32BE(14) };
  if (header.length >= 12 && /^ftyp(?:hei|mif1|msf1)/.test(header.toString('latin1', 4, 12)))
    return heifSize(header);
  if (header.length >= 26 && header.toString('latin1', 0, 2) === 'BM') {
    return { width: Math.abs(header.readInt32LE(18)), height: Math.abs(header.readInt32LE(22)) };
  }
  if (header.length >= 22 && header.readUInt16LE(0) === 0 && [1, 2].includes(header.readUInt16LE(2))) {
    let best = { width: 0, height: 0 };
    const count = header.readUInt16LE(4);
    for (let i = 0; i < count && 6 + 16 * i + 2 <= header.length; i++) {
      const width = header[6 + 16 * i]! || 256;
      const height = header[7 + 16 * i]! || 256;
      if (width * height > best.width * best.height) best = { width, height };
    }
    return best.width > 0 ? best : undefined;
  }
  return undefined;
}

/** ISO 23008-12: the largest of the sizes that stand among a image's properties (others are of its tiles and previews), as it is turned. */
function heifSize(header: Buffer): { width: number; height: number } | undefined {
  let best = { width: 0, height: 0 };
  for (
    let at = header.indexOf('ispe');
    at >= 0 && at + 16 <= header.length;
    at = header.indexOf('ispe', at + 4)
  ) {
    const [width, height] = [header.readUInt32BE(at + 8), header.readUInt32BE(at + 12)];
    if (width * height > best.width * best.height) best = { width, height };
  }
  if (best.width === 0) return undefined;
  const turn = header.indexOf('irot');
  const turned = turn >= 0 && turn + 4 < header.length && header[turn + 4]! % 2 === 1;
  return turned ? { width: best.height, height: best.width } : best;
}

/** Seconds of a WAV from what is there: its header may say anything. Undefined: it has no samples that could be found. */
async function wavSeconds(handle: FileHandle, size: number): Promise<number | undefined> {
  const head = Buffer.alloc(24);
  let rate = 0;
  for (let at = 12, seen = 0; at + 8 <= size && seen < 1000; seen++) {
    await handle.read(head, 0, 24, at);
    const name = head.toString('latin1', 0, 4);
    const length = head.readUInt32LE(4);
    if (name === 'fmt ') rate = head.readUInt32LE(16);
    if (name === 'data') {
      // Recorders that never came back leave 0 or all ones.
      const told = length === 0 || length === 0xffffffff ? Infinity : length;
      return rate > 0 ? Math.min(told, size - at - 8) / rate : undefined;
    }
    at += 8 + length + (length % 2);
  }
  return undefined;
}

let mediaInfo: Promise<MediaInfo<'object'>> | undefined;

async function measureTimed(file: string, facts: ItemFacts): Promise<void> {
  const handle = await open(file, 'r');
  try {
    const { size } = await handle.stat();
    mediaInfo ??= mediaInfoFactory({ format: 'object' });
    const info = await (
      await mediaInfo
    ).analyzeData(size, async (length, offset) => {
      const { buffer, bytesRead } = await handle.read(new Uint8Array(length), 0, length, offset);
      return buffer.subarray(0, bytesRead);
    });
    const tracks = info.media?.track ?? [];
    for (const track of tracks) {
      if (track['@type'] === 'General' && track.Duration) facts.duration = Number(track.Duration);
      if (track['@type'] === 'Video') {
        const turned = ['90', '270'].includes(String(Math.round(Math.abs(Number(track.Rotation ?? 0)))));
        const [width, height] = [Number(track.Width), Number(track.Height)];
        if (width && height)
          Object.assign(facts, turned ? { width: height, height: width } : { width, height });
      }
    }
    if (/wav/.test(facts.contentMime ?? ''))
      facts.duration = (await wavSeconds(handle, size)) ?? facts.duration ?? 0;
    const codecs = tracks.filter((track) => track['@type'] !== 'General' && track.Format);
    if (codecs.length > 0) facts.codecs = codecs.map((track) => track.Format).join(', ');
    if (tracks.length < 2)
      facts.unreadable = 'No image or sound track was found in the file: it may be damaged.';
  } catch {
    facts.unreadable = 'The video or sound could not be read: it may be damaged.';
  } finally {
    await handle.close();
  }
}
