import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import { readdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { PDFDocument, PDFName, PDFString } from 'pdf-lib';
import sharp from 'sharp';
import { afterEach, describe, expect, test } from 'vitest';
import { SMALL_DEMO } from '../../demo/test-setup.ts';
import { ALL_HERE } from '../db/item-query.ts';
import { arrive, closeSites, openSite, picture, smallSite } from '../test/site.ts';
import { heic } from '../test/heic.ts';
import { Arrivals } from './arrivals.ts';
import { note } from '../test/arrived.ts';
import { zipOf } from '../test/arrived.ts';

afterEach(closeSites);

/** A layered image of 800 x 600 (8BPS, version 1) whose resources hold a thumbnail (1036), or nothing. */
function layered(thumbnail: Buffer): Buffer {
  const header = Buffer.alloc(26);
  header.write('8BPS');
  header.writeUInt16BE(1, 4);
  header.writeUInt16BE(3, 12);
  header.writeUInt32BE(600, 14);
  header.writeUInt32BE(800, 18);
  header.writeUInt16BE(8, 22);
  header.writeUInt16BE(3, 24);
  const facts = Buffer.alloc(28);
  [1, 160, 120, 480, 57_600, thumbnail.length].forEach((value, at) => facts.writeUInt32BE(value, at * 4));
  facts.writeUInt16BE(24, 24);
  facts.writeUInt16BE(1, 26);
  const body = Buffer.concat([facts, thumbnail, Buffer.alloc(thumbnail.length % 2)]);
  const length = (value: number) => {
    const four = Buffer.alloc(4);
    four.writeUInt32BE(value);
    return four;
  };
  const resource = Buffer.concat([
    Buffer.from('8BIM'),
    Buffer.from([4, 12, 0, 0]),
    length(28 + thumbnail.length),
    body,
  ]);
  const resources = thumbnail.length > 0 ? resource : Buffer.alloc(0);
  return Buffer.concat([
    header,
    length(0),
    length(resources.length),
    resources,
    length(0),
    Buffer.alloc(2 + 600 * 800 * 3),
  ]);
}

describe('what is computed', () => {
  test('pictures: size upright, thumbnails, placeholder, colours, profile, the date, their own words', async () => {
    const site = await openSite(await smallSite());
    const bytes = await sharp({ create: { width: 300, height: 200, channels: 3, background: '#b03020' } })
      .withExif({
        IFD0: { Artist: 'Ines', Copyright: '(c) Hill', ImageDescription: 'A red wall' },
        IFD2: { DateTimeOriginal: '2026:08:12 10:00:00' },
      })
      .withMetadata({ orientation: 6 })
      .jpeg()
      .toBuffer();
    const arrival = await arrive(site, bytes, 'IMG_1001.JPG');
    expect(arrival).toMatchObject({ width: 200, height: 300, name: 'a-red-wall.jpg' });
    expect(arrival.words).toMatchObject({ creator: 'Ines', copyright: '(c) Hill', caption: 'A red wall' });
    const content = site.contents.get(arrival.sha256)!;
    expect(content).toMatchObject({ preview: true, frames: 1, takenAt: '2026-08-12T10:00:00' });
    expect(content.placeholder).toMatch(/^[A-Za-z0-9+/]{20,}=*$/);
    expect(content.colours[0]).toMatch(/^#[a-b][0-9a-f]/);
    const thumbnail = await sharp(site.data.thumbnail(arrival.sha256, 320)).metadata();
    expect([thumbnail.width, thumbnail.height]).toEqual([200, 300]);
  });

  test('bitmaps and icons are seen too; a broken one is refused', async () => {
    const site = await openSite(await smallSite());
    const bitmap = Buffer.alloc(54 + 12 * 2, 0x40);
    bitmap.fill(0, 0, 54);
    bitmap.write('BM');
    bitmap.writeUInt32LE(bitmap.length, 2);
    bitmap.writeUInt32LE(54, 10);
    bitmap.writeUInt32LE(40, 14);
    bitmap.writeInt32LE(4, 18);
    bitmap.writeInt32LE(2, 22);
    bitmap.writeUInt16LE(1, 26);
    bitmap.writeUInt16LE(24, 28);
    const taken = await arrive(site, bitmap, 'plan.bmp');
    expect(taken).toMatchObject({ state: 'ready', width: 4, height: 2 });
    expect(site.contents.get(taken.sha256)).toMatchObject({ preview: true, colours: ['#404040'] });
    const icon = await arrive(site, await readFile(join(SMALL_DEMO, 'favicon.ico')), 'sign.ico');
    expect(site.contents.get(icon.sha256)).toMatchObject({ preview: true });
    const endless = Buffer.from(bitmap);
    endless.writeInt32LE(60_000, 18);
    endless.writeInt32LE(60_000, 22);
    expect((await arrive(site, endless, 'wall.bmp')).refused).toContain('ends too early');
  });

  test('a layered image, which is not decoded here, shows the preview that its program put inside', async () => {
    const site = await openSite(await smallSite());
    const inside = await sharp({ create: { width: 160, height: 120, channels: 3, background: '#207040' } })
      .jpeg()
      .toBuffer();
    const taken = await arrive(site, layered(inside), 'Poster.psd');
    expect(taken).toMatchObject({ state: 'ready', kind: 'image', name: 'poster.psd' });
    expect(note(taken)).toContain('the preview inside the file');
    const shown = await sharp(site.data.thumbnail(taken.sha256, 320)).metadata();
    expect([shown.width, shown.height]).toEqual([160, 120]);
    const bare = await arrive(site, layered(Buffer.alloc(0)), 'Bare.psd');
    expect(bare.state).toBe('ready');
    expect(note(bare)).toContain('No preview can be made');
    expect(bare).toMatchObject({ width: 800, height: 600 });
    expect((await arrive(site, layered(inside).subarray(0, -9), 'Cut.psd')).refused).toContain(
      'ends too early',
    );
  });

  test('videos get a poster, audio files a waveform, PDFs their first page and text, and these are found by it', async () => {
    const site = await openSite(await smallSite());
    const film = await arrive(
      site,
      await readFile(join(SMALL_DEMO, 'media/timelapse/moonrise.mp4')),
      'a.mp4',
    );
    const sound = await arrive(site, await readFile(join(SMALL_DEMO, 'media/talks/welcome.wav')), 'b.wav');
    const pdfs = (await readdir(join(SMALL_DEMO, 'documents'))).filter((name) => name.endsWith('.pdf'));
    const pdf = await arrive(site, await readFile(join(SMALL_DEMO, 'documents', pdfs[0]!)), 'c.pdf');
    for (const one of [film, sound, pdf]) {
      expect(one.state).toBe('ready');
      expect(site.contents.get(one.sha256)!.preview, one.name).toBe(true);
      expect(existsSync(site.data.thumbnail(one.sha256, 1280))).toBe(true);
    }
    expect(site.contents.get(film.sha256)!.codecs).toContain('AVC');
    const { pages, text } = site.contents.get(pdf.sha256)!;
    expect(pages).toBeGreaterThan(0);
    const word = /\p{L}{6,}/u.exec(text)![0];
    await new Arrivals(site).bringIn([pdf.id], 1);
    const found = site.finder.list({ ...ALL_HERE, words: [word] });
    expect(found.items.map((item) => item.path)).toEqual([pdf.name]);
  });

  test('sizes are those that the files say themselves, also once they are on the site', async () => {
    const site = await openSite(await smallSite());
    const arrivals = new Arrivals(site);
    const box = (type: string, ...parts: Buffer[]) => {
      const body = Buffer.concat(parts);
      const head = Buffer.alloc(8);
      head.writeUInt32BE(8 + body.length);
      head.write(type, 4, 'latin1');
      return Buffer.concat([head, body]);
    };
    const sized = (width: number, height: number) => {
      const body = Buffer.alloc(12);
      body.writeUInt32BE(width, 4);
      body.writeUInt32BE(height, 8);
      return box('ispe', body);
    };
    // As phones send it: tiles, the whole, a preview; turned by a quarter. Its pixels are not decoded here.
    const properties = box(
      'ipco',
      sized(512, 512),
      sized(4032, 3024),
      sized(320, 240),
      box('irot', Buffer.from([1])),
    );
    const heic = Buffer.concat([
      box('ftyp', Buffer.from('heic\0\0\0\0mif1heic', 'latin1')),
      box('meta', Buffer.alloc(4), box('iprp', properties)),
      box('mdat', Buffer.alloc(400, 7)),
    ]);
    // A canvas of 90 x 60, of which its only frame fills a part.
    const gif = await sharp({ create: { width: 40, height: 30, channels: 3, background: '#345' } })
      .gif()
      .toBuffer();
    gif.writeUInt16LE(90, 6);
    gif.writeUInt16LE(60, 8);
    for (const [name, bytes, width, height] of [
      ['layers.psd', layered(Buffer.alloc(0)), 800, 600],
      ['phone.heic', heic, 3024, 4032],
      ['canvas.gif', gif, 90, 60],
    ] as const) {
      const arrival = await arrive(site, bytes, name);
      expect(arrival, name).toMatchObject({ state: 'ready', width, height });
      if (name !== 'canvas.gif') expect(note(arrival)).toContain('Visitors would see nothing');
      await arrivals.bringIn([arrival.id], 1);
      await site.scanner.scan(true);
      expect(site.items.atPath(name), name).toMatchObject({ width, height });
    }
  });

  test('images as phones send them become JPEG: upright, with what they tell of themselves; a person may keep them', async () => {
    const site = await openSite(await smallSite());
    const arrivals = new Arrivals(site);
    // Bright above, dark below, before it is turned by a quarter: then dark on the right.
    const bytes = heic(64, 48, (_x, y) => [y < 24 ? 200 : 60, 128, 128], 1);
    const arrival = await arrive(site, bytes, 'IMG_77.heic');
    expect(arrival).toMatchObject({ state: 'ready', width: 48, height: 64, name: 'img-77.jpg' });
    const told = () => arrivals.need(arrival.id, 1).findings.find((one) => one.code === 'type');
    expect(told()).toMatchObject({ chosen: 'convert', weight: 'tells' });
    await arrivals.change([arrival.id], 1, { choices: { type: 'keep' } });
    expect(site.arrivals.get(arrival.id)).toMatchObject({ name: 'img-77.heic', ready: null });
    expect(told()).toMatchObject({ chosen: 'keep', weight: 'warns' });
    await arrivals.change([arrival.id], 1, { choices: { type: 'convert' } });
    await arrivals.bringIn([arrival.id], 1);
    await site.scanner.scan(true);
    const item = site.items.atPath('img-77.jpg')!;
    expect(item).toMatchObject({ width: 48, height: 64, mime: 'image/jpeg' });
    expect(site.items.originalOf(item.id)).toBe(createHash('sha256').update(bytes).digest('hex'));
    const { data, info } = await sharp(await site.folder.read('img-77.jpg'))
      .raw()
      .toBuffer({ resolveWithObject: true });
    expect([info.width, info.height, info.channels]).toEqual([48, 64, 3]);
    const at = (x: number, y: number) => data[(y * info.width + x) * 3]!;
    expect(at(4, 32)).toBeGreaterThan(180);
    expect(at(44, 32)).toBeLessThan(80);
  });

  test('one of them that is cut off or of another codec is never half converted', async () => {
    const site = await openSite(await smallSite());
    const whole = heic(64, 48, () => [120, 128, 128]);
    const odd = Buffer.from(whole);
    odd.write('vvc1', odd.indexOf('hvc1'), 'latin1');
    for (const [name, bytes] of [
      ['cut.heic', whole.subarray(0, whole.length - 2000)],
      ['odd.heic', odd],
    ] as const) {
      const arrival = await arrive(site, bytes, name);
      if (arrival.state === 'refused') expect(arrival.refused, name).toMatch(/ends too early|damaged/);
      else {
        expect(arrival.name, name).toBe(name);
        expect(note(arrival), name).toContain('Visitors would see nothing');
      }
    }
  });

  test('a PDF that asks to start a program is told so, also where that is packed', async () => {
    const site = await openSite(await smallSite());
    const launching = async (packed: boolean) => {
      const pdf = await PDFDocument.create();
      pdf.addPage([100, 100]);
      const action = pdf.context.obj({ S: 'Launch', F: PDFString.of('start.exe') });
      pdf.catalog.set(PDFName.of('OpenAction'), pdf.context.register(action));
      return Buffer.from(await pdf.save({ useObjectStreams: packed }));
    };
    const plain = await PDFDocument.create();
    plain.addPage([100, 100]);
    for (const [name, bytes, told] of [
      ['written.pdf', await launching(false), true],
      ['packed.pdf', await launching(true), true],
      ['plain.pdf', Buffer.from(await plain.save()), false],
    ] as const) {
      if (name === 'packed.pdf') expect(bytes.includes('/Launch')).toBe(false);
      expect(note(await arrive(site, bytes, name)).includes('asks to start a program'), name).toBe(told);
    }
  });

  test('how long a sound is is measured, whatever its header says', async () => {
    const site = await openSite(await smallSite());
    const sound = await readFile(join(SMALL_DEMO, 'media/talks/welcome.wav'));
    const honest = await arrive(site, sound, 'honest.wav');
    const { duration } = site.arrivals.get(honest.id)!.facts;
    expect(duration).toBeGreaterThan(1);
    const data = sound.indexOf('data', 0, 'latin1');
    for (const told of [0, 0xffffffff, 0x7fffffff]) {
      const lying = Buffer.from(sound);
      lying.writeUInt32LE(told, data + 4);
      const one = await arrive(site, lying, `lies-${told}.wav`);
      expect(site.arrivals.get(one.id)!.facts.duration, String(told)).toBeCloseTo(duration!, 1);
    }
  });

  test('office files: text, macros and outside links told', async () => {
    const site = await openSite(await smallSite());
    const docx = await zipOf({
      '[Content_Types].xml': Buffer.from(
        '<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Override PartName="/word/document.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/></Types>',
      ),
      'word/document.xml': Buffer.from(
        '<w:document xmlns:w="w"><w:p><w:t>Star party &amp; tea</w:t></w:p><w:p><w:t>Bring a coat</w:t></w:p></w:document>',
      ),
      'word/_rels/document.xml.rels': Buffer.from(
        '<Relationships><Relationship TargetMode="External" Target="http://x.example"/></Relationships>',
      ),
      'word/vbaProject.bin': Buffer.from('macro'),
    });
    const arrival = await arrive(site, docx, 'plan.docx');
    expect(arrival.state).toBe('ready');
    expect(site.contents.get(arrival.sha256)!.text).toBe('Star party & tea\nBring a coat');
    expect(note(arrival)).toMatch(/macros.*/);
    expect(note(arrival)).toContain('links to other places');
  });

  test('items that were on the site before are looked at too; a record that a person touched keeps its words', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    await site.analyser.analyseAll();
    expect(site.contents.missing()).toEqual([]);
    const item = site.items.atPath('img/b.png')!;
    site.records.fillUntouched(item.sha256, { title: 'From the file', tags: ['x'] });
    expect(site.items.need(item.id).words).toMatchObject({ title: 'From the file', tags: ['x'] });
    site.records.apply({ itemId: item.id, rowVersion: 1, before: {}, after: { title: '' } }, 1, site.now());
    site.records.fillUntouched(item.sha256, { title: 'From the file' });
    expect(site.items.need(item.id).words.title).toBe('');
  });

  test('a file that came before the site’s images were looked at is found to be like one of them all the same', async () => {
    const root = await smallSite();
    const shown = await readFile(join(SMALL_DEMO, 'images/moon/moon-full.jpg'));
    await writeFile(join(root, 'img/hall.jpg'), shown);
    const site = await openSite(root);
    const arrival = await arrive(site, await sharp(shown).resize(400).png().toBuffer(), 'Hall.png');
    expect(note(arrival)).not.toContain('It looks like');
    await site.analyser.analyseAll();
    expect(note(new Arrivals(site).need(arrival.id, 1))).toContain('It looks like “img/hall.jpg”');
    // Looked at once more, it is not told twice.
    await site.matching.match(site.items.atPath('img/hall.jpg')!.sha256);
    expect(site.alikes.of(arrival.sha256)).toHaveLength(1);
  });
});

test('what was received but not checked when the server stopped is checked at the next start', async () => {
  const root = await smallSite();
  const first = await openSite(root);
  const arrival = await arrive(first, await picture(70), 'late.png');
  first.arrivals.set(arrival, { state: 'received' });
  await first.close();
  const second = await openSite(root);
  second.checking.resume();
  await second.checking.settled();
  expect(new Arrivals(second).need(arrival.id, 1)).toMatchObject({ state: 'ready', name: 'late.png' });
});
