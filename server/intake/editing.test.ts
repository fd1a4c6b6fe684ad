import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterEach, expect, test } from 'vitest';
import { SITE_RULE } from '../../core/intake/rules.ts';
import type { Recipe } from '../../core/picture/recipe/recipe.ts';
import { TREATMENTS } from '../../core/picture/recipe/treatments.ts';
import { proposePrepare } from '../changes/prepare.ts';
import { applyProposal } from '../changes/apply.ts';
import { painted } from '../test/media.ts';
import { note } from '../test/arrived.ts';
import { heic } from '../test/heic.ts';
import { arrive, closeSites, openSite, smallSite, treeOf } from '../test/site.ts';
import { Arrivals } from './arrivals.ts';

/** Images that are edited, or treated by their folder, before they are brought in. */
afterEach(closeSites);

const SQUARE: Recipe = {
  version: 1,
  frame: { x: 0.25, y: 0, width: 0.5, height: 1, ratio: [1, 1] },
};
const png = async (seed: number, width: number, height: number) =>
  sharp(await painted(seed, width, height))
    .png()
    .toBuffer();
const sizeOf = async (file: string) => {
  const { width, height, format } = await sharp(file).metadata();
  return [width, height, format];
};

test('edited at the door: what is brought in is cropped, its record knows how, and the original comes back byte by byte', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  const arrivals = new Arrivals(site);
  const bytes = await png(3, 400, 200);
  const { id } = await arrive(site, bytes, 'grab.png');
  const [edited] = await arrivals.change([id], 1, { recipe: SQUARE });
  expect(edited).toMatchObject({ recipe: SQUARE, editable: true, ready: { width: 200, height: 200 } });
  expect(note(edited!)).toContain('Edited: Cropped to 1:1.');
  // As a person looks at it on the list.
  expect(
    await sizeOf(join(site.data.thumbnails, `${edited!.ready!.sha256}-320.webp`)).then(
      ([width, height]) => width === height,
    ),
  ).toBe(true);
  // Edited again it is made of what was sent, and not of what was made before.
  await arrivals.change([id], 1, { recipe: { ...SQUARE, tone: { blackAndWhite: true } } });
  expect(arrivals.sourceOf(id, 1)).toMatchObject({ original: { width: 400, height: 200 } });
  await arrivals.change([id], 1, { recipe: SQUARE });
  await arrivals.bringIn([id], 1);
  const path = join(root, 'grab.png');
  expect(await sizeOf(path)).toEqual([200, 200, 'png']);
  const item = site.items.atPath('grab.png')!;
  await applyProposal(
    site,
    await proposePrepare(site, {
      kind: 'prepare',
      itemId: item.id,
      recipe: { version: 1 },
      to: { as: 'this', sizes: 'all' },
    }),
    1,
  );
  expect((await readFile(path)).equals(bytes)).toBe(true);
});

test('another format gives another ending, and the old one when the edit is taken back; a phone’s image becomes a JPEG', async () => {
  const site = await openSite(await smallSite());
  const arrivals = new Arrivals(site);
  const { id } = await arrive(site, await png(3, 400, 200), 'grab.png');
  const toWebp: Recipe = { ...SQUARE, file: { format: 'webp' } };
  expect((await arrivals.change([id], 1, { recipe: toWebp }))[0]!.name).toBe('grab.webp');
  const [back] = await arrivals.change([id], 1, { recipe: null });
  expect(back).toMatchObject({ name: 'grab.png', recipe: null, ready: null });

  const phone = await arrive(
    site,
    heic(64, 48, () => [120, 128, 128]),
    'IMG_1.heic',
  );
  const [kept] = await arrivals.change([phone.id], 1, { choices: { type: 'keep' } });
  expect(kept!.name).toMatch(/\.heic$/);
  const [edited] = await arrivals.change([phone.id], 1, { recipe: { version: 1, orient: { turns: 1 } } });
  expect(edited!.name).toMatch(/\.jpg$/);
  expect([edited!.ready!.width, edited!.ready!.height]).toEqual([edited!.height, edited!.width]);
});

test('the treatment of a folder is applied at the door, unless a person keeps the image as it is', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  const treatment = TREATMENTS.find((one) => one.name === 'Event gallery')!;
  const { folder: _, ...rule } = { ...SITE_RULE, treatment };
  site.rules.setValue('events', rule as never);
  const arrivals = new Arrivals(site);
  const ids: number[] = [];
  for (const [at, name] of ['one.png', 'two.png'].entries()) {
    const { id } = await arrive(site, await png(at + 5, 1200, 900), name);
    ids.push(id);
  }
  const [one, two] = await arrivals.change(ids, 1, { folder: 'events' });
  expect(note(one!)).toContain('The folder’s treatment “Event gallery”');
  expect([one!.name, two!.name]).toEqual(['events-001.jpg', 'events-002.jpg']);
  expect(one!.ready).toMatchObject({ width: 800, height: 600 });
  await arrivals.change([two!.id], 1, { choices: { treat: 'keep' } });
  await arrivals.bringIn(ids, 1);
  expect(await sizeOf(join(root, 'events/events-001.jpg'))).toEqual([800, 600, 'jpeg']);
  expect(await sizeOf(join(root, 'events/two.png'))).toEqual([1200, 900, 'png']);
  expect(Object.keys(await treeOf(root)).filter((path) => /^events\/./.test(path))).toHaveLength(2);
});

test('what can’t be edited says so: a drawing, and a frame that leaves no pixel', async () => {
  const site = await openSite(await smallSite());
  const arrivals = new Arrivals(site);
  const drawing = Buffer.from(
    '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><path d="M1 1h5"/></svg>',
  );
  const { id } = await arrive(site, drawing, 'drawing.svg');
  await expect(arrivals.change([id], 1, { recipe: SQUARE })).rejects.toThrow('can’t be edited');
  const small = await arrive(site, await png(1, 40, 20), 'small.png');
  const nothing: Recipe = { version: 1, frame: { x: 0, y: 0, width: 0.001, height: 1 } };
  await expect(arrivals.change([small.id], 1, { recipe: nothing })).rejects.toThrow();
  expect(arrivals.need(small.id, 1).recipe).toBeNull();
});
