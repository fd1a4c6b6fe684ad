import { readdir, readFile, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import { beforeAll, beforeEach, expect, test } from 'vitest';
import { treeOf } from '../server/test/site.ts';
import { By, type Browser } from './browser.ts';
import { painted, Session } from './session.ts';

/** Arranging the library: folders, copies, tags that belong together, versions, rules; with the mouse and by keys. */
const session = new Session('arrange');
const go = (path: string) => session.go(path);
let browser: Browser;
let root: string;
beforeAll(() => {
  ({ browser, root } = session);
});
/** Every test begins with an empty tray. */
beforeEach(async () => {
  await go('/ledger');
  await browser.forget();
});

const applyPlan = (says: string, done: string) => session.applyPlan(says, done);
async function retype(label: string, text: string): Promise<void> {
  await (await browser.field(label)).sendKeys(Key.chord(Key.CONTROL, 'a'), text);
}
async function undoLast(): Promise<void> {
  await browser.click('Undo');
  await applyPlan('Undo', 'Undo:');
}
async function tick(name: string): Promise<void> {
  await (await browser.button(name)).sendKeys(' ');
}
const names = async (folder: string) => (await readdir(join(root, folder))).sort();

test('while typing: items, folders, tags and people are offered, what fits is marked; taken by keys', async () => {
  await go('/library');
  await browser.fill('Find items', 'moo');
  await browser.text('images/moon, 6 items');
  await browser.text('with these words');
  const marks = await browser.driver.findElements(By.css('#find-offers mark'));
  expect((await marks[0]!.getText()).toLowerCase()).toMatch(/^moo/);
  expect(await session.faultsOfAccess()).toEqual([]);
  await retype('Find items', 'trails');
  await browser.text('images/trails');
  await browser.driver.sleep(400);
  const rows = await browser.driver.findElements(By.css('#find-offers [role=option]'));
  const at = (await Promise.all(rows.map((row) => row.getText()))).findIndex((text) =>
    text.includes('images/trails,'),
  );
  await browser.press(...Array.from({ length: at + 1 }, () => Key.ARROW_DOWN), Key.ENTER);
  await browser.text('Items in “images/trails” or below');
  await retype('Find items', 'ottil');
  await (await browser.text('added by them')).click();
  await browser.text('added by Ottilie Marrow');
  await go('/library');
  await browser.fill('Find items', 'crescents');
  await browser.press(Key.ENTER);
  await browser.text('matching “crescents”');
  await browser.see(By.xpath("//main//mark[.='crescent']"), 'the marked word');
});

test.each([
  ['month', /^\w+ \d{4}$/],
  ['folder', /^images\/\w+/],
  ['kind', /^(Images|Videos|Audio|Documents|Other files)$/],
  ['page', /Observatory|^On no page$/],
])('grouped by %s, in the sheet and in the table', async (group, title) => {
  await go(`/library?folder=images&group=${group}&view=sheet`);
  await browser.text('Add to tray');
  const heads = await browser.driver.findElements(By.css('h2.group'));
  const first = (await heads[0]!.getText()).split('\n')[0]!;
  expect(first.replace(/ \d+ items?.*| \S+\.html.*/, '')).toMatch(title);
  const held = Number(/(\d+) items?/.exec(await heads[0]!.getText())![1]);
  await (await heads[0]!.findElement(By.css('button'))).click();
  await browser.text(held === 1 ? '1 item in the tray' : `${held} items in the tray`);
  await browser.click('Table');
  await browser.see(By.css('.line.heading'), 'a heading in the table');
});

test('a folder is made, a gathered item cut and pasted into it by keys, the folder dragged into another; undone', async () => {
  const before = await treeOf(root);
  await go('/library?folder=images&view=sheet');
  await browser.click('New folder');
  await browser.fill('New folder in “images”', 'Best Of 2026');
  await browser.text('The name has spaces, which appear as %20 in addresses. It becomes best-of-2026.');
  await browser.fill('New folder in “images”', 'comets');
  await browser.press(Key.ENTER);
  await browser.text('Create the folder “images/comets”');
  await applyPlan('Apply', 'Create the folder');
  await browser.text('empty');
  await go('/library?folder=images/moon&view=sheet&sort=name');
  await tick('moon-full.jpg');
  await browser.text('1 item in the tray');
  await browser.hold(Key.CONTROL, 'x');
  await browser.text('1 item is cut');
  await browser.click('comets');
  await browser.text('Items in “images/comets” or below');
  await browser.hold(Key.CONTROL, 'v');
  await browser.text('Move “moon-full.jpg” to “images/comets”');
  await applyPlan('Move', 'Move “moon-full.jpg”');
  await browser.gone('is cut');
  expect(await names('images/comets')).toEqual(['moon-full-640.jpg', 'moon-full.jpg']);
  expect(await readFile(join(root, 'gallery/moon.html'), 'utf8')).toContain('images/comets/moon-full.jpg');

  const folder = await browser.see(By.css('a[data-folder="images/comets"]'), 'comets');
  const target = await browser.see(By.css('a[data-folder="media"]'), 'media');
  await browser.drag(folder, target);
  await browser.text('Move the folder “images/comets” to “media/comets”');
  await applyPlan('Move', 'Move the folder');
  expect(await names('media/comets')).toEqual(['moon-full-640.jpg', 'moon-full.jpg']);
  await undoLast();
  await go('/ledger');
  await browser.click('Undo: Move “moon-full.jpg”');
  await applyPlan('Undo', 'Undo: Move');
  await go('/library?view=sheet');
  await browser.click('Delete 1 empty folder');
  await applyPlan('Apply', 'Delete the empty folder');
  expect(await treeOf(root)).toEqual(before);
});

test('a tag dragged on another goes below it; the tray dragged on a tag gives it to all that is gathered', async () => {
  await go('/library?folder=images/moon&view=sheet&sort=name');
  await tick('moon-full.jpg');
  await tick('moon-waning-gibbous.jpg');
  await browser.text('2 items in the tray');
  await browser.click('Tags …');
  await browser.fill('Add tags', 'lunar night, heavens');
  await browser.press(Key.ENTER);
  await browser.inDialog('Review changes');
  await applyPlan('Change 2 items', 'Tag “lunar night”, “heavens”');
  await browser.click('Empty tray');
  await tick('moon-first-quarter.jpg');
  await browser.text('1 item in the tray');

  await browser.click('Tags');
  const tag = (name: string) =>
    browser.see(By.css('.tags a.branch'), `the tag ${name}`, new RegExp(`^${name}`));
  await browser.drag(
    await browser.see(By.css('[data-item][title*="moon-first-quarter.jpg"]'), 'what is gathered'),
    await tag('lunar night'),
  );
  await applyPlan('Change 1 item', 'Tag “lunar night”');
  await (await tag('lunar night')).click();
  await browser.text('3 items');
  // Only then does the list below it lie still.
  await browser.text('Often used together');
  await browser.drag(await tag('lunar night'), await tag('heavens'));
  await browser.text('Move the tag “lunar night” under “heavens”');
  await applyPlan('Apply', 'Move the tag “lunar night” under “heavens”');
  const above = await tag('heavens');
  const below = await tag('lunar night');
  expect((await below.getRect()).x).toBeGreaterThan((await above.getRect()).x);
});

test('a folder with pages is renamed: links from everywhere follow, merged into one that is there; undone', async () => {
  const before = await treeOf(root);
  await go('/library?folder=gallery');
  await browser.text('All folders');
  await browser.click('Rename, move or merge');
  await browser.fill('New path of the folder', 'pictures');
  await browser.press(Key.ENTER);
  await browser.text('Rename the folder “gallery” to “pictures”');
  await browser.text('pages lie in it');
  await applyPlan('Move', 'Rename the folder');
  expect((await stat(join(root, 'pictures/moon.html'))).isFile()).toBe(true);
  const pages = await readdir(root, { recursive: true });
  for (const page of pages.filter((name) => name.endsWith('.html')))
    expect(await readFile(join(root, page), 'utf8'), page).not.toMatch(/(href|src)="[^":]*gallery\//);
  await undoLast();
  expect(await treeOf(root)).toEqual(before);
});

test('duplicated and copied with their records by keys; nothing of the copies is left after the undo', async () => {
  const before = await treeOf(root);
  await go('/library?folder=images/shop&view=sheet&sort=name');
  const picture = await browser.see(By.css('.place .picture'), 'the first image');
  await picture.sendKeys('d');
  await browser.text('1 item in the tray');
  await applyPlan('Copy 1 item', 'Duplicate');
  const [copy] = (await names('images/shop')).filter(
    (name) => !Object.keys(before).includes(`images/shop/${name}`),
  );
  expect(copy).toMatch(/-2\.\w+$/);
  await undoLast();
  await browser.press('c');
  await browser.fill('To folder', 'media/new place');
  await browser.inDialog('Review changes');
  await applyPlan('Copy 1 item', 'Copy');
  expect(await names('media/new place')).toHaveLength(1);
  await undoLast();
  expect(await treeOf(root)).toEqual(before);
});

test('tags: below another, found by another spelling; asking for the upper one finds both', async () => {
  await go('/library?folder=images/moon&view=sheet');
  await browser.click('Add all to tray');
  await browser.press('t');
  await browser.fill('Add tags', 'luna');
  await browser.inDialog('Review changes');
  await applyPlan('Change 6 items', 'Tag “luna”');
  await go('/library?folder=images/planets&view=sheet');
  await browser.click('Empty tray');
  await browser.click('Add all to tray');
  await browser.press('t');
  await browser.fill('Add tags', 'wanderers');
  await browser.inDialog('Review changes');
  await applyPlan('Change', 'Tag “wanderers”');
  await browser.click('Empty tray');
  await go('/library?where=tag:luna');
  await browser.click('Move under another tag');
  await browser.fill('Parent tag', 'wanderers');
  await browser.press(Key.ENTER);
  await applyPlan('Apply', 'Move the tag “luna” under “wanderers”');
  await browser.click('Add spelling');
  await browser.fill('Other spelling that finds this tag', 'selene');
  await browser.press(Key.ENTER);
  await applyPlan('Apply', 'Add the spelling “selene” to the tag “luna”');
  await browser.text('Also found as “selene”');
  await go('/library?where=tag:selene');
  await browser.text('6 items');
  const planets = (await (
    await fetch(`${session.server.address}/api/items?folder=images/planets`)
  ).json()) as { total: number };
  await go('/library?where=tag:wanderers');
  await browser.text(`${planets.total + 6} items`);
  await go('/library?q=selene');
  await browser.text('6 items');
  expect(await session.faultsOfAccess()).toEqual([]);
});

test('versions: a note, words brought back; replaced bytes are compared and brought back', async () => {
  await go('/library?folder=images/dome&view=sheet&sort=name');
  const picture = await browser.see(By.css('.place .picture'), 'the first image');
  const name = /^[^,]+/.exec((await picture.getAttribute('aria-label'))!)![0];
  await picture.click();
  await browser.text('No changes yet.');
  await browser.press('w');
  await browser.text('Edit fields of 1 item');
  await browser.fill('Credit for all', 'The night shift');
  await browser.inDialog('Review changes');
  await browser.fill('Note for the ledger', 'by the duty book');
  await applyPlan('Change 1 item', 'Set credit of');
  await browser.text('“by the duty book”');
  await browser.click('Empty tray');
  await browser.click('Restore previous version');
  await browser.text(`Restore “${name}” as it was before`);
  await applyPlan('Change 1 item', 'Restore');

  // Another image under the same name takes the file's place.
  const before = await readFile(join(root, `images/dome/${name}`));
  await go('/intake');
  await session.drop(await session.put(name, await painted(77, 900, 600)));
  await browser.text('900 × 600 px');
  await browser.fill('Folder', 'images/dome');
  await browser.press(Key.TAB);
  await browser.click('Replace as a new version');
  await browser.click('Bring in 1');
  await browser.text('Done.');
  await go(`/library?folder=images/dome&view=sheet&sort=name`);
  await (await browser.button(name)).click();
  await browser.text('File replaced');
  await browser.click('Compare with previous version');
  await browser.see(By.css('.closer .pane img'), 'both images');
  const shown = await browser.driver.findElements(By.css('.closer .pane img'));
  expect(shown).toHaveLength(2);
  await browser.settled();
  const widths = await Promise.all(shown.map((one) => one.getAttribute('naturalWidth')));
  expect(widths[0]).not.toBe(widths[1]);
  await browser.press(Key.ESCAPE);
  await browser.click('Restore previous version');
  await applyPlan('Restore version', 'Restore');
  expect((await readFile(join(root, `images/dome/${name}`))).equals(before)).toBe(true);
});

test('what a folder is for: Upkeep tells what does not fit, Intake gives what it gives; undone', async () => {
  await go('/library?folder=images/events');
  await browser.click('Folder rules');
  await browser.text('Rules of “images/events”');
  await (await browser.field('Name by a pattern')).click();
  await browser.click('Add part');
  await browser.inDialog('Text');
  await browser.fill('Text', 'event');
  await browser.click('Add part');
  await browser.inDialog('Current name');
  await browser.fill('Tags for new items', 'event');
  await browser.fill('Licence for new items', 'CC BY 4.0');
  await (await browser.field('videos')).click();
  await browser.inDialog('Save rules');
  await browser.text('Done. Set the rules of the folder “images/events”');
  await go('/upkeep?queue=rules');
  await browser.text('Names in this folder consist of “event”, current name.');
  await go('/intake');
  await session.drop(await session.put('supper-party.jpg', await painted(5)));
  await browser.text('supper-party.jpg');
  await browser.fill('Folder', 'images/events');
  await browser.press(Key.TAB);
  await browser.text('The folder adds the tags “event” and the licence “CC BY 4.0”');
  await browser.click('Bring in 1');
  await browser.text('Done.');
  const { items } = (await (
    await fetch(`${session.server.address}/api/items?folder=images/events&q=supper`)
  ).json()) as { items: { words: { tags: string[]; licence: string } }[] };
  expect(items[0]!.words).toMatchObject({ tags: ['event'], licence: 'CC BY 4.0' });
  await go('/ledger');
  await browser.click('Undo: Set the rules of the folder “images/events”');
  await applyPlan('Undo', 'Undo: Set the rules');
});

test('set aside, found among what is set aside, and restored by its key', async () => {
  await go('/library?where=use:unused&view=sheet');
  await (await browser.see(By.css('.place .picture'), 'the first image')).sendKeys('s');
  await applyPlan('Set aside 1 item', 'Set aside');
  await go('/library?view=sheet');
  await browser.click('Set aside');
  await browser.text('Items that are set aside');
  await (await browser.see(By.css('.place .picture'), 'the image')).sendKeys('r');
  await applyPlan('Restore 1 item', 'Restore');
  await browser.text('No items match');
});

test('one is downloaded; the keys of the screen are one key away; the table is gone through by keys', async () => {
  await go('/library?folder=images/moon&view=sheet&sort=name');
  await (await browser.button('moon-full.jpg')).sendKeys('o');
  const file = join(session.folder, 'downloads', 'moon-full.jpg');
  await browser.driver.wait(async () => (await stat(file).catch(() => undefined))?.isFile() === true, 10_000);
  await browser.driver.sleep(500);
  expect((await readFile(file)).equals(await readFile(join(root, 'images/moon/moon-full.jpg')))).toBe(true);
  await browser.press('?');
  await browser.text('With the tray, or the current item if the tray is empty');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.press(Key.ESCAPE);
  await browser.gone('Keyboard shortcuts');
  await browser.click('Empty tray');
  await go('/library?folder=images/moon&view=table&sort=name');
  await browser.tabTo('Title of moon-first-quarter.jpg');
  await browser.press(Key.ARROW_DOWN);
  const label = await browser.driver.executeScript<string>(
    'return document.activeElement.getAttribute("aria-label")',
  );
  expect(label).toContain('Title of moon-full.jpg');
});
