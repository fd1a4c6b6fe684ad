import { createHash } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { existsSync } from 'node:fs';
import { readdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { PDFDocument, PDFName, PDFString } from 'pdf-lib';
import sharp from 'sharp';
import { SITE_RULE } from '../../core/intake/rules.ts';
import { afterEach, describe, expect, test } from 'vitest';
import { ZipFile } from 'yazl';
import { SMALL_DEMO } from '../../demo/test-setup.ts';
import { applyProposal } from '../changes/apply.ts';
import { proposeUndo } from '../changes/undo.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { ALL_HERE } from '../db/item-query.ts';
import { arrive, closeSites, openSite, picture, smallSite, treeOf } from '../test/site.ts';
import { heic } from '../test/heic.ts';
import { Arrivals } from './arrivals.ts';
import { fetchFile } from './fetch.ts';
import { isPublic } from '../services/outgoing.ts';
import { unpack } from './unpack.ts';

afterEach(closeSites);

const note = (arrival: { findings: { text: string }[] }) => arrival.findings.map((one) => one.text).join(' ');

async function zipOf(entries: Record<string, Buffer>, options: object = {}): Promise<Buffer> {
  const zip = new ZipFile();
  for (const [name, bytes] of Object.entries(entries)) zip.addBuffer(bytes, name, options);
  zip.end();
  const chunks: Buffer[] = [];
  for await (const chunk of zip.outputStream) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks);
}
/** Names that the packing program would refuse to write. */
function renamed(zip: Buffer, from: string, to: string): Buffer {
  return Buffer.from(zip.toString('latin1').replaceAll(from, to), 'latin1');
}

/** A layered picture of 800 x 600 (8BPS, version 1) whose resources hold a thumbnail (1036), or nothing. */
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

  test('a layered picture, which is not decoded here, shows the preview that its program put inside', async () => {
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

  test('films get a poster, sounds a waveform, PDFs their first page and text, and these are found by it', async () => {
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
      if (name !== 'canvas.gif') expect(note(arrival)).toContain('visitors would see nothing');
      await arrivals.bringIn([arrival.id], 1);
      await site.scanner.scan(true);
      expect(site.items.atPath(name), name).toMatchObject({ width, height });
    }
  });

  test('pictures as phones send them become JPEG: upright, with what they tell of themselves; a person may keep them', async () => {
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
        expect(note(arrival), name).toContain('visitors would see nothing');
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

  test('a file that came before the site’s pictures were looked at is found to be like one of them all the same', async () => {
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

describe('hostile and awkward', () => {
  test('a scripted drawing is made safe, and says so', async () => {
    const site = await openSite(await smallSite());
    const arrival = await arrive(
      site,
      Buffer.from(
        '<svg xmlns="http://www.w3.org/2000/svg" width="20" height="20" onload="x()"><script>x()</script><rect width="9" height="9"/></svg>',
      ),
      'star.svg',
    );
    expect(note(arrival)).toContain('Made safe: event handlers, scripts taken out');
    expect((await readFile(site.blobs.get(arrival.sha256), 'utf8')).includes('x()')).toBe(false);
  });

  test.each([
    ['notes.txt', 'Größe\r\n', '.txt'],
    ['table.csv', 'a,b\r\n1,2\r\n', '.csv'],
    ['talk.srt', '1\r\n00:00:01,000 --> 00:00:02,000\r\nStars\r\n', '.srt'],
    [
      'star.svg',
      '<svg xmlns="http://www.w3.org/2000/svg" width="4" height="4"><rect width="2" height="2"/></svg>',
      '.svg',
    ],
  ])('text in UTF-16 (%s) is told by its mark, in either order of bytes', async (name, text, ending) => {
    const site = await openSite(await smallSite());
    const little = Buffer.from(`\ufeff${text}`, 'utf16le');
    for (const bytes of [little, Buffer.from(little).swap16()]) {
      const arrival = await arrive(site, bytes, name);
      expect(arrival).toMatchObject({ state: 'ready' });
      expect(arrival.name.endsWith(ending), arrival.name).toBe(true);
    }
  });

  test('a drawing is one behind instructions and a long comment, and loads nothing by an address that is hidden or not closed', async () => {
    const site = await openSite(await smallSite());
    const svg = (fill: string) =>
      `<?xml-stylesheet href="a.css"?><!--${' long'.repeat(3000)}--><svg xmlns="http://www.w3.org/2000/svg" width="4" height="4"><rect width="2" height="2" fill="${fill}"/></svg>`;
    for (const [at, fill] of [
      'url(http://evil.example/a.svg#a',
      'u\\72l(http://evil.example/a.svg#a)',
      "url('http://evil.example/a.svg#a')",
    ].entries()) {
      const arrival = await arrive(site, Buffer.from(svg(fill)), `hidden${at}.svg`);
      expect(arrival).toMatchObject({ state: 'ready', name: `hidden${at}.svg` });
      expect(await readFile(site.blobs.get(arrival.sha256), 'utf8')).not.toContain('evil');
    }
    const kept = await arrive(site, Buffer.from(svg('url(#a)')), 'plain.svg');
    expect(await readFile(site.blobs.get(kept.sha256), 'utf8')).toContain('fill="url(#a)"');
  });

  test.each([
    ['page.xht', '<?xml version="1.0"?><html xmlns="http://www.w3.org/1999/xhtml"/>'],
    ['data.rdf', '<rdf xmlns:h="http://www.w3.org/1999/xhtml"><h:script/></rdf>'],
    ['track.gpx', '<gpx><x:p xmlns:x="http://www.w3.org/1999/xhtml"/></gpx>'],
    ['part.foo', '<!-- a --><div onclick="x()">part</div>'],
    ['tool.php6', '<?php echo 1;'],
  ])('what a browser or a server may run is refused under any name: %s', async (name, text) => {
    const site = await openSite(await smallSite());
    expect(await arrive(site, Buffer.from(text), name)).toMatchObject({ state: 'refused' });
  });

  test.each([
    ['tool.php6', 'tool.bin'],
    ['page.phtm', 'page.bin'],
    ['shape.weird', 'shape.bin'],
    ['Plan.Sketch', 'plan.sketch'],
    ['stars.xyz', 'stars.xyz'],
  ])('what no server is known to leave alone does not keep its extension: %s', async (given, name) => {
    const site = await openSite(await smallSite());
    const arrival = await arrive(site, Buffer.from([1, 0, 2, 60, 63]), given);
    expect(arrival).toMatchObject({ state: 'ready', name });
    if (name.endsWith('.bin')) expect(note(arrival)).toContain('so it gets the extension .bin');
  });

  test('an animation with more pixels than the limit is refused from its header; a small long one is taken', async () => {
    const site = await openSite(await smallSite());
    const frame = { width: 40, height: 30, channels: 3 as const, background: '#445566' };
    const frames = await Promise.all(
      Array.from({ length: 12 }, (_, i) =>
        sharp({ create: { ...frame, background: { r: i * 20, g: 90, b: 10 } } })
          .png()
          .toBuffer(),
      ),
    );
    const gif = await sharp(frames, { join: { animated: true } })
      .gif()
      .toBuffer();
    const arrival = await arrive(site, gif, 'twelve.gif');
    expect(arrival).toMatchObject({ state: 'ready', width: 40, height: 30 });
    expect(site.contents.get(arrival.sha256)!.frames).toBe(12);
  });

  test('a thousand frames are looked at in seconds; scans that would take too much memory are told from the header', async () => {
    const site = await openSite(await smallSite());
    const frames = 1000;
    const size = { width: 60, height: 40 };
    const raw = Buffer.from(
      Uint8Array.from({ length: size.width * size.height * frames }, (_, at) => (at >> 11) & 255),
    );
    const whole = {
      width: size.width,
      height: size.height * frames,
      channels: 1 as const,
      pageHeight: size.height,
    };
    const gif = await sharp(raw, { raw: whole, limitInputPixels: false }).gif({ effort: 1 }).toBuffer();
    const arrival = await arrive(site, gif, 'long.gif');
    expect(arrival).toMatchObject({ state: 'ready', ...size });
    expect(site.contents.get(arrival.sha256)!.frames).toBeGreaterThan(200);
    const scans = await sharp({ create: { ...size, channels: 3, background: '#456' } })
      .jpeg({ progressive: true, chromaSubsampling: '4:4:4' })
      .toBuffer();
    const header = scans.indexOf(Buffer.from([0xff, 0xc2]));
    scans.writeUInt16BE(14_000, header + 5);
    scans.writeUInt16BE(14_000, header + 7);
    expect(await arrive(site, scans, 'scans.jpg')).toMatchObject({
      state: 'refused',
      refused: expect.stringContaining('several scans of 196 megapixels') as string,
    });
  }, 60_000);

  test('place, serial number and owner go from what is stored; colour profile, credit and copyright stay', async () => {
    const site = await openSite(await smallSite());
    const bytes = await sharp({ create: { width: 60, height: 40, channels: 3, background: '#283' } })
      .withExif({
        IFD0: { Copyright: '(c) Corvane Hill' },
        IFD2: { BodySerialNumber: 'SER12345', CameraOwnerName: 'Owner Oswin' },
        IFD3: { GPSLatitudeRef: 'N', GPSLatitude: '54/1 10/1 0/1' },
      })
      .withIccProfile('p3')
      .jpeg()
      .toBuffer();
    const arrivals = new Arrivals(site);
    const arrival = await arrive(site, bytes, 'place.jpg');
    expect(arrival.ready).not.toBeNull();
    await arrivals.bringIn([arrival.id], 1);
    const stored = await readFile(join(site.folder.root, 'place.jpg'));
    expect([stored.includes('SER12345'), stored.includes('Owner Oswin')]).toEqual([false, false]);
    expect(stored.includes('(c) Corvane Hill')).toBe(true);
    const { icc, exif } = await sharp(stored).metadata();
    expect(icc).toBeDefined();
    expect((await site.metadata.read(join(site.folder.root, 'place.jpg'))).place).toBe(false);
    expect(exif).toBeDefined();
    // The pixels are the very same.
    const raw = (of: Buffer) => sharp(of).raw().toBuffer();
    expect((await raw(stored)).equals(await raw(bytes))).toBe(true);
    const kept = await arrive(site, bytes, 'kept.jpg');
    await arrivals.change([kept.id], 1, { choices: { place: 'keep', same: 'keep' } });
    await arrivals.bringIn([kept.id], 1);
    expect((await readFile(join(site.folder.root, 'kept.jpg'))).equals(bytes)).toBe(true);
  });

  test('a smaller copy goes to the site, the original is kept off it, nothing is enlarged', async () => {
    const site = await openSite(await smallSite());
    const { folder: _root, ...anything } = SITE_RULE;
    site.rules.setValue('img', { ...anything, largestSide: 100 });
    const large = await sharp({
      create: {
        width: 400,
        height: 200,
        channels: 3,
        background: '#777',
        noise: { type: 'gaussian', mean: 99, sigma: 20 },
      },
    })
      .jpeg()
      .toBuffer();
    const arrivals = new Arrivals(site);
    const one = await arrive(site, large, 'wide.jpg', { folder: 'img' });
    const small = await arrive(site, await picture(33, 'jpeg'), 'small.jpg', { folder: 'img' });
    expect([one.ready!.width, one.ready!.height, small.ready]).toEqual([100, 50, null]);
    const { itemIds, entryId } = await arrivals.bringIn([one.id, small.id], 1);
    expect(site.items.need(itemIds[0]!)).toMatchObject({ width: 100, height: 50, originalName: 'wide.jpg' });
    expect(site.blobs.has(one.sha256)).toBe(true);
    await applyProposal(site, await proposeUndo(site, entryId!), 1);
    expect(existsSync(join(site.folder.root, 'img/wide.jpg'))).toBe(false);
  });

  test('one change brings in, replaces and leaves out; undo turns back every byte', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const arrivals = new Arrivals(site);
    const before = await treeOf(root);
    const fresh = await arrive(site, await picture(40), 'fresh.png', { folder: 'img', below: 'new/deep' });
    const version = await arrive(site, await picture(41), 'b.png', { folder: 'img' });
    await arrivals.change([version.id], 1, { name: 'b.png', choices: { clash: 'replace' } });
    const copy = await arrive(site, await picture(3), 'again.png');
    const done = await arrivals.bringIn([fresh.id, version.id, copy.id], 1);
    expect(done.used).toEqual([site.items.atPath('img/c.png')!.id]);
    expect(done.plan!.title).toBe('Bring in “fresh.png” to 2 folders, replace “b.png”');
    const after = await treeOf(root);
    expect(Object.keys(after).filter((path) => !(path in before))).toEqual([
      'img/new/',
      'img/new/deep/',
      'img/new/deep/fresh.png',
    ]);
    expect(after['img/b.png']).toBe(version.sha256);
    expect(site.arrivals.of(1)).toEqual([]);
    await applyProposal(site, await proposeUndo(site, done.entryId!), 1);
    expect(await treeOf(root)).toEqual(before);
  });
});

describe('archives', () => {
  const unpacked = async (site: OpenedSite, bytes: Buffer) => {
    const zip = await arrive(site, bytes, 'pack.zip', { folder: 'img' });
    return unpack(site, zip.id, 1).finally(() => site.checking.settled());
  };
  test('entries that point outside, links and bombs refuse the whole archive, before anything is written', async () => {
    const site = await openSite(await smallSite());
    const good = { 'xx/good.png': await picture(50), 'xx/evil.png': await picture(51) };
    const zip = await zipOf(good);
    const many = async (bytes: Buffer, sentence: RegExp) => {
      await expect(unpacked(site, bytes)).rejects.toMatchObject({
        code: 'refused-file',
        message: expect.stringMatching(sentence),
      });
      const waiting = site.arrivals.of(1);
      expect(waiting.map((row) => row.givenName)).toEqual(['pack.zip']);
      await new Arrivals(site).drop(waiting[0]!.id, 1);
    };
    await many(renamed(zip, 'xx/evil.png', '../evil.png'), /“..\/evil.png” in the archive points outside/);
    await many(renamed(zip, 'xx/evil.png', '/x/evil.png'), /points outside/);
    await many(await zipOf(good, { mode: 0o120777 }), /is a link or a device/);
    await many(await zipOf({ 'bomb.png': Buffer.alloc(8_000_000) }), /far more than it weighs/);
    expect(await readdir(site.data.arrivals)).toEqual([]);
  });
  test('archives that are cut off, empty or locked say so, and a wrong checksum refuses its file', async () => {
    const site = await openSite(await smallSite());
    const zip = await zipOf(
      { 'one.png': await picture(52), 'two.png': await picture(54) },
      { compress: false },
    );
    const locked = await zipOf({ 'one.png': await picture(52), 'two.png': await picture(54) });
    // The flag of encryption (APPNOTE, 4.4.4), in the entries and in their list.
    for (const [sign, flag] of [
      ['PK\u0003\u0004', 6],
      ['PK\u0001\u0002', 8],
    ] as const)
      for (let at = locked.indexOf(sign, 0, 'latin1'); at >= 0; at = locked.indexOf(sign, at + 4, 'latin1'))
        locked[at + flag]! |= 1;
    for (const [name, bytes, why] of [
      ['cut.zip', zip.subarray(0, zip.length - 30), 'ends too early'],
      ['empty.zip', await zipOf({}), 'It is empty'],
      ['junk.zip', await zipOf({ 'Thumbs.db': Buffer.from('x') }), 'It is empty'],
      ['locked.zip', locked, 'protected by a password'],
    ] as const) {
      const arrival = await arrive(site, bytes, name);
      expect(arrival, name).toMatchObject({ state: 'ready', outcome: 'bring-in' });
      expect(note(arrival), name).toContain(why);
    }
    // Its bytes are others than those that were packed, though they can be unpacked.
    const wrong = Buffer.from(zip);
    const pixel = wrong.indexOf('IEND', 0, 'latin1');
    wrong[pixel + 3]! ^= 1;
    expect(await unpacked(site, wrong)).toBe(2);
    const rows = (await new Arrivals(site).since(1, 0)).changed.filter((row) =>
      row.givenName.endsWith('.png'),
    );
    expect(rows.map((row) => [row.givenName, row.state]).sort()).toEqual([
      ['one.png', 'refused'],
      ['two.png', 'ready'],
    ]);
    expect(rows.find((row) => row.state === 'refused')!.refused).toContain(
      'Its checksum is wrong: it is damaged.',
    );
  });
  test('a damaged entry is refused by itself; the others stay, with their folders; junk is left out', async () => {
    const site = await openSite(await smallSite());
    const noise = await sharp({
      create: {
        width: 64,
        height: 64,
        channels: 3,
        background: '#222',
        noise: { type: 'gaussian', mean: 99, sigma: 50 },
      },
    })
      .png()
      .toBuffer();
    const zip = await zipOf({
      'Set A/one.png': await picture(52),
      'Set A/two.png': noise,
      '__MACOSX/Set A/._one.png': Buffer.from('x'),
      'Thumbs.db': Buffer.from('x'),
      'inner.zip': await zipOf({ 'deep.png': await picture(53) }),
    });
    // The packed bytes of the second entry begin with its own; spoil some of them.
    const at = zip.indexOf('Set A/two.png') + 60;
    zip.fill(0xff, at, at + 200);
    expect(await unpacked(site, zip)).toBe(3);
    const rows = (await new Arrivals(site).since(1, 0)).changed.filter((row) => row.givenName !== 'pack.zip');
    expect(rows.map((row) => [row.givenName, row.state, row.below]).sort()).toEqual([
      ['inner.zip', 'ready', ''],
      ['one.png', 'ready', 'set-a'],
      ['two.png', 'refused', 'set-a'],
    ]);
    // One level only: an archive in an archive is kept as a file.
    const inner = rows.find((row) => row.givenName === 'inner.zip')!;
    expect(inner.findings.some((one) => one.code === 'archive')).toBe(false);
  });
});

describe('fetching from elsewhere', () => {
  let supplier: Server | undefined;
  afterEach(() => supplier?.close());
  const serve = async (answer: Parameters<typeof createServer>[1]): Promise<string> => {
    supplier = createServer(answer!);
    await new Promise<void>((done) => supplier!.listen(0, '127.0.0.1', done));
    return `127.0.0.1:${(supplier.address() as AddressInfo).port}`;
  };
  const to = { personId: 1, folder: 'img' };

  test('the private network is out of reach: by number, by name, in other spellings, and after a redirect', async () => {
    const site = await openSite(await smallSite());
    let asked = 0;
    const host = await serve((_req, res) => {
      asked++;
      res.writeHead(302, { Location: `http://localhost:${host.split(':')[1]}/x.png` }).end();
    });
    const port = host.split(':')[1];
    for (const address of [
      `http://${host}/a.png`,
      `http://localhost:${port}/a.png`,
      `http://2130706433:${port}/a.png`,
      `http://0x7f.1:${port}/a.png`,
      `http://[::1]:${port}/a.png`,
      `http://[::ffff:127.0.0.1]:${port}/a.png`,
      'http://169.254.169.254/latest/meta-data',
      'http://10.0.0.1/',
      'http://0.0.0.0/',
    ])
      await expect(fetchFile(site, { allowed: true, hosts: [] }, address, to), address).rejects.toMatchObject(
        {
          code: 'forbidden',
        },
      );
    expect(asked).toBe(0);
    // An allowed host may not lead on to one that is not.
    await expect(
      fetchFile(site, { allowed: true, hosts: [host] }, `http://${host}/a.png`, to),
    ).rejects.toMatchObject({ code: 'forbidden', message: expect.stringContaining('private network') });
    for (const address of ['file:///etc/passwd', 'ftp://x.example/a', 'http://user:pw@x.example/', 'nothing'])
      await expect(fetchFile(site, { allowed: true, hosts: [] }, address, to)).rejects.toMatchObject({
        code: 'bad-request',
      });
    expect(site.arrivals.of(1)).toEqual([]);
  });

  test('a supplier’s file comes through the same door; what is no file is told', async () => {
    const site = await openSite(await smallSite());
    const bytes = await picture(60);
    const host = await serve((req, res) => {
      if (req.url === '/Sch%C3%B6nes%20Bild.png') res.end(bytes);
      else res.writeHead(404).end('no');
    });
    const setting = { allowed: true, hosts: [host] };
    await fetchFile(site, setting, `http://${host}/Sch%C3%B6nes%20Bild.png`, to);
    await site.checking.settled();
    expect((await new Arrivals(site).since(1, 0)).changed).toMatchObject([
      { state: 'ready', givenName: 'Schönes Bild.png', name: 'schones-bild.png', folder: 'img' },
    ]);
    await expect(fetchFile(site, setting, `http://${host}/none.png`, to)).rejects.toMatchObject({
      message: expect.stringContaining('answered 404'),
    });
    await expect(
      fetchFile(site, { allowed: false, hosts: [] }, `http://${host}/x.png`, to),
    ).rejects.toMatchObject({ code: 'forbidden' });
  });

  test('fetching ends with whoever waits for it, and after a time in any case', async () => {
    const site = await openSite(await smallSite());
    let ended = 0;
    const host = await serve((req, res) => {
      res.on('close', () => ended++);
      res.writeHead(200, { 'Content-Type': 'image/png' });
      // A little every now and then: it never is idle.
      const drip = setInterval(() => res.write('x'), 20);
      req.on('close', () => clearInterval(drip));
    });
    const setting = { allowed: false, hosts: [host] };
    const leaves = new AbortController();
    const waited = fetchFile(site, setting, `http://${host}/a.png`, to, leaves.signal);
    setTimeout(() => leaves.abort(new Error('left')), 200);
    await expect(waited).rejects.toThrow();
    await expect(
      fetchFile(site, setting, `http://${host}/a.png`, to, undefined, { fetchWhole: 300 }),
    ).rejects.toMatchObject({ message: expect.stringContaining('takes too long') as string });
    await expect.poll(() => ended).toBe(2);
    expect(site.arrivals.of(1)).toEqual([]);
    expect(await readdir(site.data.arrivals)).toEqual([]);
  });

  test('naming one host allows no other, and where fetching is off nothing is asked of any', async () => {
    const site = await openSite(await smallSite());
    for (const hosts of [[], ['supplier.example:443']])
      await expect(
        fetchFile(site, { allowed: false, hosts }, 'http://93.184.216.34/a.png', to),
      ).rejects.toMatchObject({
        code: 'forbidden',
        message: expect.stringContaining('switched off') as string,
      });
  });

  test.each([
    ['8.8.8.8', true],
    ['192.168.1.1', false],
    ['100.64.0.1', false],
    ['fe80::1', false],
    ['fc00::1', false],
    ['::ffff:10.0.0.1', false],
    ['2606:4700::1111', true],
    ['224.0.0.1', false],
    ['::7f00:1', false],
    ['::127.0.0.1', false],
    ['64:ff9b::7f00:1', false],
    ['2002:7f00:1::', false],
    ['fec0::1', false],
  ])('%s is public: %s', (address, yes) => expect(isPublic(address)).toBe(yes));
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
