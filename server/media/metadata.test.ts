import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ExifTool } from 'exiftool-vendored';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { MetadataTool } from './metadata.ts';

const tool = new MetadataTool(1);
/** What looks at the result is another than what made it. */
const reader = new ExifTool({ maxProcs: 1 });
let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'iconomos-metadata-'));
});
afterAll(async () => {
  await Promise.all([tool.close(), reader.end()]);
  await rm(folder, { recursive: true });
});

const PRIVATE_XMP = `<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">
  <rdf:Description xmlns:exif="http://ns.adobe.com/exif/1.0/" xmlns:aux="http://ns.adobe.com/exif/1.0/aux/"
    xmlns:dc="http://purl.org/dc/elements/1.1/" exif:GPSLatitude="54,20.5N" exif:GPSLongitude="2,10.5W" aux:SerialNumber="4712"
    aux:OwnerName="Wanda Fernhollow" dc:format="image/jpeg">
    <dc:rights><rdf:Alt><rdf:li xml:lang="x-default">All rights with the observatory</rdf:li></rdf:Alt></dc:rights>
  </rdf:Description></rdf:RDF></x:xmpmeta>`;
const plain = () => sharp({ create: { width: 60, height: 40, channels: 3, background: '#7a2f26' } });

/** A photo that tells everything, as it comes from a camera and a desk. */
async function photo(): Promise<string> {
  const file = join(folder, 'photo.jpg');
  const small = join(folder, 'small.jpg');
  await writeFile(small, await plain().resize(30, 20).jpeg().toBuffer());
  await writeFile(
    file,
    await plain()
      .withExif({
        IFD0: {
          Make: 'Corvane',
          Model: 'C-1',
          Artist: 'Wanda Fernhollow',
          Copyright: '(c) Corvane Hill',
          Orientation: '6',
        },
        IFD2: {
          DateTimeOriginal: '2026:08:12 23:14:05',
          BodySerialNumber: '4711',
          ISOSpeedRatings: '800',
          FNumber: '28/10',
        },
        IFD3: { GPSLatitudeRef: 'N', GPSLatitude: '54/1 20/1 0/1', GPSAltitude: '312/1' },
      })
      .withXmp(PRIVATE_XMP)
      .jpeg()
      .toBuffer(),
  );
  await reader.write(file, {}, [
    '-overwrite_original',
    '-IPTC:CodedCharacterSet=UTF8',
    '-IPTC:Credit=Corvane Hill Observatory',
    '-IPTC:Keywords=aurora',
    '-IPTC:City=Corvane',
    '-Comment=Seen from the ridge',
    '-ExifIFD:OwnerName=Wanda Fernhollow',
    '-ExifIFD:UserComment=Third night',
    `-ThumbnailImage<=${small}`,
  ]);
  return file;
}
const tagsOf = async (file: string) =>
  (await reader.readRaw(file, ['-G1', '-n', '-a'])) as unknown as Record<string, unknown>;

describe('what was made of a photo', () => {
  for (const format of ['jpeg', 'webp', 'png', 'avif'] as const)
    test(`as ${format} gets what the photo tells, but not where, with whose device, nor small images`, async () => {
      const from = await photo();
      expect(await tool.read(from)).toMatchObject({ place: true, device: true });
      const to = join(folder, `made.${format}`);
      await writeFile(to, await plain().resize(30, 20)[format]().toBuffer());
      const pixels = await sharp(to).raw().toBuffer();
      expect(await tool.carryWithoutPrivate(from, to)).toBe(true);
      const tags = await tagsOf(to);
      expect(tags).toMatchObject({
        'IFD0:Make': 'Corvane',
        'IFD0:Artist': 'Wanda Fernhollow',
        'IFD0:Copyright': '(c) Corvane Hill',
        'IFD0:Orientation': 1,
        'ExifIFD:DateTimeOriginal': '2026:08:12 23:14:05',
        'ExifIFD:ISO': 800,
        'ExifIFD:FNumber': 2.8,
        'ExifIFD:UserComment': 'Third night',
        'XMP-dc:Rights': 'All rights with the observatory',
      });
      if (format === 'jpeg')
        expect(tags).toMatchObject({
          'IPTC:Credit': 'Corvane Hill Observatory',
          'IPTC:Keywords': 'aurora',
          'IPTC:City': 'Corvane',
          'File:Comment': 'Seen from the ridge',
        });
      expect(
        Object.keys(tags).filter((name) => /GPS|Serial|OwnerName|Thumbnail|Preview|IFD1/.test(name)),
      ).toEqual([]);
      const bytes = (await readFile(to)).toString('latin1');
      for (const secret of ['4711', '4712', '54,20.5N']) expect(bytes).not.toContain(secret);
      expect(await sharp(to).raw().toBuffer()).toEqual(pixels);
    });
});
