import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, describe, expect, test } from 'vitest';
import { film, filmAs, placedPhotograph, stubbornFilm } from '../test/media.ts';
import { arrive, closeSites, openSite, picture, smallSite, treeOf } from '../test/site.ts';
import { Arrivals } from './arrivals.ts';

afterEach(closeSites);

const PLACE = '+54.1000-030.0100/';
const location = ['-c', 'copy', '-metadata', `location=${PLACE}`];
const KEYS = ['-movflags', 'use_metadata_tags'];

describe('what tells where a video was taken goes from what is stored', () => {
  test.each([
    ['an MP4 with a location box', 'a.mp4', location],
    ['a 3GP with a location box', 'a.3gp', location],
    ['a MOV with keys of its own', 'a.mov', [...location, ...KEYS]],
    [
      'a MOV with the keys of phones',
      'a.mov',
      [...location, ...KEYS, '-metadata', `com.apple.quicktime.location.ISO6709=${PLACE}`],
    ],
    [
      'a Matroska video with a tag',
      'a.mkv',
      ['-c', 'copy', '-metadata', `LOCATION=${PLACE}`, '-metadata', 'TITLE=Boats'],
    ],
    [
      'a Matroska video with a tag of its track',
      'a.mkv',
      ['-c', 'copy', '-metadata:s:v', `GPS_POSITION=${PLACE}`],
    ],
  ])('%s', async (_what, name, args) => {
    const site = await openSite(await smallSite());
    const sent = await filmAs(await film(30), name, args);
    const arrivals = new Arrivals(site);
    const arrival = await arrive(site, sent, `boats.${name.slice(2)}`);
    expect(arrival.findings.find((one) => one.code === 'place')).toMatchObject({
      text: 'It contains the place where it was taken.',
      chosen: 'remove',
    });
    await arrivals.bringIn([arrival.id], 1);
    const stored = await readFile(join(site.folder.root, `boats.${name.slice(2)}`));
    expect([sent.includes('030.01') || sent.includes('loci'), stored.includes('030.01')]).toEqual([
      true,
      false,
    ]);
    expect((await site.metadata.read(join(site.folder.root, `boats.${name.slice(2)}`))).place).toBe(false);
    // It is the same video: as long, with the same frames, and with what else it says.
    const frames = (bytes: Buffer) => filmAs(bytes, 'a.rgb', ['-f', 'rawvideo', '-pix_fmt', 'gray']);
    expect((await frames(stored)).equals(await frames(sent))).toBe(true);
    if (args.includes('TITLE=Boats')) expect(stored.includes('Boats')).toBe(true);
  });

  test('tags behind the images of a Matroska video are found as well', async () => {
    const site = await openSite(await smallSite());
    const plain = await filmAs(await film(30), 'a.mkv', ['-c', 'copy']);
    const text = (id: number[], value: string) =>
      Buffer.from([...id, 0x80 | value.length, ...Buffer.from(value)]);
    const within = (id: number[], ...parts: Buffer[]) => {
      const body = Buffer.concat(parts);
      return Buffer.concat([Buffer.from([...id, 0x40, body.length]), body]);
    };
    const simple = within([0x67, 0xc8], text([0x45, 0xa3], 'LOCATION'), text([0x44, 0x87], PLACE));
    const tags = within([0x12, 0x54, 0xc3, 0x67], within([0x73, 0x73], within([0x63, 0xc0]), simple));
    // The segment goes on to the end of the file when its size is unknown.
    const segment = plain.indexOf(Buffer.from([0x18, 0x53, 0x80, 0x67])) + 4;
    plain.fill(0xff, segment + 1, segment + 8);
    plain[segment] = 0x01;
    const arrival = await arrive(site, Buffer.concat([plain, tags]), 'late.mkv');
    expect(arrival.findings.map((one) => one.code)).toContain('place');
    await new Arrivals(site).bringIn([arrival.id], 1);
    expect((await readFile(join(site.folder.root, 'late.mkv'))).includes('030.01')).toBe(false);
  });
});

describe('what cannot be taken out', () => {
  test('asks, and goes to the site only if a person says so', async () => {
    const site = await openSite(await smallSite());
    const arrivals = new Arrivals(site);
    const photo = await placedPhotograph();
    site.metadata.copyWithoutPrivate = () =>
      Promise.reject(new Error(`Error: ${site.folder.root}/secret: no room`));
    const arrival = await arrive(site, photo, 'harbour.jpg');
    expect(arrival.outcome).toBe('ask');
    expect(arrival.findings.find((one) => one.code === 'place')).toEqual({
      code: 'place',
      text: 'It contains the place where it was taken. It could not be removed.',
      weight: 'asks',
      remedies: [
        { key: 'skip', text: 'Skip this one' },
        { key: 'keep', text: 'Keep it' },
      ],
    });
    expect(JSON.stringify(arrival)).not.toContain(site.folder.root);
    const before = await treeOf(site.folder.root);
    expect(await arrivals.bringIn([arrival.id], 1)).toMatchObject({ entryId: null, itemIds: [] });
    expect(await treeOf(site.folder.root)).toEqual(before);
    const [left] = await arrivals.change([arrival.id], 1, { choices: { place: 'skip' } });
    expect(left!.outcome).toBe('leave-out');
    await arrivals.change([arrival.id], 1, { choices: { place: 'keep' } });
    await arrivals.bringIn([arrival.id], 1);
    expect((await readFile(join(site.folder.root, 'harbour.jpg'))).equals(photo)).toBe(true);
  });

  test('a copy that still tells the place is no copy', async () => {
    const site = await openSite(await smallSite());
    const file = join(site.data.root, 'stubborn.mp4');
    await writeFile(file, await stubbornFilm());
    expect((await site.metadata.read(file)).place).toBe(true);
    expect(await site.metadata.copyWithoutPrivate(file, `${file}.copy`)).toBe(false);
    await expect(readFile(`${file}.copy`)).rejects.toThrow('ENOENT');
    const arrival = await arrive(site, await stubbornFilm(), 'stubborn.mp4');
    expect(arrival.outcome).toBe('ask');
  });
});

describe('a file that is left out while it is checked or prepared', () => {
  test('leaves nothing, and nothing of it comes under the next name', async () => {
    const site = await openSite(await smallSite());
    const arrivals = new Arrivals(site);
    for (let at = 0; at < 4; at++) {
      const first = await arrive(site, await placedPhotograph(60 + at), `secret-${at}.jpg`, {
        folder: 'img',
      });
      // Its copy is made anew, which takes a while; it is left out meanwhile, and another file comes.
      const prepared = arrivals.change([first.id], 1, { choices: { place: 'keep' } }).catch(() => undefined);
      const again = site.checking.prepare(first.id);
      await arrivals.drop(first.id, 1);
      const next = await arrive(site, await picture(70 + at, 'jpeg'), `open-${at}.jpg`, { folder: 'img' });
      await Promise.all([prepared, again]);
      expect(next.id).toBeGreaterThan(first.id);
      await arrivals.bringIn([next.id], 1);
      const stored = await readFile(join(site.folder.root, `img/open-${at}.jpg`));
      expect(stored.equals(await picture(70 + at, 'jpeg'))).toBe(true);
      for (const sha256 of [first.sha256, first.ready!.sha256]) expect(site.blobs.has(sha256)).toBe(false);
    }
  });

  test('a result is written only to the row that was read', async () => {
    const site = await openSite(await smallSite());
    const one = await arrive(site, await picture(40, 'png'), 'one.png');
    const row = site.arrivals.get(one.id)!;
    expect(site.arrivals.set({ id: row.id, at: '2001-01-01T00:00:00.000Z' }, { name: 'other.png' })).toBe(
      false,
    );
    expect(site.arrivals.get(one.id)!.name).toBe('one.png');
    expect(site.arrivals.set(row, { name: 'two.png' })).toBe(true);
  });
});
