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

test('a folder’s treatment is set with its rules, offered at the door, and refused for one file; the record can be made anew', async () => {
  await session.go('/library?folder=images/events');
  await browser.click('Folder rules');
  await browser.text('Rules of “images/events”');
  await browser.choose('Treatment of new images', 'Event gallery');
  await browser.inDialog('Save rules');
  await browser.text('Done. Set the rules of the folder “images/events”');
  await session.go('/intake');
  for (const [at, name] of ['one.png', 'two.png'].entries())
    await session.put(
      name,
      await sharp(await painted(60 + at, 1200, 900))
        .png()
        .toBuffer(),
    );
  await session.drop(join(session.folder, 'one.png'), join(session.folder, 'two.png'));
  await browser.text('two.png');
  await browser.fill('Folder', 'images/events');
  await browser.press(Key.TAB);
  await browser.text('The folder’s treatment “Event gallery”');
  await browser.text('events-002.jpg');
  const keep = By.xpath("//*[@aria-label='Actions for two.png']//button[contains(., 'Keep as it is')]");
  await (await browser.see(keep, 'the other file stays')).click();
  await browser.gone('events-002.jpg');
  await browser.click('Bring in 2 items');
  await browser.text('No files waiting.');
  const sizeOf = async (path: string) => {
    const { width, height, format } = await sharp(await readFile(join(root, path))).metadata();
    return [width, height, format];
  };
  expect(await sizeOf('images/events/events-001.jpg')).toEqual([800, 600, 'jpeg']);
  expect(await sizeOf('images/events/two.png')).toEqual([1200, 900, 'png']);
  await session.go('/library?where=name:events-001');
  await browser.click('events-001.jpg');
  await browser.text('Used in');
  await browser.press('b');
  await browser.text('Original 1200 × 900 px');
  await browser.text('resized to fit 800 × 600 px');
});
