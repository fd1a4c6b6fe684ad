import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { beforeAll, expect, test } from 'vitest';
import { painted } from '../server/test/media.ts';
import { treeOf } from '../server/test/site.ts';
import { By, type Browser } from './browser.ts';
import { PagesSession } from './pages-session.ts';

/** The bench from elsewhere than the library: a file that waits in Intake, a placement on a page, a line of a queue. */
const session = new PagesSession('bench-door');
let browser: Browser;
let root: string;
beforeAll(() => {
  ({ browser, root } = session);
});

const UNDO = By.xpath("//td//button[starts-with(normalize-space(.), 'Undo')]");

test('by keys alone: a pasted grab is cropped to a square and brought in; the library goes back to what was pasted', async () => {
  const before = await treeOf(root);
  await session.go('/intake');
  await session.paste(
    await sharp(await painted(41, 640, 400))
      .png()
      .toBuffer(),
  );
  await browser.text('640 × 400 px');
  await browser.tabTo('Edit image: pasted-image');
  await browser.press('b');
  await browser.text('Original 640 × 400 px');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.tabTo('Ratio');
  await browser.press(Key.ENTER, Key.ARROW_DOWN, Key.ENTER);
  await browser.text('cropped to 1:1');
  await browser.text('Saved 400 × 400 px');
  await browser.hold(Key.CONTROL, Key.ENTER);
  await browser.text('Edited: Cropped to 1:1.');
  await browser.text('400 × 400 px');
  await browser.tabTo('Bring in 1 item');
  await browser.press(Key.ENTER);
  await browser.text('No files waiting.');
  const after = await treeOf(root);
  const [path] = Object.keys(after).filter((one) => !(one in before));
  const { width, height } = await sharp(await readFile(join(root, path!))).metadata();
  expect([width, height]).toEqual([400, 400]);

  await session.go(`/library?where=name:${path!.replace('.png', '')}`);
  await browser.click(path!);
  await browser.text('Used in');
  await browser.press('b');
  await browser.text('Original 640 × 400 px');
  await browser.text('cropped to 1:1');
  await browser.click('Close');
  await session.go('/ledger');
  await (await browser.see(UNDO, 'an undo')).click();
  await session.applyPlan('Undo', 'Undo');
  expect(await treeOf(root)).toEqual(before);
});

test('a placement on a page and a line of a queue come to the bench by B, and back to where they were', async () => {
  await session.openPage('index.html');
  await browser.press('j');
  await browser.press('b');
  await browser.text('Original ');
  await browser.text('Shown on');
  await browser.click('Close');
  await browser.text('Open the page as served');
  expect(await browser.driver.getCurrentUrl()).toContain('page=index.html');

  await session.go('/upkeep?queue=no-alt');
  await browser.tabTo('Choose images/');
  await browser.press('b');
  await browser.text('Original ');
  await browser.click('Close');
  await browser.driver.wait(
    async () => (await browser.driver.getCurrentUrl()).includes('/upkeep'),
    5000,
    'the queue again',
  );
});
