import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { beforeAll, expect, test } from 'vitest';
import { SEED } from '../demo/make.ts';
import type { Made } from '../demo/recipe.ts';
import { render } from '../demo/render.ts';
import { EVENT_FOLDER, eventPhotos, SHOTS_FOLDER, shopShots } from '../demo/sets.ts';
import { treeOf } from '../server/test/site.ts';
import { By, type Browser } from './browser.ts';
import { Session } from './session.ts';

/** Whole sets as they come from the camera: an evening's photographs for an album, and uneven shots for the shop. */
const session = new Session('sets');
let browser: Browser;
let root: string;
beforeAll(async () => {
  ({ browser, root } = session);
  await put([...eventPhotos(SEED), ...shopShots(SEED)]);
}, 120_000);
async function put(set: readonly Made[]) {
  for (const { path, recipe } of set) {
    if (recipe.make === 'copy') continue;
    await mkdir(dirname(join(root, path)), { recursive: true });
    await writeFile(join(root, path), await render(recipe, path, 40));
  }
}
const sizeOf = async (path: string) => {
  const { width, height, format } = await sharp(await readFile(join(root, path))).metadata();
  return { width: width!, height: height!, format };
};

test('24 photographs of an evening: named by folder and counter, within 800 × 600, with totals looked at; undone to the byte', async () => {
  const before = await treeOf(root);
  await session.go(`/library?folder=${EVENT_FOLDER}`);
  await browser.text('24 items');
  await browser.click('Prepare its images …');
  await browser.text(`Prepare 24 items in “${EVENT_FOLDER}”`);
  await (await browser.field('Event gallery')).click();
  await browser.inDialog('Review changes');
  await browser.text('Event gallery: 24 images');
  await browser.text('open-night-001.jpg');
  await browser.text('open-night-024.jpg');
  await browser.text('Together');
  // Smaller than the gallery shows: it stays so, and says so.
  await browser.text('Already small enough: it isn’t enlarged.');
  // What comes of each is seen before it is agreed to.
  await browser.driver.wait(
    () =>
      browser.driver.executeScript<boolean>(
        'return [...document.querySelectorAll(\'img[src*="/api/plans/"]\')].some((one) => one.naturalWidth > 100)',
      ),
    20_000,
    'an image as it will be',
  );
  expect(await session.faultsOfAccess()).toEqual([]);
  await session.applyPlan('Save 24 images', 'Event gallery');
  for (let number = 1; number <= 24; number++) {
    const { width, height, format } = await sizeOf(
      `${EVENT_FOLDER}/open-night-${String(number).padStart(3, '0')}.jpg`,
    );
    expect(format).toBe('jpeg');
    expect(width <= 800 && height <= 600).toBe(true);
  }
  await session.go('/ledger');
  await browser.click('Undo: Event gallery');
  await session.applyPlan('Undo', 'Undo: Event gallery');
  expect(await treeOf(root)).toEqual(before);
});

test('one shot is framed around its thing, with the margin that is asked for', async () => {
  await session.go(`/library?folder=${SHOTS_FOLDER}&where=name:crater-mug`);
  await browser.click('crater-mug.jpg');
  await browser.text('Used in');
  await browser.press('b');
  await browser.text('This is the original.');
  const framed = async () =>
    (await (await browser.see(By.css('.framed'), 'the frame')).getAttribute('aria-label'))!.match(
      /(\d+) by (\d+)/,
    )!;
  const [, wide, high] = (await framed()).map(Number);
  await browser.click('Frame the thing on it');
  await browser.text('cropped');
  const { shot } = shopShots(SEED)[0]!;
  const [, width, height] = (await framed()).map(Number);
  // Eight in a hundred on either side.
  expect(Math.abs((width! * 0.84) / wide! - shot.box.width)).toBeLessThan(0.02);
  expect(Math.abs((height! * 0.84) / high! - shot.box.height)).toBeLessThan(0.02);
  await browser.click('Discard and close');
});

test('the shop’s shots get one framing; the odd one out is seen and framed by hand, the others keep the common frame', async () => {
  await session.go(`/library?folder=${SHOTS_FOLDER}&where=kind:image`);
  await browser.click('Prepare all …');
  await browser.text('Prepare 12 items that were found');
  await (await browser.field('Square shop image on white')).click();
  await browser.click('Look at the framing …');
  await browser.text('1 image framed as a whole');
  await browser.text('it has no plain ground');
  expect(await session.faultsOfAccess()).toEqual([]);
  const boxes = await browser.driver.findElements(By.css('.subject'));
  expect(boxes).toHaveLength(11);
  await browser.click('Frame chart-bag.jpg by itself');
  await browser.click('As much as fits');
  await browser.see(By.css('.grip'), 'the frame');
  // A corner is drawn in by the keyboard; the shape stays square.
  await browser.driver.executeScript('document.querySelector(\'.grip[aria-label*="right lower"]\').focus()');
  for (let presses = 0; presses < 20; presses++) await browser.hold(Key.SHIFT, Key.ARROW_LEFT);
  await browser.click('Use this frame');
  await browser.text('A frame of its own');
  await browser.click('Back to the settings');
  await browser.text('1 image with a frame of its own.');
  await (await browser.field('As new items in a folder')).click();
  await browser.fill('Folder', 'images/shop/ready');
  await browser.inDialog('Review changes');
  await browser.text('Square shop image on white: 12 images');
  // Left once, nothing that was chosen is lost.
  await browser.inDialog('Cancel');
  await browser.text('1 image with a frame of its own.');
  await browser.inDialog('Review changes');
  await browser.text('Square shop image on white: 12 images');
  // From its line before and after, an image is framed at once.
  await browser.click('Frame star-diary.jpg by itself');
  await browser.see(By.css('.grip'), 'the frame');
  await browser.text('Drag the frame');
  await browser.click('As much as fits');
  await browser.click('Use this frame');
  await browser.click('Back to the settings');
  await browser.text('2 images with a frame of their own.');
  await browser.inDialog('Review changes');
  await session.applyPlan('Save 12 images', 'Square shop image on white');
  for (const { path, shot } of shopShots(SEED)) {
    const made = path.replace(SHOTS_FOLDER, 'images/shop/ready');
    const { width, height } = await sizeOf(made);
    expect(width, made).toBe(height);
    if (shot.ground === 'cloth') continue;
    // The thing fills its frame but for the same margin, whatever its size was.
    const edge = Math.round(width * 0.08);
    const middle = await sharp(await readFile(join(root, made)))
      .extract({ left: edge, top: edge, width: width - 2 * edge, height: height - 2 * edge })
      .stats();
    expect(middle.channels[0]!.stdev, made).toBeGreaterThan(10);
  }
  const own = await readFile(join(root, 'images/shop/ready/chart-bag.jpg'));
  const corners = await sharp(own).extract({ left: 2, top: 2, width: 8, height: 8 }).stats();
  // No white was filled in: its frame lies within the shot.
  expect(corners.channels[2]!.mean).toBeLessThan(235);
});
