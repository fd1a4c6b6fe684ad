import { readdir } from 'node:fs/promises';
import sharp from 'sharp';
import { afterEach, describe, expect, test } from 'vitest';
import type { OpenedSite } from '../app/opened-site.ts';
import { arrive, closeSites, openSite, picture, smallSite } from '../test/site.ts';
import { Arrivals } from './arrivals.ts';
import { unpack } from './unpack.ts';
import { note } from '../test/arrived.ts';
import { zipOf } from '../test/arrived.ts';

afterEach(closeSites);

/** Names that the packing program would refuse to write. */
function renamed(zip: Buffer, from: string, to: string): Buffer {
  return Buffer.from(zip.toString('latin1').replaceAll(from, to), 'latin1');
}

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
