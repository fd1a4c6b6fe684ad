import sharp from 'sharp';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { SURE } from '../core/picture/subject.ts';
import { subject } from '../server/media/subject.ts';
import { SEED } from './make.ts';
import { render } from './render.ts';
import { eventPhotos, shopShots } from './sets.ts';

let folder = '';
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'iconomos-sets-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

test('the thing on each shot of the shop is found where it was put; on the striped cloth it is said that none can be told', async () => {
  const errors: number[] = [];
  const unsure: string[] = [];
  for (const { path, recipe, shot, title } of shopShots(SEED)) {
    if (recipe.make === 'copy') throw new Error('a shot is made');
    const file = join(folder, 'shot.jpg');
    await writeFile(file, await render(recipe, path));
    const found = await subject(file, 'image/jpeg');
    if (typeof found === 'string' || found.sure < SURE) {
      unsure.push(title!);
      continue;
    }
    const { box } = shot;
    errors.push(
      Math.max(
        Math.abs(found.x - box.x),
        Math.abs(found.y - box.y),
        Math.abs(found.x + found.width - box.x - box.width),
        Math.abs(found.y + found.height - box.y - box.height),
      ),
    );
  }
  errors.sort((a, b) => a - b);
  expect(unsure).toEqual(['Chart bag']);
  expect(errors[errors.length >> 1]).toBeLessThan(0.01);
  expect(errors.at(-1)).toBeLessThan(0.02);
});

test('twenty-four photographs as cameras call them, of six sizes, none called as another', async () => {
  const photos = eventPhotos(SEED);
  expect(new Set(photos.map(({ path }) => path)).size).toBe(24);
  expect(photos.every(({ path }) => /\/DSC_\d{4}\.JPG$/.test(path))).toBe(true);
  const recipe = photos[5]!.recipe;
  if (recipe.make !== 'picture') throw new Error('a photograph is painted');
  const { width, height } = await sharp(await render(recipe, photos[5]!.path, 40)).metadata();
  expect([width, height]).toEqual([640, 480]);
});
