import { readFile, rm, writeFile } from 'node:fs/promises';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { beforeAll, expect, test } from 'vitest';
import { treeOf } from '../server/test/site.ts';
import { By, type Browser } from './browser.ts';
import { painted } from './session.ts';
import { PagesSession } from './pages-session.ts';

const session = new PagesSession('galleries');

let browser: Browser;

let root: string;

beforeAll(() => {
  ({ browser, root } = session);
});

test('a gallery of a folder in an order of one’s own; made anew when the folder has changed', async () => {
  const before = await treeOf(root);
  await session.openPage('press.html');
  await browser.press('g');
  await browser.text('Choose a spot on the page');
  await session.clickInPage('h1[data-look-before]', 'edge');
  await browser.text('Place a gallery');
  await browser.choose('Folder of the gallery', 'images/trails');
  await browser.driver.wait(
    async () => (await browser.driver.findElements(By.css('.order .grip'))).length > 2,
    20_000,
    'the images of the folder',
  );
  const names = await browser.driver.executeScript<string[]>(
    "return [...document.querySelectorAll('.order .grip')].map((one) => one.getAttribute('aria-label').split(',')[0])",
  );
  const [, second] = await browser.driver.findElements(By.css('.order .grip'));
  await browser.driver.executeScript('arguments[0].focus()', second);
  await browser.hold(Key.ALT, Key.ARROW_LEFT);
  await browser.driver.wait(
    async () =>
      (await (await browser.see(By.css('.order .grip'), 'the first')).getAttribute('aria-label'))?.startsWith(
        names[1]!,
      ),
    10_000,
    'the second comes first',
  );
  // And one is dragged by the pointer: the first behind others.
  const grips = await browser.driver.findElements(By.css('.order .grip'));
  const actions = browser.driver.actions({ async: true });
  await actions
    .move({ origin: grips[0]! })
    .press()
    .move({ origin: grips[0]!, x: 20, y: 6 })
    .move({ origin: grips[4]!, x: 10, duration: 300 })
    .move({ origin: grips[4]!, x: 20, duration: 200 })
    .release()
    .perform();
  await browser.driver.wait(
    async () =>
      (await (await browser.see(By.css('.order .grip'), 'the first')).getAttribute('aria-label'))?.startsWith(
        names[0]!,
      ),
    10_000,
    'what was second comes first again',
  );
  // What was let go settles in a moment: the order is read once it stands still.
  let wished: string[] = [];
  await browser.driver.wait(
    async () => {
      const now = await browser.driver.executeScript<string[]>(
        "return [...document.querySelectorAll('.order .grip')].map((one) => one.getAttribute('aria-label').split(',')[0])",
      );
      const still = now.join() === wished.join();
      wished = now;
      return still;
    },
    20_000,
    'the order to stand still',
    500,
  );
  expect(wished).not.toEqual(names);
  await browser.text('will be made');
  await session.ready('Save gallery to page');
  await browser.text('Done. Place a gallery');
  const page = await session.text('press.html');
  const order = [...page.matchAll(/<li>.*?href="images\/trails\/([^"]+)"/g)].map((one) =>
    decodeURIComponent(one[1]!),
  );
  expect(order).toEqual(wished);
  expect(page).not.toContain('<script');
  // Someone else puts an image into the folder.
  await writeFile(join(root, 'images/trails/new-trail.jpg'), await painted(91, 900, 600));
  await browser.text('1 new, 0 gone since.');
  await browser.click('Update');
  await browser.text('1 image new since it was made');
  await browser.text('will be made');
  await session.ready('Update gallery');
  await browser.text('Done. Update');
  expect(await session.text('press.html')).toContain('images/trails/new-trail.jpg');
  const anew = await treeOf(root);
  expect(Object.keys(anew)).toContain('images/trails/new-trail-320.jpg');
  // Both are taken back in the Ledger, the later one first.
  for (let entries = 0; entries < 2; entries++) {
    await session.go('/ledger');
    const at = By.xpath("//button[normalize-space(.)='Undo …' or normalize-space(.)='Undo']");
    await (await browser.see(at, 'an undo')).click();
    await session.applyPlan('Undo', 'Undo');
  }
  await rm(join(root, 'images/trails/new-trail.jpg'));
  expect(await treeOf(root)).toEqual(before);
  await session.go('/library?q=new-trail');
  await browser.text('No items match');
});

test('a focal point by keys: what the screens make of it, written to a placement', async () => {
  const before = await treeOf(root);
  await session.openPage('about.html');
  await session.clickInPage('img[src*="evening-at-the-dome"]', 'middle');
  await browser.click('Focal point');
  await browser.text('wide screen');
  await browser.tabTo('Focal point');
  for (let presses = 0; presses < 2; presses++) await browser.hold(Key.SHIFT, Key.ARROW_RIGHT);
  await browser.text('70 % from the left');
  const place = By.xpath("//div[@role='dialog']//label[contains(., 'line')]//input");
  const box = await browser.see(place, 'the placement');
  if (!(await box.isSelected())) await box.click();
  await browser.inDialog('Review changes');
  await browser.text('object-position: 70% 50%');
  await session.applyPlan('Write 1 page', 'Set the focal point');
  expect(await session.text('about.html')).toMatch(
    /<img style="object-position: 70% 50%"[^>]*evening-at-the-dome/,
  );
  await session.undone(before);
});

test('an item is replaced by a file of this machine: its address stays, pages follow the new size', async () => {
  const before = await treeOf(root);
  const next = await painted(55, 900, 900);
  const file = await session.put('Better.jpg', next);
  await session.go('/library?q=dome-snow');
  await (await browser.see(By.xpath('//*[@data-item]'), 'the item')).click();
  await browser.text('Used in');
  await browser.click('Replace');
  await browser.text('Upload a file');
  await browser.driver.findElement(By.css('[role=dialog] input[type=file]')).sendKeys(file);
  await browser.text('900 × 900 px');
  await browser.inDialog('Review changes');
  await browser.text('another aspect ratio');
  await session.applyPlan('Replace file', 'Replace');
  const after = await treeOf(root);
  const changed = Object.keys(after).filter((path) => after[path] !== before[path]);
  const [replaced, size] = changed
    .filter((path) => path.endsWith('.jpg'))
    .sort((a, b) => a.length - b.length);
  expect((await readFile(join(root, replaced!))).equals(next)).toBe(true);
  // Its smaller size is made of the new file.
  expect(await sharp(join(root, size!)).metadata()).toMatchObject({ width: 640, height: 640 });
  await session.undone(before);
});

test('what lies on other hosts is not loaded until a person wants it', async () => {
  const asked: string[] = [];
  const other = createServer((request, response) => {
    asked.push(request.url!);
    painted(3).then(
      (bytes) => response.end(bytes),
      () => response.destroy(),
    );
  });
  await new Promise<void>((done) => other.listen(0, '127.0.0.1', done));
  const { port } = other.address() as AddressInfo;
  const page = join(root, 'elsewhere.html');
  await writeFile(
    page,
    `<title>Elsewhere</title><img src="images/trails/new.jpg"><img src="http://127.0.0.1:${port}/far.jpg" alt="">`,
  );
  try {
    await session.go('/pages?page=elsewhere.html');
    await browser.text('1 file of this page lies on other hosts and is not loaded');
    await browser.settled();
    expect(asked).toEqual([]);
    await browser.click('Load from other hosts');
    await browser.text('and is loaded from there');
    await browser.driver.wait(() => asked.includes('/far.jpg'), 10_000);
    await browser.click('Stop loading');
    await browser.text('and is not loaded');
  } finally {
    other.close();
    await rm(page);
  }
});

test('a snippet for use elsewhere: the whole element, or Markdown, in its full size', async () => {
  await browser.command('Browser.grantPermissions', {
    origin: session.server.address,
    permissions: ['clipboardReadWrite', 'clipboardSanitizedWrite'],
  });
  await session.go('/library?q=dome-snow');
  await (await browser.see(By.xpath('//*[@data-item]'), 'the item')).click();
  await browser.text('Used in');
  await browser.click('Snippet');
  await browser.click('Copy');
  await browser.text('Copied: <img src="/images/');
  await browser.choose('Snippet format', 'Markdown');
  await browser.see(By.css('.snippet'), 'the form');
  await (await browser.see(By.xpath("//form[contains(@class, 'snippet')]//button"), 'Copy')).click();
  await browser.text('Copied: ![');
});

test('the layout of the folder is said, planned and undone', async () => {
  await session.go('/pages');
  await browser.click('Site folders');
  await browser.text('Served from the root');
  await browser.fill('Not looked at', 'uploads');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.inDialog('Review changes');
  await browser.text('Not looked at');
  await session.applyPlan('Apply', 'Set the site folders');
  await session.go('/library');
  await browser.text('All folders');
  await browser.gone('uploads');
  await session.go('/ledger');
  const at = By.xpath("//button[normalize-space(.)='Undo …' or normalize-space(.)='Undo']");
  await (await browser.see(at, 'an undo')).click();
  await session.applyPlan('Undo', 'Undo');
  await session.go('/library');
  await browser.text('uploads');
});

test('the live site is read: what visitors see counts as placed', async () => {
  await session.go('/pages');
  await browser.click('Live site');
  await browser.text('No live site read yet');
  await browser.click('Read site');
  await browser.text('of the library');
  await browser.text('A dome for everyone');
  expect(await session.faultsOfAccess()).toEqual([]);
  await session.go('/library?q=dome-snow');
  await (await browser.see(By.xpath('//*[@data-item]'), 'the item')).click();
  await browser.text('Used on the live site');
});
