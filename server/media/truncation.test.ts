import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { endsTooEarly } from './truncation.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'iconomos-whole-'));
});
afterAll(() => rm(folder, { recursive: true }));

const u16 = (value: number) => Buffer.from([value >> 8, value & 255]);
const u32 = (value: number) =>
  Buffer.from([value >>> 24, (value >> 16) & 255, (value >> 8) & 255, value & 255]);
const le32 = (value: number) => u32(value).reverse();
const box = (name: string, body: Buffer) =>
  Buffer.concat([u32(body.length + 8), Buffer.from(name, 'latin1'), body]);
const data = Buffer.alloc(64, 7);
const segment = (size: Buffer) =>
  Buffer.concat([Buffer.from('1a45dfa3844286810118538067', 'hex'), size, data]);
const icon = (at: number) =>
  Buffer.concat([
    Buffer.from([0, 0, 1, 0, 1, 0, 1, 1, 0, 0, 1, 0, 32, 0]),
    le32(data.length),
    le32(at),
    data,
  ]);
const bitmap = Buffer.concat([
  Buffer.from('BM'),
  Buffer.alloc(8),
  le32(54),
  le32(40),
  le32(4),
  le32(4),
  Buffer.from([1, 0, 24, 0]),
  Buffer.alloc(24),
  Buffer.alloc(48, 9),
]);
const layered = (compression: number, picture: Buffer) =>
  Buffer.concat([
    Buffer.from('8BPS\0\x01\0\0\0\0\0\0', 'latin1'),
    u16(3),
    u32(2),
    u32(2),
    u16(8),
    u16(3),
    u32(0),
    u32(4),
    Buffer.alloc(4),
    u32(0),
    u16(compression),
    picture,
  ]);

const WHOLE: Record<string, [string, Buffer]> = {
  'a video': ['video/mp4', Buffer.concat([box('ftyp', data), box('moov', data), box('mdat', data)])],
  'a video with its index at the end': [
    'video/quicktime',
    Buffer.concat([box('ftyp', data), box('mdat', data), box('moov', data)]),
  ],
  'an image in boxes': [
    'image/heic',
    Buffer.concat([box('ftyp', data), box('meta', data), box('mdat', data)]),
  ],
  'a wave file': ['audio/wav', Buffer.concat([Buffer.from('RIFF'), le32(68), Buffer.from('WAVE'), data])],
  'an AIFF': ['audio/aiff', Buffer.concat([Buffer.from('FORM'), u32(68), Buffer.from('AIFF'), data])],
  'a WebM': ['video/webm', segment(Buffer.from([0x80 | data.length]))],
  'an Ogg': [
    'audio/ogg',
    Buffer.concat([Buffer.from('OggS'), Buffer.alloc(22), Buffer.from([1, data.length]), data]),
  ],
  'a bitmap': ['image/bmp', bitmap],
  'an icon': ['image/x-icon', icon(22)],
  'a plain layered image': ['image/vnd.adobe.photoshop', layered(0, Buffer.alloc(12))],
  'a packed layered image': [
    'image/vnd.adobe.photoshop',
    layered(1, Buffer.concat([...Array.from({ length: 6 }, () => u16(2)), Buffer.alloc(12)])),
  ],
};

async function cut(mime: string, bytes: Buffer): Promise<boolean> {
  const path = join(folder, 'file');
  await writeFile(path, bytes);
  return endsTooEarly(path, mime);
}

describe('files that end before they should', () => {
  test.each(Object.entries(WHOLE))(
    '%s: whole as it is, cut without its last byte or its second half',
    async (_what, [mime, bytes]) => {
      expect(await cut(mime, bytes)).toBe(false);
      expect(await cut(mime, bytes.subarray(0, -1))).toBe(true);
      expect(await cut(mime, bytes.subarray(0, bytes.length >> 1))).toBe(true);
    },
  );

  test('a video without its index cannot be played; an image needs none', async () => {
    const bytes = Buffer.concat([box('ftyp', data), box('mdat', data)]);
    expect(await cut('video/mp4', bytes)).toBe(true);
    expect(await cut('image/heic', bytes)).toBe(false);
  });

  test('lengths that a recorder left open are no cut', async () => {
    expect(await cut('audio/wav', Buffer.concat([Buffer.from('RIFF'), u32(0xffffffff), data]))).toBe(false);
    expect(await cut('video/webm', segment(Buffer.from('01ffffffffffffff', 'hex')))).toBe(false);
  });

  test('an entry that lies outside its icon is a cut one; other types are not looked at', async () => {
    expect(await cut('image/x-icon', icon(1000))).toBe(true);
    expect(await cut('image/jpeg', data)).toBe(false);
  });
});
