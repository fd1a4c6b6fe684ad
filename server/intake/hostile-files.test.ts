import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { SITE_RULE } from '../../core/intake/rules.ts';
import { afterEach, describe, expect, test } from 'vitest';
import { applyProposal } from '../changes/apply.ts';
import { proposeUndo } from '../changes/undo.ts';
import { arrive, closeSites, openSite, picture, smallSite, treeOf } from '../test/site.ts';
import { Arrivals } from './arrivals.ts';
import { note } from '../test/arrived.ts';

afterEach(closeSites);

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
