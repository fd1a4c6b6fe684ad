import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import { beforeAll, beforeEach, expect, test } from 'vitest';
import { treeOf } from '../server/test/site.ts';
import { By, type Browser } from './browser.ts';
import { Session } from './session.ts';

/** New names for many: pieces composed with the mouse and by keys, the proof read, the site renamed and brought back. */
const session = new Session('names');
let browser: Browser;
let root: string;
beforeAll(() => {
  ({ browser, root } = session);
});

beforeEach(async () => {
  await session.go('/ledger');
  await browser.driver.executeScript('sessionStorage.clear()');
});

/** What stands on the screen at a place, one text each, read at once: it may be drawn anew in between. */
const texts = (selector: string) =>
  browser.driver.executeScript<string[]>(
    'return [...document.querySelectorAll(arguments[0])].map((one) => one.innerText)',
    selector,
  );
const proof = () => texts('[aria-label="New names"] li');
async function composed(says: string): Promise<void> {
  await browser.driver.wait(
    async () => (await proof()).some((row) => row.includes(says)),
    10_000,
    `no “${says}” in the proof`,
  );
}
/** Waits until the pieces stand in this order. */
async function standing(...pieces: string[]): Promise<void> {
  await browser.driver.wait(
    async () => (await texts('.block .what')).join() === pieces.join(),
    10_000,
    `not ${pieces.join(', ')}`,
  );
}

test('fifty images are renamed with a counter; pages follow; one undo brings all back', async () => {
  const before = await treeOf(root);
  await session.go('/library?where=kind:image&sort=path');
  await browser.click('Add all to tray');
  await browser.text('in the tray');
  await browser.press('n');
  await browser.text('Proof');
  await browser.click('Add part');
  await (await browser.see(By.xpath("//button[normalize-space(.)='Text']"), 'the part Text')).click();
  await browser.fill('Text', 'Corvane Hill');
  await composed('corvane-hill');
  // By keys: the text goes to the front, the title goes out.
  await (await browser.see(By.css('.block:last-of-type > button'), 'the last piece')).click();
  await browser.hold(Key.SHIFT, Key.ARROW_LEFT);
  await standing('Title', 'Text', 'Counter');
  await browser.hold(Key.SHIFT, Key.ARROW_LEFT);
  await standing('Text', 'Title', 'Counter');
  await browser.press(Key.ARROW_RIGHT, Key.DELETE);
  await composed('corvane-hill-001');
  const shown = await browser.screen();
  const changing = Number(/(\d+) names will change/.exec(shown)![1]);
  expect(changing).toBeGreaterThan(50);
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.click(`Review ${changing} new names`);
  await browser.text('References updated on');
  await browser.text('redirects from old to new addresses');
  await session.applyPlan('Rename');
  const images = (await readdir(join(root, 'images'), { recursive: true })).filter((name) =>
    /\.(jpg|png|webp|svg)$/.test(name),
  );
  expect(images.filter((name) => /corvane-hill-\d{3}/.test(name)).length).toBe(images.length);
  const page = await readFile(join(root, 'index.html'), 'utf8');
  expect(page).toMatch(/corvane-hill-\d{3}\.jpg/);
  // The screen follows at once: nothing is left to do, and nothing is wrong.
  await browser.text('all names are as the pattern makes them');
  expect(await browser.screen()).not.toContain('can’t be used');
  await browser.click('Undo');
  await session.applyPlan('Undo');
  expect(await treeOf(root)).toEqual(before);
});

test('a name is typed over in the proof; one that cannot be is told and holds the plan back', async () => {
  await session.go('/describe/names?where=name-fault:camera');
  await browser.text('Proof');
  await composed('It has no title');
  const [first] = await browser.driver.findElements(By.css('[aria-label="New names"] li .new button'));
  await first!.click();
  await browser.press('a/b', Key.ENTER);
  await browser.text('can’t be used');
  await composed('A name can’t contain a slash');
  const [again] = await browser.driver.findElements(By.css('[aria-label="New names"] li .new button'));
  await again!.click();
  await browser.press('milky-way-over-the-dome', Key.ENTER);
  await composed('milky-way-over-the-dome.jpg');
  await browser.gone('can’t be used');
  await browser.click('Use the pattern');
  await browser.gone('milky-way-over-the-dome.jpg');
});

test('a block is dragged to another place, and the pattern is kept, forgotten and kept for a folder', async () => {
  await session.go('/describe/names?where=name-fault:camera');
  await browser.text('Proof');
  await browser.driver.executeScript('sessionStorage.clear()');
  await session.go('/describe/names?where=name-fault:camera');
  await composed('001.jpg');
  const [title, counter] = await browser.driver.findElements(By.css('.block > button'));
  const actions = browser.driver.actions({ async: true });
  await actions
    .move({ origin: counter! })
    .press()
    .move({ origin: title!, x: -10, duration: 300 })
    .move({ origin: title!, x: -14, duration: 200 })
    .release()
    .perform();
  await standing('Counter', 'Title');
  await browser.click('Save pattern');
  await browser.fill('Name of the pattern', 'Numbered');
  await browser.click('Keep');
  await browser.text('Save the pattern “Numbered”');
  await session.go('/library?folder=uploads/2024');
  await browser.click('Folder rules');
  await (await browser.field('Name by a pattern')).click();
  await browser.choose('Use a saved pattern', 'Numbered');
  await browser.text('counter from 001');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.click('Save rules');
  await browser.text('Done. Set the rules');
  await session.go('/library?where=name-fault:rule');
  await browser.text('doesn’t follow the folder’s pattern');
});
