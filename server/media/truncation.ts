import { open, type FileHandle } from 'node:fs/promises';

/**
 * Whether a file ends before its own structure says it does, for containers that decoders read to the point of the cut
 * without a complaint. Undefined reading (a live recording of unknown length) counts as whole. Runs in workers.
 * @param mime of its content
 */
export async function endsTooEarly(file: string, mime: string): Promise<boolean> {
  const check = CHECKS.find(([types]) => types.test(mime))?.[1];
  if (!check) return false;
  const handle = await open(file, 'r');
  try {
    return await check(new Reader(handle, (await handle.stat()).size), mime);
  } finally {
    await handle.close();
  }
}

/** Reads numbers at places in a file; what lies behind its end reads as zero. */
class Reader {
  constructor(
    private readonly handle: FileHandle,
    readonly size: number,
  ) {}

  async bytes(at: number, length: number): Promise<Buffer> {
    const buffer = Buffer.alloc(length);
    if (at < this.size) await this.handle.read(buffer, 0, length, at);
    return buffer;
  }
  async text(at: number, length: number): Promise<string> {
    return (await this.bytes(at, length)).toString('latin1');
  }
  async u32(at: number): Promise<number> {
    return (await this.bytes(at, 4)).readUInt32BE(0);
  }
  async u32le(at: number): Promise<number> {
    return (await this.bytes(at, 4)).readUInt32LE(0);
  }
}

/** ISO/IEC 14496-12 and its relatives: boxes that follow each other to the end; videos and sounds have their index. */
async function boxes(file: Reader, mime: string): Promise<boolean> {
  const needsIndex = /^(video|audio)/.test(mime);
  let at = 0;
  let indexed = false;
  while (at + 8 <= file.size) {
    const header = await file.bytes(at, 16);
    let length = header.readUInt32BE(0);
    if (length === 1) length = Number(header.readBigUInt64BE(8));
    if (header.toString('latin1', 4, 8) === 'moov') indexed = true;
    if (length === 0) return needsIndex && !indexed;
    if (length < 8) return true;
    at += length;
  }
  return at !== file.size || (needsIndex && !indexed);
}

/** RIFF: the length after its first four letters; 0 and all ones are written by recorders that never came back. */
async function riff(file: Reader): Promise<boolean> {
  const length = await file.u32le(4);
  return length !== 0 && length !== 0xffffffff && length + 8 > file.size;
}

/** AIFF: as RIFF, the large end first. */
async function aiff(file: Reader): Promise<boolean> {
  return (await file.u32(4)) + 8 > file.size;
}

/** EBML (RFC 8794): the segment behind the header says how long it is, or that it does not know. */
async function ebml(file: Reader): Promise<boolean> {
  const sizeAt = async (at: number) => {
    const bytes = await file.bytes(at, 8);
    const width = Math.clz32(bytes[0]!) - 23;
    if (width < 1 || width > 8) return { width: 1, value: undefined };
    let value = BigInt(bytes[0]! & (0xff >> width));
    for (let i = 1; i < width; i++) value = (value << 8n) | BigInt(bytes[i]!);
    return { width, value: value === (1n << BigInt(7 * width)) - 1n ? undefined : Number(value) };
  };
  const header = await sizeAt(4);
  if (header.value === undefined) return false;
  const segment = 4 + header.width + header.value;
  if ((await file.u32(segment)) !== 0x18538067) return false;
  const { width, value } = await sizeAt(segment + 4);
  return value !== undefined && segment + 4 + width + value > file.size;
}

/** Ogg (RFC 3533): the last page is whole. */
async function ogg(file: Reader): Promise<boolean> {
  // A page is at most 65,307 bytes long.
  const start = Math.max(0, file.size - 65_536);
  const tail = await file.bytes(start, file.size - start);
  const page = tail.lastIndexOf('OggS', undefined, 'latin1');
  if (page < 0 || page + 27 > tail.length) return true;
  const segments = tail[page + 26]!;
  let length = 27 + segments;
  for (let i = 0; i < segments; i++) length += tail[page + 27 + i] ?? 255;
  return page + length > tail.length;
}

/** Windows bitmap: rows of pixels, when they are not compressed. */
async function bitmap(file: Reader): Promise<boolean> {
  const head = await file.bytes(0, 54);
  if (head.readUInt32LE(14) < 40 || head.readUInt32LE(30) !== 0) return false;
  const row = Math.floor((head.readUInt16LE(28) * Math.abs(head.readInt32LE(18)) + 31) / 32) * 4;
  return head.readUInt32LE(10) + row * Math.abs(head.readInt32LE(22)) > file.size;
}

/** Icons and cursors: each entry says where it lies. Also true for what is no icon at all. */
async function icon(file: Reader): Promise<boolean> {
  const count = (await file.bytes(4, 2)).readUInt16LE(0);
  for (let i = 0; i < count; i++) {
    const entry = await file.bytes(6 + 16 * i, 16);
    const length = entry.readUInt32LE(8);
    if (length === 0 || entry.readUInt32LE(12) + length > file.size) return true;
  }
  return count === 0;
}

/** Layered images: three parts that say their length, then the image itself. */
async function layered(file: Reader): Promise<boolean> {
  let at = 26;
  const wide = (await file.bytes(5, 1))[0] === 2;
  for (const part of ['colours', 'resources', 'layers'])
    at +=
      part === 'layers' && wide
        ? 8 + Number((await file.bytes(at, 8)).readBigUInt64BE(0))
        : 4 + (await file.u32(at));
  const head = await file.bytes(0, 26);
  const [channels, height, width] = [head.readUInt16BE(12), head.readUInt32BE(14), head.readUInt32BE(18)];
  const compression = (await file.bytes(at, 2)).readUInt16BE(0);
  if (compression === 0) return at + 2 + channels * height * width * (head.readUInt16BE(22) / 8) > file.size;
  if (compression !== 1) return at + 2 >= file.size;
  // Each row of each channel says how many bytes it takes.
  const rows = channels * height;
  const cell = wide ? 4 : 2;
  const table = await file.bytes(at + 2, Math.min(rows * cell, 64_000_000));
  let end = at + 2 + rows * cell;
  for (let i = 0; i + cell <= table.length; i += cell)
    end += cell === 4 ? table.readUInt32BE(i) : table.readUInt16BE(i);
  return end > file.size;
}

const CHECKS: readonly (readonly [RegExp, (file: Reader, mime: string) => Promise<boolean>])[] = [
  [/mp4|quicktime|m4a|m4v|3gpp|hei[cf]|image\/jp[2xm]/, boxes],
  [/wav|vnd\.avi|msvideo/, riff],
  [/aiff/, aiff],
  [/matroska|webm/, ebml],
  [/ogg/, ogg],
  [/image\/bmp/, bitmap],
  [/image\/(x-icon|vnd\.microsoft\.icon)/, icon],
  [/photoshop/, layered],
];
