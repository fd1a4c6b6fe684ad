import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import { beforeAll, expect, test } from 'vitest';
import { treeOf } from '../server/test/site.ts';
import type { Browser } from './browser.ts';
import { By } from './browser.ts';
import type { RunningServer } from './server.ts';
import { SMALL_DEMO } from '../demo/test-setup.ts';
import { Session } from './session.ts';

const session = new Session('keys', undefined, SMALL_DEMO);
const go = (path: string) => session.go(path);

let browser: Browser;

let root: string;

let server: RunningServer;

beforeAll(() => {
  ({ browser, root, server } = session);
});

test('every screen by axe-core: no fault of accessibility', async () => {
  const found: string[] = [];
  for (const path of [
    '/library?folder=images/moon',
    '/library?folder=images/moon&item=1',
    '/intake',
    '/describe',
    '/pages?page=index.html',
    '/upkeep?queue=copies',
    '/export',
    '/ledger',
  ]) {
    await go(path);
    await browser.driver.sleep(1200);
    for (const fault of await session.faultsOfAccess()) found.push(`${path}: ${fault}`);
  }
  expect(found).toEqual([]);
}, 240_000);

test('a save that fails is said, nothing typed is lost, and it can be tried again', async () => {
  await go('/library?folder=images/press');
  await browser.click('comet-agency.jpg');
  await browser.driver.executeScript(
    `window.realFetch = window.fetch; window.fetch = (path, options) => options && options.method === 'PATCH' ? Promise.reject(new TypeError('down')) : window.realFetch(path, options);`,
  );
  await browser.fill('Caption', 'Seen from the old wall');
  await browser.text('Not saved');
  await browser.text('The server doesn’t answer');
  await browser.driver.executeScript('window.fetch = window.realFetch');
  await browser.click('Save again');
  await browser.gone('Not saved');
  const { items } = (await (await fetch(`${server.address}/api/items?q=comet-agency`)).json()) as {
    items: { words: { caption: string } }[];
  };
  expect(items[0]!.words.caption).toBe('Seen from the old wall');
});

test('Describe by keys alone: type, next, decorative, skip', async () => {
  await go('/describe');
  await browser.text('1 of');
  const first = await browser.see(By.css('.look p.mono'), 'the path of the image');
  const path = await first.getText();
  await browser.driver.wait(async () => (await focused()).includes('textarea'), 30_000);
  await browser.driver
    .switchTo()
    .activeElement()
    .sendKeys('Stars above the dome', Key.chord(Key.CONTROL, Key.ENTER));
  await browser.text('2 of');
  await browser.driver.wait(async () => (await focused()).includes('textarea'), 30_000);
  await browser.press(Key.ESCAPE);
  await browser.driver.findElement(By.css('body')).sendKeys('s');
  await browser.text('3 of');
  await browser.driver.wait(async () => (await focused()).includes('textarea'), 30_000);
  await browser.press(Key.ESCAPE);
  await browser.driver.findElement(By.css('body')).sendKeys('d');
  await browser.text('4 of');
  const list = (await (await fetch(`${server.address}/api/items?q=${encodeURIComponent(path)}`)).json()) as {
    items: { words: { alt: string } }[];
  };
  expect(list.items[0]!.words.alt).toBe('Stars above the dome');
  const ledger = (await (await fetch(`${server.address}/api/ledger`)).json()) as { title: string }[];
  expect(ledger[0]!.title).toContain('Decorative of');
});

test('rename and undo by keys alone', async () => {
  const before = await treeOf(root);
  await go('/library?folder=images/trails');
  await browser.text('7 items');
  await (await browser.button('star-trails-cairn.jpg')).sendKeys(Key.ENTER);
  await browser.text('/images/trails/star-trails-cairn.jpg');
  await browser.driver.findElement(By.css('body')).sendKeys('a');
  await browser.driver.wait(
    async () => /Address copied|Select the address/.test(await browser.screen()),
    30_000,
  );
  await browser.driver.findElement(By.css('body')).sendKeys('n');
  await browser.driver.wait(async () => (await focused()).includes('input'), 30_000);
  // The name without its extension is selected: typing replaces it.
  await browser.press('trails-over-the-cairn', Key.ENTER);
  await browser.text('Rename 1 item, update 1 page');
  await browser.tabTo('Rename 1 item');
  await browser.press(Key.ENTER);
  await browser.text('Done.');
  expect(await readFile(join(root, 'gallery/star-trails.html'), 'utf8')).toContain(
    'trails-over-the-cairn.jpg 1600w',
  );
  await browser.gone('Rename 1 item, update');
  await browser.tabTo('Undo');
  await browser.press(Key.ENTER);
  await browser.text('Undo, update 1 page');
  await browser.tabTo('Undo, update 1 page');
  await browser.press(Key.ENTER);
  await browser.text('Done. Undo: Rename “star-trails-cairn.jpg”');
  expect(await treeOf(root)).toEqual(before);
});

test('keys alone: go through the sheet, open a record, gather, copy the address', async () => {
  await go('/library?folder=images/moon');
  await browser.text('6 items');
  await (await browser.button('moon-first-quarter.jpg')).sendKeys(Key.ARROW_RIGHT, Key.ARROW_LEFT);
  await browser.press(Key.SPACE);
  await browser.text('1 item in the tray');
  await browser.press(Key.ENTER);
  await browser.text('/images/moon/moon-first-quarter.jpg');
  await browser.press(Key.ESCAPE);
  await browser.gone('/images/moon/moon-first-quarter.jpg');
  await browser.driver.findElement(By.css('body')).sendKeys('?');
  await browser.text('Keyboard shortcuts');
});

/** Tag name of what has the focus. */
async function focused(): Promise<string> {
  return (await browser.driver.switchTo().activeElement().getTagName()).toLowerCase();
}
