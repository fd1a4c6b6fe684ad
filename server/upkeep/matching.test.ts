import { mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp, { type Sharp } from 'sharp';
import { afterEach, expect, test } from 'vitest';
import { SMALL_DEMO } from '../../demo/test-setup.ts';
import { closeSites, openSite, siteFolder } from '../test/site.ts';

afterEach(closeSites);

const NAMES = ['images/moon/moon-full.jpg', 'images/planets/saturn-june.jpg', 'images/dome/dome-snow.jpg'];

/** A folder with variants of three images of the demo, each in a folder of its own. */
async function variants(): Promise<string> {
  const root = await siteFolder({ 'index.html': '<title>x</title>' });
  for (const [at, name] of NAMES.entries()) {
    const bytes = await readFile(join(SMALL_DEMO, name));
    const { width, height } = await sharp(bytes).metadata();
    await mkdir(join(root, `p${at}`));
    const write = async (to: string, picture: Sharp) =>
      writeFile(join(root, `p${at}`, to), await picture.toBuffer());
    await writeFile(join(root, `p${at}`, 'original.jpg'), bytes);
    await write('small.jpg', sharp(bytes).resize(Math.round(width / 2)));
    await write('again.jpg', sharp(bytes).jpeg({ quality: 35 }));
    await write('bright.jpg', sharp(bytes).linear(1.2, 0));
    await write('mirrored.jpg', sharp(bytes).flop());
    await write(
      'part.jpg',
      sharp(bytes).extract({
        left: Math.round(width * 0.1),
        top: Math.round(height * 0.1),
        width: Math.round(width * 0.8),
        height: Math.round(height * 0.8),
      }),
    );
  }
  return root;
}

test('what shows the same is found, with how; after a restart only what is new is looked for', async () => {
  const root = await variants();
  let site = await openSite(root);
  await site.analyser.analyseAll();
  const folderOf = (sha256: string) => site.items.withHash(sha256)[0]!.folder;
  const relations = () =>
    Object.fromEntries(
      site.alikes
        .of(site.items.atPath('p2/original.jpg')!.sha256)
        .map(({ sha256, relation }) => [site.items.withHash(sha256)[0]!.name, relation]),
    );
  const pairs = site.alikes.here();
  expect(pairs.length).toBeGreaterThan(3 * 5);
  for (const { one, other } of pairs) expect(folderOf(one)).toBe(folderOf(other));
  expect(relations()).toMatchObject({
    'small.jpg': 'resized',
    'again.jpg': 're-encoded',
    'bright.jpg': 'edited',
    'mirrored.jpg': 'turned',
    'part.jpg': 'cropped',
  });
  expect(site.alikes.unmatched(10)).toEqual([]);
  await site.close();

  // Another one comes while nothing runs.
  await writeFile(
    join(root, 'p2/third.webp'),
    await sharp(join(root, 'p2/original.jpg')).resize(300).webp().toBuffer(),
  );
  site = await openSite(root);
  const { sha256 } = site.items.atPath('p2/third.webp')!;
  await site.analyser.analyseAll();
  expect(site.alikes.of(sha256).map((one) => folderOf(one.sha256))).toEqual(
    expect.arrayContaining(['p2', 'p2', 'p2']),
  );
  expect(relations()).toMatchObject({ 'third.webp': 'resized' });
  expect(site.alikes.here()).toEqual(expect.arrayContaining(pairs));

  // Looked at anew, as after an update that sees more: by and by, while what was known before is still held.
  site.db.run('update content set version = version - 1');
  for (const { sha256: again } of site.items.withHash(sha256)) await site.matching.match(again);
  await site.analyser.analyseAll();
  expect(site.alikes.unmatched(10)).toEqual([]);
  const members = (some: typeof pairs) => some.map(({ one, other }) => `${one} ${other}`);
  expect(members(site.alikes.here())).toEqual(expect.arrayContaining(members(pairs)));
  expect(relations()).toMatchObject({ 'third.webp': 'resized' });

  // What is forgotten is no one's likeness any more.
  await rm(join(root, 'p2/third.webp'));
  await site.scanner.scan();
  expect(members(site.alikes.here())).toEqual(members(pairs));
});
