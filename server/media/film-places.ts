import { open, type FileHandle } from 'node:fs/promises';

/** Bytes of a video that tell where it was taken, and what is written over them: as many, so nothing else moves. */
interface Spot {
  at: number;
  over: Buffer;
}

/** Elements that are looked at in one video, and bytes of one that is read whole. */
const MOST_ELEMENTS = 500_000;
const LARGEST_READ = 1_000_000;
const DEEPEST = 8;

const TELLS_PLACE = /location|gps|latitude|longitude|coordinates|geotag/i;

/** How many places a video names that the metadata tool cannot take out. @param file a video in a container of ISO 14496-12, or Matroska (RFC 9559) */
export async function filmPlaces(file: string): Promise<number> {
  const handle = await open(file, 'r');
  try {
    return (await spotsOf(handle)).length;
  } finally {
    await handle.close();
  }
}

/** Writes over every place that a video names. Its length, its images and its sound stay as they are. */
export async function blankPlaces(file: string): Promise<void> {
  const handle = await open(file, 'r+');
  try {
    for (const { at, over } of await spotsOf(handle)) await handle.write(over, 0, over.length, at);
  } finally {
    await handle.close();
  }
}

async function spotsOf(handle: FileHandle): Promise<Spot[]> {
  const { size } = await handle.stat();
  const film = new Film(handle, size);
  const start = await film.read(0, 8);
  if (start.length < 8) return [];
  if (start.readUInt32BE(0) === EBML) await matroska(film, 0, size, 0, []);
  else if (['ftyp', 'moov', 'wide', 'mdat', 'free', 'skip'].includes(start.toString('latin1', 4, 8)))
    await boxes(film, 0, size, 0);
  return film.spots;
}

class Film {
  readonly spots: Spot[] = [];
  private seen = 0;

  constructor(
    private readonly handle: FileHandle,
    readonly size: number,
  ) {}

  async read(at: number, length: number): Promise<Buffer> {
    const buffer = Buffer.alloc(Math.max(0, Math.min(length, this.size - at)));
    const { bytesRead } = await this.handle.read(buffer, 0, buffer.length, at);
    return buffer.subarray(0, bytesRead);
  }

  /** Whether one more element is looked at. */
  more(): boolean {
    return this.seen++ < MOST_ELEMENTS;
  }
}

// ISO 14496-12: boxes of a size and a type of four letters.

const HOLD_BOXES = new Set(['moov', 'trak', 'udta', 'meta']);
/** 3GPP TS 26.244 names the first, QuickTime the others. */
const PLACE_BOXES = new Set(['loci', '\u00a9xyz']);

async function boxes(film: Film, from: number, to: number, depth: number): Promise<void> {
  let keys: string[] = [];
  for (let at = from; at + 8 <= to && film.more();) {
    const head = await film.read(at, 16);
    if (head.length < 8) return;
    const type = head.toString('latin1', 4, 8);
    const short = head.readUInt32BE(0);
    const long = short === 1 && head.length === 16;
    const length = short === 0 ? to - at : long ? Number(head.readBigUInt64BE(8)) : short;
    const body = at + (long ? 16 : 8);
    const end = Math.min(at + length, to);
    if (at + length < body) return;
    if (PLACE_BOXES.has(type)) {
      const over = Buffer.alloc(Math.min(end - at, LARGEST_READ));
      over.writeUInt32BE(short, 0);
      over.write('free', 4, 'latin1');
      film.spots.push({ at, over });
    } else if (type === 'keys') keys = keysIn(await film.read(body, Math.min(end - body, LARGEST_READ)));
    else if (type === 'ilst') await values(film, body, end, keys);
    else if (HOLD_BOXES.has(type) && depth < DEEPEST) {
      // A 'meta' of ISO 14496-12 begins with a version and flags, one of QuickTime with its boxes.
      const versioned = type === 'meta' && (await film.read(body, 8)).toString('latin1', 4, 8) !== 'hdlr';
      await boxes(film, versioned ? body + 4 : body, end, depth + 1);
    }
    at = end;
  }
}

/** Names of the keys that values are numbered by, from 1. */
function keysIn(body: Buffer): string[] {
  const keys = [''];
  for (let at = 8; at + 8 <= body.length;) {
    const length = body.readUInt32BE(at);
    if (length < 8) break;
    keys.push(body.toString('utf8', at + 8, Math.min(at + length, body.length)));
    at += length;
  }
  return keys;
}

async function values(film: Film, from: number, to: number, keys: readonly string[]): Promise<void> {
  for (let at = from; at + 8 <= to && film.more();) {
    const head = await film.read(at, 8);
    if (head.length < 8) return;
    const length = head.readUInt32BE(0);
    const end = Math.min(at + length, to);
    if (length < 8) return;
    if (TELLS_PLACE.test(keys[head.readUInt32BE(4)] ?? '')) {
      // A 'data' box: size, type, kind of value, language; then the value.
      const value = at + 8 + 16;
      const old = await film.read(value, Math.min(end - value, LARGEST_READ));
      const over = Buffer.alloc(old.length, ' ');
      if (!old.equals(over)) film.spots.push({ at: value, over });
    }
    at = end;
  }
}

// Matroska: elements of an id and a size, both of variable length (RFC 8794).

const EBML = 0x1a45dfa3;
const SEGMENT = 0x18538067;
const TAGS = 0x1254c367;
const TAG = 0x7373;
const SIMPLE_TAG = 0x67c8;
const TAG_NAME = 0x45a3;
const CRC = 0xbf;
const VOID = 0xec;
const ENTERED = new Set([SEGMENT, TAGS, TAG]);

/** @param sums where the checksums of what encloses these elements lie: what is changed needs none any more */
async function matroska(
  film: Film,
  from: number,
  to: number,
  depth: number,
  sums: readonly number[],
): Promise<void> {
  let sum: number[] = [];
  for (let at = from; at < to && film.more();) {
    const head = await film.read(at, 12);
    const id = number(head, 0, false);
    const size = id && number(head, id.length, true);
    if (!id || !size) return;
    const body = at + id.length + size.length;
    const unknown = size.value === Infinity;
    const end = unknown ? to : Math.min(body + size.value, to);
    if (id.value === CRC && end - at === 6) sum = [at];
    if (id.value === SIMPLE_TAG) {
      if (await tellsPlace(film, body, end)) {
        film.spots.push({ at, over: empty(end - at) });
        for (const one of [...sums, ...sum])
          if (!film.spots.some((spot) => spot.at === one)) film.spots.push({ at: one, over: empty(6) });
      } else if (depth < DEEPEST) await matroska(film, body, end, depth + 1, [...sums, ...sum]);
    } else if ((ENTERED.has(id.value) || unknown) && depth < DEEPEST)
      await matroska(film, body, end, depth + 1, [...sums, ...sum]);
    at = end;
  }
}

async function tellsPlace(film: Film, from: number, to: number): Promise<boolean> {
  for (let at = from; at < to && film.more();) {
    const head = await film.read(at, 12);
    const id = number(head, 0, false);
    const size = id && number(head, id.length, true);
    if (!id || !size) return false;
    const body = at + id.length + size.length;
    if (id.value === TAG_NAME)
      return TELLS_PLACE.test((await film.read(body, Math.min(size.value, 200))).toString('utf8'));
    at = body + size.value;
  }
  return false;
}

/** A number of variable length; of a size, the bits that tell its length are left out, and all ones mean unknown. */
function number(bytes: Buffer, at: number, size: boolean): { value: number; length: number } | undefined {
  const first = bytes[at];
  if (first === undefined || first === 0) return undefined;
  const length = Math.clz32(first) - 23;
  if (at + length > bytes.length || (!size && length > 4)) return undefined;
  let value = size ? first & ((1 << (8 - length)) - 1) : first;
  let ones = value === (1 << (8 - length)) - 1;
  for (let i = 1; i < length; i++) {
    value = value * 256 + bytes[at + i]!;
    ones &&= bytes[at + i] === 255;
  }
  return { value: size && ones ? Infinity : value, length };
}

/** A void element of so many bytes, which readers pass over. */
function empty(length: number): Buffer {
  const over = Buffer.alloc(length);
  over[0] = VOID;
  const wide = length > 120 ? 8 : 1;
  const rest = length - 1 - wide;
  if (wide === 1) over[1] = 0x80 | rest;
  else {
    over[1] = 0x01;
    over.writeUIntBE(rest, 3, 6);
  }
  return over;
}
