import { gzipSync } from 'node:zlib';
import { readdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterEach, describe, expect, test } from 'vitest';
import { SMALL_DEMO } from '../../demo/test-setup.ts';
import { proposeAddress } from '../changes/addresses.ts';
import { applyProposal } from '../changes/apply.ts';
import { proposeRule } from '../changes/records.ts';
import { proposeUndo } from '../changes/undo.ts';
import { SITE_RULE } from '../../core/intake/rules.ts';
import { newPiece, PLAIN_PATTERN, type NamePiece } from '../../core/naming/pattern.ts';
import { arrive, closeSites, openSite, picture, smallSite, treeOf } from '../test/site.ts';
import { Arrivals } from './arrivals.ts';
import { headerSize } from '../media/inspect.ts';

afterEach(closeSites);

const jpeg = () => picture(50, 'jpeg');

describe('the door', () => {
  test.each<[string, string, () => Promise<Uint8Array> | Uint8Array, RegExp]>([
    ['empty', 'a.png', () => Buffer.alloc(0), /empty/],
    [
      'cut off',
      'a.jpg',
      async () =>
        (
          await sharp({
            create: {
              width: 800,
              height: 600,
              channels: 3,
              background: '#123',
              noise: { type: 'gaussian', mean: 128, sigma: 40 },
            },
          })
            .jpeg()
            .toBuffer()
        ).subarray(0, 9000),
      /ends too early/,
    ],
    [
      'a program',
      'holiday.jpg',
      () => Buffer.concat([Buffer.from('7f454c46020101000000000000000000', 'hex'), Buffer.alloc(200)]),
      /program/,
    ],
    ['HTML as an image', 'a.png', () => Buffer.from('<!doctype html><script>1</script>'), /page or a script/],
    [
      'PHP behind two extensions',
      'a.php.jpg',
      () => Buffer.from('<?php system($_GET[1]);'),
      /page or a script/,
    ],
    ['text as an image', 'a.gif', () => Buffer.from('hello'), /text, not what its name says/],
    [
      'a playlist as a video',
      'a.mp4',
      () => Buffer.from('ffconcat version 1.0\nfile /etc/passwd\n'),
      /text, not what/,
    ],
    ['a drawing that grows', 'a.svg', () => growingDrawing(), /grow without bound/],
    ['a packed drawing that is none', 'a.svgz', () => gzipSync('hello'), /text, not what/],
    ['text of no kind', 'notes', () => Buffer.from('hello'), /Neither its content nor its name/],
    ['a style sheet', 'site.css', () => Buffer.from('body{}'), /page or a script/],
    ['a script behind a dot', 'a.jpg.phtml', () => Buffer.from('hello'), /page or a script/],
    ['a server’s setting', '.htaccess', () => Buffer.from('Deny from all'), /Neither|page or a script/],
    [
      'XML that could hold script',
      'a.xml',
      () => Buffer.from('<a xmlns="http://www.w3.org/1999/xhtml"/>'),
      /page or a script/,
    ],
    [
      'an installer',
      'holiday.jpg',
      () => Buffer.concat([Buffer.from('!<arch>\ndebian-binary   '), Buffer.alloc(200)]),
      /program/,
    ],
    ['noise as an image', 'a.png', () => Buffer.from([1, 2, 0, 3, 4, 0, 5]), /damaged/],
    ['a cut-off PDF', 'a.pdf', () => Buffer.from('%PDF-1.7\n1 0 obj\n'), /PDF ends too early/],
    [
      'a cut-off video',
      'a.mp4',
      async () => (await readFile(join(SMALL_DEMO, 'media/timelapse/moonrise.mp4'))).subarray(0, 4000),
      /ends too early/,
    ],
    ['a bomb of pixels', 'a.png', () => hugePng(), /megapixels/],
  ])('refuses %s', async (_what, name, bytes, sentence) => {
    const site = await openSite(await smallSite());
    const before = await treeOf(site.folder.root);
    expect(await arrive(site, Buffer.from(await bytes()), name)).toMatchObject({
      state: 'refused',
      refused: expect.stringMatching(sentence),
    });
    expect(await readdir(site.data.arrivals)).toEqual([]);
    expect(await readdir(site.data.blobs)).toEqual([]);
    expect(await readdir(site.data.thumbnails)).toEqual([]);
    expect(await treeOf(site.folder.root)).toEqual(before);
  });

  test.each<[string, () => Promise<Uint8Array> | Uint8Array, string]>([
    ['IMG_0001.JPG', jpeg, 'img-0001.jpg'],
    ['photo.png', jpeg, 'photo.jpg'],
    ['no extension', jpeg, 'no-extension.jpg'],
    ['../../etc/passwd.jpg', jpeg, 'passwd.jpg'],
    ['Größe & Höhe (2).jpeg', jpeg, 'grosse-and-hohe-2.jpeg'],
    ['con.jpg', jpeg, 'con-file.jpg'],
    ['.jpg', jpeg, 'file.jpg'],
    ['   .jpg', jpeg, 'file.jpg'],
    ['..jpg', jpeg, 'file.jpg'],
    ['-rf.jpg', jpeg, 'rf.jpg'],
    ['Plan.sketch', () => emptyZip(), 'plan.sketch'],
    ['Plan.html', () => emptyZip(), 'plan.zip'],
    [
      'Star.svgz',
      () => gzipSync('<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0h9v9"/></svg>'),
      'star.svg',
    ],
    ['a\u202egpj.jpg', jpeg, 'agpj.jpg'],
    [`${'x'.repeat(400)}.jpg`, jpeg, `${'x'.repeat(116)}.jpg`],
    ['x.php.jpg', jpeg, 'x-php.jpg'],
    ['data.csv', () => Buffer.from('=1+1,b\r\n'), 'data.csv'],
    ['Star List.json', () => Buffer.from('[1]'), 'star-list.json'],
    ['model.xyz', () => Buffer.from([1, 0, 2]), 'model.xyz'],
    ['Ort.ÄÖ', () => Buffer.from([1, 0, 2]), 'ort.bin'],
    [
      'star.svg',
      () =>
        Buffer.from('<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><path d="M0 0h9"/></svg>'),
      'star.svg',
    ],
  ])('takes %s under a safe name', async (given, bytes, name) => {
    const site = await openSite(await smallSite());
    expect(await arrive(site, Buffer.from(await bytes()), given)).toMatchObject({
      state: 'ready',
      name,
      givenName: given,
    });
  });
});

/** The end record of a ZIP without entries (APPNOTE 4.3.16), behind an entry's sign so that its type is known. */
function emptyZip(): Buffer {
  return Buffer.concat([
    Buffer.from('504b0304', 'hex'),
    Buffer.alloc(60),
    Buffer.from('504b0506', 'hex'),
    Buffer.alloc(18),
  ]);
}

/** Nine bytes that become millions by entities within entities. */
function growingDrawing(): Buffer {
  const levels = Array.from({ length: 6 }, (_, i) => `<!ENTITY e${i + 1} "${`&e${i};`.repeat(15)}">`).join(
    '',
  );
  return Buffer.from(
    `<?xml version="1.0"?><!DOCTYPE any [<!ENTITY e0 "some text">${levels}]><svg xmlns="http://www.w3.org/2000/svg"><text>&e6;</text></svg>`,
  );
}

describe('bringing in', () => {
  test('a batch is one change; taken names get a number; undo takes it back, redo brings it again', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const before = await treeOf(root);
    const arrivals = new Arrivals(site);
    const one = await arrive(site, await picture(60), 'b.png', { folder: 'img', personId: 2 });
    const two = await arrive(site, await picture(61), 'B.png', { folder: 'img', personId: 2 });
    const { entryId, itemIds } = await arrivals.bringIn([one.id, two.id], 2);
    const after = await treeOf(root);
    expect(Object.keys(after).filter((path) => !(path in before))).toEqual(['img/b-2.png', 'img/b-3.png']);
    expect(after['img/b.png']).toBe(before['img/b.png']);
    expect(site.items.need(itemIds[0]!)).toMatchObject({
      addedBy: 'Ben',
      originalName: 'b.png',
      width: 24,
      use: 'unused',
    });
    expect(site.arrivals.of(2)).toEqual([]);
    const undone = await applyProposal(site, await proposeUndo(site, entryId!), 1);
    expect(await treeOf(root)).toEqual(before);
    await applyProposal(site, await proposeUndo(site, undone), 1);
    expect(await treeOf(root)).toEqual(after);
  });

  test('a file of an unknown kind becomes an item: found on pages, renamed with them; others of its kind do not', async () => {
    const root = await smallSite();
    await writeFile(join(root, 'settings.json'), '{}');
    const site = await openSite(root);
    const before = await treeOf(root);
    const list = await arrive(site, Buffer.from('[1, 2]'), 'Star List.json', { folder: 'data' });
    expect(list.findings.map((one) => one.text).join()).toContain('for download only');
    await new Arrivals(site).bringIn([list.id], 1);
    await writeFile(join(root, 'sub/page.html'), '<a href="../data/star-list.json">All stars</a>');
    await site.scanner.scan();
    const item = site.items.atPath('data/star-list.json')!;
    expect(item).toMatchObject({ kind: 'other', use: 'placed', placements: 1 });
    expect(site.items.atPath('settings.json')).toBeUndefined();
    const renamed = await proposeAddress(site, item.id, 'data', 'stars.json');
    await applyProposal(site, renamed, 1);
    expect(await readFile(join(root, 'sub/page.html'), 'utf8')).toBe(
      '<a href="../data/stars.json">All stars</a>',
    );
    await site.scanner.scan();
    expect(site.items.atPath('data/stars.json')).toMatchObject({ id: item.id, placements: 1 });
    const [rename, bringIn] = site.rows.list(10);
    await applyProposal(site, await proposeUndo(site, rename!.id), 1);
    await expect(applyProposal(site, await proposeUndo(site, bringIn!.id), 1)).rejects.toThrow(
      'in use on a page',
    );
    await writeFile(join(root, 'sub/page.html'), '<p>No stars</p>');
    await applyProposal(site, await proposeUndo(site, bringIn!.id), 1);
    expect(Object.keys(await treeOf(root))).toEqual(Object.keys(before));
  });

  test('the same bytes are named, and a file with them waits in the store only once', async () => {
    const site = await openSite(await smallSite());
    const arrivals = new Arrivals(site);
    const bytes = await picture(70);
    const again = await arrive(site, await picture(2), 'bee.png');
    expect(again.findings.find((one) => one.code === 'same')?.path).toBe('img/b.png');
    const twice = await Promise.all([1, 2].map(() => arrive(site, bytes, 'x.png')));
    expect(new Set(twice.map((one) => one.sha256)).size).toBe(1);
    await arrivals.drop(twice[0]!.id, 1);
    expect(site.blobs.has(twice[0]!.sha256)).toBe(true);
    await arrivals.drop(twice[1]!.id, 1);
    expect(site.blobs.has(twice[0]!.sha256)).toBe(false);
  });

  test('a rule that is set while files wait names them and shrinks them; taken back, they are as before', async () => {
    const site = await openSite(await smallSite());
    const arrivals = new Arrivals(site);
    const noise = { type: 'gaussian' as const, mean: 99, sigma: 40 };
    const large = await sharp({
      create: { width: 3001, height: 2000, channels: 3, background: '#777', noise },
    })
      .jpeg()
      .toBuffer();
    const first = await arrive(site, large, 'IMG_1.jpg', { folder: 'img' });
    const second = await arrive(site, await jpeg(), 'IMG_2.jpg', { folder: 'img' });
    await arrivals.change([second.id], 1, { name: 'my-own.jpg' });
    const { folder: _root, ...anything } = SITE_RULE;
    const pattern = {
      ...PLAIN_PATTERN,
      pieces: [{ ...newPiece('text'), text: 'hill' } as NamePiece, newPiece('counter')],
    };
    const entry = await applyProposal(
      site,
      proposeRule(site, 'img', { ...anything, pattern, largestSide: 2000, largestBytes: 100_000 }),
      1,
    );
    await site.checking.settled();
    const shown = arrivals.need(first.id, 1);
    // To the pixel of what the rule says, and the limit that no quality reaches is told.
    expect([shown.name, shown.ready!.width, shown.ready!.height]).toEqual(['hill-001.jpg', 2000, 1333]);
    expect(shown.ready!.bytes).toBeGreaterThan(100_000);
    expect(shown.findings.map(({ text }) => text)).toContainEqual(
      expect.stringMatching(/^It is still .* and the folder allows 100 kB\./),
    );
    expect(arrivals.need(second.id, 1).name).toBe('my-own.jpg');
    await applyProposal(site, await proposeUndo(site, entry), 1);
    await site.checking.settled();
    expect(arrivals.need(first.id, 1)).toMatchObject({ name: first.name, ready: null });
  });

  test('what has arrived waits through a restart', async () => {
    const root = await smallSite();
    const first = await openSite(root);
    await arrive(first, await picture(80), 'late.png');
    await first.close();
    const second = await openSite(root);
    const [waiting] = (await new Arrivals(second).since(1, 0)).changed;
    await new Arrivals(second).bringIn([waiting!.id], 1);
    expect(Object.keys(await treeOf(root))).toContain('late.png');
  });

  test('into a folder that cannot be: refused, and the file still waits', async () => {
    const site = await openSite(await smallSite());
    const arrivals = new Arrivals(site);
    const one = await arrive(site, await picture(90), 'x.png', { folder: '../outside' });
    await expect(arrivals.bringIn([one.id], 1)).rejects.toMatchObject({ code: 'clash' });
    await writeFile(join(site.folder.root, 'file'), 'x');
    await arrivals.change([one.id], 1, { folder: 'file' });
    await expect(arrivals.bringIn([one.id], 1)).rejects.toThrow();
    expect(site.arrivals.of(1)).toHaveLength(1);
  });
});

test('sizes of icons and bitmaps are read from their headers', () => {
  const icon = Buffer.alloc(40);
  icon.writeUInt16LE(1, 2);
  icon.writeUInt16LE(2, 4);
  icon.set([16, 16], 6);
  icon.set([0, 0], 22);
  expect(headerSize(icon)).toEqual({ width: 256, height: 256 });
  expect(headerSize(Buffer.from('nothing'))).toBeUndefined();
});

/** A PNG whose header claims 60000 x 60000 pixels. */
function hugePng(): Buffer {
  const bytes = Buffer.alloc(60);
  bytes.set([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
  bytes.writeUInt32BE(13, 8);
  bytes.write('IHDR', 12, 'latin1');
  bytes.writeUInt32BE(60_000, 16);
  bytes.writeUInt32BE(60_000, 20);
  bytes.set([8, 2, 0, 0, 0], 24);
  bytes.writeUInt32BE(crc(bytes.subarray(12, 29)), 29);
  bytes.write('IDAT', 37, 'latin1');
  return bytes;
}

function crc(bytes: Uint8Array): number {
  let value = 0xffffffff;
  for (const byte of bytes) {
    value ^= byte;
    for (let bit = 0; bit < 8; bit++) value = (value >>> 1) ^ (value & 1 ? 0xedb88320 : 0);
  }
  return (value ^ 0xffffffff) >>> 0;
}

test('the list tells only what has changed: a row, those it speaks of, all of it after a change of the site', async () => {
  const site = await openSite(await smallSite());
  const arrivals = new Arrivals(site);
  const same = await picture(60);
  const one = await arrive(site, same, 'One.png');
  const two = await arrive(site, await picture(61), 'Two.png');
  const first = await arrivals.since(1, 0);
  expect(first.changed.map((row) => row.name)).toEqual(['one.png', 'two.png']);
  expect((await arrivals.since(1, first.revision)).changed).toEqual([]);

  await arrivals.change([two.id], 1, { words: { alt: 'Two' } });
  const second = await arrivals.since(1, first.revision);
  expect(second.changed.map((row) => row.name)).toEqual(['two.png']);

  // The third speaks of the first, so it is told anew when that one goes.
  const three = await arrive(site, same, 'Three.png');
  const third = await arrivals.since(1, second.revision);
  expect(third.changed.map((row) => [row.name, row.outcome])).toEqual([['three.png', 'leave-out']]);
  await arrivals.drop(one.id, 1);
  const fourth = await arrivals.since(1, third.revision);
  expect(fourth.ids).toEqual([two.id, three.id]);
  expect(fourth.changed.map((row) => [row.name, row.outcome])).toEqual([['three.png', 'bring-in']]);

  await writeFile(join(site.folder.root, 'new.html'), '<p>');
  await site.scanner.scan();
  expect((await arrivals.since(1, fourth.revision)).changed).toHaveLength(2);
});
