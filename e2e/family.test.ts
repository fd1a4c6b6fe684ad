import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import { beforeAll, expect, test } from 'vitest';
import { treeOf } from '../server/test/site.ts';
import { By, type Browser } from './browser.ts';
import { Session } from './session.ts';

/** An image with its sizes is one item, and a placement is changed where it stands: as a person does both. */
const session = new Session('family');
let browser: Browser;
let root: string;
let go: Session['go'];
beforeAll(() => {
  ({ browser, root } = session);
  go = session.go.bind(session);
});
const page = (path: string) => readFile(join(root, path), 'utf8');
async function undone(before: Record<string, string>): Promise<void> {
  await browser.click('Undo');
  await session.applyPlan('Undo', 'Undo:');
  expect(await treeOf(root)).toEqual(before);
}

test('sizes stand in the record of their image; one is separated, joined again by keys, and found by its name', async () => {
  await go('/library?folder=images/dome&sort=name');
  await browser.text('7 items');
  await browser.text('+1 size');
  await browser.click('dome-fog.jpg');
  await browser.text('They share this record');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.click('dome-fog-640.jpg');
  await browser.text('This file is a size of');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.click('Separate from it …');
  await browser.text('not a size');
  await session.applyPlan('Apply', 'Separate “dome-fog-640.jpg” from');
  await browser.text('8 items');
  await go('/library?q=dome-fog&sort=name');
  await browser.text('2 items');
  await browser.click('Add all to tray');
  await browser.press('f');
  await browser.text('the others become its sizes');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.tabTo('Review changes');
  await browser.press(Key.ENTER);
  await browser.text('a size of images/dome/dome-fog.jpg');
  await session.applyPlan('Apply', 'Add “dome-fog-640.jpg” to “dome-fog.jpg”');
  await browser.text('1 item');
  await go('/library?q=fog-640');
  await browser.text('1 item');
  await browser.button('dome-fog.jpg');
});

test('words that a size had before are shown in its record, and fill gaps in that of its image', async () => {
  await go('/library?folder=images/dome&sort=name');
  await browser.click('dome-fog.jpg');
  await browser.fill('Caption', ' ');
  await browser.press(Key.TAB);
  await browser.text('Saved');
  await browser.click('Separate dome-fog-640.jpg');
  await session.applyPlan('Apply', 'Separate “dome-fog-640.jpg” from');
  await browser.click('dome-fog-640.jpg');
  await browser.text('Detect by name again');
  await browser.fill('Caption', 'Fog around the dome');
  await browser.press(Key.TAB);
  await browser.text('Saved');
  await browser.click('Detect by name again …');
  await session.applyPlan('Apply', 'Detect the main image of “dome-fog-640.jpg”');
  await go('/library?q=fog-640');
  await browser.click('dome-fog.jpg');
  await browser.click('dome-fog-640.jpg');
  await browser.text('It is kept but not used');
  await browser.text('Fog around the dome');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.click('Fill gaps in the main image …');
  await session.applyPlan('Apply', 'Add “dome-fog-640.jpg” to “dome-fog.jpg”');
  await browser.click('dome-fog.jpg');
  await browser.text('They share this record');
  expect(await (await browser.field('Caption')).getAttribute('value')).toBe('Fog around the dome');
});

test('a placement gets other words, a caption and an alignment, seen before it is written; undone to the byte', async () => {
  const before = await treeOf(root);
  await go('/pages?page=about.html');
  await browser.text('evening-at-the-dome.jpg');
  await (
    await browser.see(By.xpath("//li[contains(., 'evening-at-the-dome')]/button"), 'the placement')
  ).click();
  await browser.press('e');
  await browser.text('Edit placement');
  await browser.fill('Alt text', 'The dome in the “evening”');
  await browser.fill('Caption', 'Seen from the lane');
  await browser.choose('Alignment', 'centred');
  await browser.text('Source');
  await browser.text('placements.css');
  expect(await session.faultsOfAccess()).toEqual([]);
  const write = By.xpath("//button[normalize-space(.)='Save to page' and not(@disabled)]");
  await browser.driver.sleep(700);
  await (await browser.see(write, 'Write it')).click();
  await browser.text('Done. Edit “evening-at-the-dome.jpg”');
  const html = await page('about.html');
  expect(html).toContain('alt="The dome in the “evening”"');
  expect(html).toMatch(/<figcaption>Seen from the lane<\/figcaption>/);
  expect(html).toMatch(/<link rel="stylesheet" href="[^"]*placements\.css">/);
  await undone(before);
});

test('a placement is moved down and taken off its page; the item stays, and all is undone', async () => {
  const before = await treeOf(root);
  await go('/pages?page=about.html');
  await browser.text('evening-at-the-dome.jpg');
  const choose = async () => {
    await (
      await browser.see(By.xpath("//li[contains(., 'evening-at-the-dome')]/button"), 'the placement')
    ).click();
  };
  await choose();
  await browser.click('Move down …');
  await session.applyPlan('Write 1 page', 'Move “evening-at-the-dome.jpg” down');
  await undone(before);
  await go('/pages?page=about.html');
  await browser.text('evening-at-the-dome.jpg');
  await choose();
  await browser.click('Remove from page …');
  await session.applyPlan('Write 1 page', 'Remove “evening-at-the-dome.jpg” from');
  expect(await page('about.html')).not.toContain('evening-at-the-dome');
  await undone(before);
});

test('a change that others rest on is undone with them, from the Ledger', async () => {
  const before = await treeOf(root);
  await go('/library?folder=images/trails');
  await browser.click('star-trails-cairn.jpg');
  for (const name of ['cairn-one.jpg', 'cairn-two.jpg']) {
    await browser.click('Move or rename');
    await browser.fill('New name', name);
    await browser.click('Review changes');
    await session.applyPlan('Rename', 'Rename');
  }
  await go('/ledger');
  await browser.click('Undo: Rename “star-trails-cairn.jpg”');
  await browser.text('This can’t be done yet');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.click('Undo together with 1 later change …');
  await browser.text('Also undone: “Rename “cairn-one.jpg” to “cairn-two.jpg””');
  await session.applyPlan('Undo', 'Undo: Rename “star-trails-cairn.jpg”');
  expect(await treeOf(root)).toEqual(before);
});
