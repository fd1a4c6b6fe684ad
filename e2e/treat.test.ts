import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { beforeAll, expect, test } from 'vitest';
import { treeOf } from '../server/test/site.ts';
import { By, type Browser } from './browser.ts';
import { Session } from './session.ts';

/** Many images by one treatment: chosen, looked at line by line, applied, undone. */
const session = new Session('treat');
let browser: Browser;
let root: string;
beforeAll(() => {
  ({ browser, root } = session);
});

test('a folder of images as an event gallery: before and after line by line with totals, then on the site, then undone to the byte', async () => {
  const before = await treeOf(root);
  await session.go('/library?folder=images/moon');
  await browser.click('Add all to tray');
  await browser.text('6 items in the tray');
  await browser.press('p');
  await browser.text('Prepare 6 items');
  expect(await session.faultsOfAccess()).toEqual([]);
  await (await browser.field('Event gallery')).click();
  await browser.fill('Width', '400');
  await browser.press(Key.TAB);
  await (await browser.field('New names by a pattern')).click();
  await browser.inDialog('Review changes');
  await browser.text('Event gallery: 6 images');
  await browser.text('400 × 300, JPEG');
  await browser.text('1400 × 1050, JPEG');
  await browser.text('Together');
  expect(await session.faultsOfAccess()).toEqual([]);
  await session.applyPlan('Save 6 images', 'Event gallery');
  const made = await sharp(await readFile(join(root, 'images/moon/moon-full.jpg'))).metadata();
  expect([made.width, made.height]).toEqual([400, 300]);
  // Seen again it says how it was made.
  await browser.click('Empty tray');
  await browser.click('moon-full.jpg');
  await browser.text('Used in');
  await browser.press('b');
  await browser.text('resized to fit 400 × 600 px');
  await session.go('/ledger');
  await browser.click('Undo: Event gallery');
  await session.applyPlan('Undo', 'Undo: Event gallery');
  expect(await treeOf(root)).toEqual(before);
});

test('as square images on white in a folder of their own; what is no image is told, the others go on', async () => {
  const before = await treeOf(root);
  await session.go('/library?folder=images/shop&view=table&sort=name');
  await browser.click('Add all to tray');
  await session.go('/library?where=kind:document');
  const document = await browser.see(By.css('[data-item]'), 'a document');
  await document.sendKeys(' ');
  await browser.text('15 items in the tray');
  await browser.click('More …');
  await browser.click('Prepare images');
  await (await browser.field('Square shop image on white')).click();
  await (await browser.field('As new items in a folder')).click();
  await browser.fill('Folder', 'images/squares');
  await browser.inDialog('Review changes');
  await browser.text('It isn’t an image.');
  await session.applyPlan('Save', 'Square shop image on white');
  const after = await treeOf(root);
  const fresh = Object.keys(after).filter((path) => !(path in before) && path.endsWith('.jpg'));
  expect(fresh.length).toBeGreaterThan(8);
  for (const path of fresh) {
    const { width, height } = await sharp(await readFile(join(root, path))).metadata();
    expect(width).toBe(height);
    expect(path.startsWith('images/squares/')).toBe(true);
  }
  for (const path of Object.keys(before)) expect(after[path], path).toBe(before[path]);
});

test('settings are kept as a treatment, come first the next time, and go again', async () => {
  await session.go('/ledger');
  await browser.forget();
  await session.go('/library?folder=images/moon');
  await browser.click('Add all to tray');
  await browser.press('p');
  await (await browser.field('Event gallery')).click();
  await browser.fill('Width', '500');
  await browser.press(Key.TAB);
  await browser.fill('Name of the treatment', 'Moon album');
  await browser.click('Keep as treatment');
  await browser.text('resized to fit 500 × 600 px');
  await browser.press(Key.ESCAPE);
  await session.alone();
  await browser.press('p');
  await browser.text('Moon album');
  const [first] = await browser.driver.findElements(By.css('#prepare .el-radio'));
  expect(await first!.getText()).toContain('Moon album');
  await browser.fill('Name of the treatment', 'Web photo');
  await browser.click('Keep as treatment');
  await browser.text('“Web photo” comes with Iconomos.');
  await browser.click('Delete “Moon album”');
  await browser.driver.wait(
    async () =>
      !(await (await browser.see(By.css('#prepare'), 'the dialog')).getText()).includes('Moon album'),
    10_000,
    'it is gone from the list',
  );
  await browser.press(Key.ESCAPE);
  await session.alone();
  await session.go('/ledger');
  await browser.text('Delete the treatment “Moon album”');
});
