import { describe, expect, test } from 'vitest';
import { metadataOf } from './metadata.ts';

describe('what a file says of itself', () => {
  test('XMP before IPTC before EXIF, each field by the IPTC mapping', () => {
    const { words, takenAt, colourProfile } = metadataOf({
      'XMP-dc:Title': 'Dome',
      'IPTC:ObjectName': 'Old title',
      'IPTC:Caption-Abstract': 'From IPTC',
      'IFD0:ImageDescription': 'From EXIF',
      'IFD0:Artist': 'Ines',
      'IFD0:Copyright': '© Corvane Hill',
      'XMP-photoshop:Credit': 'CHO',
      'XMP-xmpRights:UsageTerms': 'CC BY 4.0',
      'XMP-iptcCore:AltTextAccessibility': 'A dome',
      'XMP-iptcCore:ExtDescrAccessibility': 'A white dome on a moor',
      'XMP-dc:Subject': ['dome', 'Moor'],
      'IPTC:Keywords': ['moor', 'night'],
      'ExifIFD:DateTimeOriginal': '2026:08:12 23:14:05',
      'ICC_Profile:ProfileDescription': 'Display P3',
    });
    expect(words).toEqual({
      title: 'Dome',
      caption: 'From IPTC',
      creator: 'Ines',
      copyright: '© Corvane Hill',
      credit: 'CHO',
      licence: 'CC BY 4.0',
      alt: 'A dome',
      longDescription: 'A white dome on a moor',
      taken: '2026-08-12T23:14:05',
      tags: ['dome', 'moor', 'night'],
    });
    expect([takenAt, colourProfile]).toEqual(['2026-08-12T23:14:05', 'Display P3']);
  });
  test('unmarked IPTC: UTF-8 when its bytes are valid, else Latin; marked as it is', () => {
    const read = (tags: Record<string, unknown>) => metadataOf(tags).words.caption;
    expect(read({ 'IPTC:Caption-Abstract': 'GrÃ¼ÃŸe vom HÃ¼gel' })).toBe('Grüße vom Hügel');
    expect(read({ 'IPTC:Caption-Abstract': 'Grüße' })).toBe('Grüße');
    expect(read({ 'IPTC:Caption-Abstract': 'Ã¼', 'IPTC:CodedCharacterSet': '\u001b%G' })).toBe('Ã¼');
    expect(read({ 'XMP-dc:Description': 'Ã¼' })).toBe('Ã¼');
  });
  test.each(['OLYMPUS DIGITAL CAMERA', 'SONY DSC', 'DCIM\\100MEDIA\\DJI_0001.JPG', 'untitled', '   '])(
    'camera boilerplate is no caption: %s',
    (text) => expect(metadataOf({ 'IFD0:ImageDescription': text }).words.caption).toBeUndefined(),
  );
  test('where and with whose device it was taken is noticed in images and videos', () => {
    expect(metadataOf({ 'GPS:GPSLatitude': 54.1 })).toMatchObject({ place: true, device: false });
    expect(metadataOf({ 'Keys:GPSCoordinates': '54 2' }).place).toBe(true);
    expect(metadataOf({ 'XMP-exif:GPSLatitude': 1 }).place).toBe(true);
    expect(metadataOf({ 'ExifIFD:LensSerialNumber': 'x' }).device).toBe(true);
    expect(metadataOf({ 'IFD0:Artist': 'Ines' })).toMatchObject({ place: false, device: false });
  });
  test('text stays text: control characters and direction marks go, markup does nothing, length is bounded', () => {
    const { words } = metadataOf({
      'XMP-dc:Title': 'a\u202eb\u0000c <script>alert(1)</script>',
      'XMP-dc:Description': 'x'.repeat(9000),
      'XMP-dc:Creator': ['One', 'Two'],
      'XMP-dc:Subject': 5,
    });
    expect(words.title).toBe('abc <script>alert(1)</script>');
    expect(words.caption).toHaveLength(5000);
    expect([words.creator, words.tags]).toEqual(['One, Two', ['5']]);
  });
  test('the size, upright: of the whole image before smaller ones inside, turned by orientation', () => {
    expect(metadataOf({ 'File:ImageWidth': 900, 'File:ImageHeight': 600 }).size).toEqual({
      width: 900,
      height: 600,
    });
    expect(
      metadataOf({
        'IFD0:ImageWidth': 160,
        'IFD0:ImageHeight': 120,
        'ExifIFD:ExifImageWidth': 6000,
        'ExifIFD:ExifImageHeight': 4000,
        'IFD0:Orientation': 6,
      }).size,
    ).toEqual({ width: 4000, height: 6000 });
    expect(metadataOf({ 'File:ImageWidth': 'wide' }).size).toBeNull();
  });
  test('dates that are none are none', () => {
    for (const date of ['0000:00:00 00:00:00', '    :  :     :  :  ', 'yesterday', 20260812])
      expect(metadataOf({ 'ExifIFD:DateTimeOriginal': date }).takenAt).toBeNull();
  });
});
