import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Key, Origin } from 'selenium-webdriver';
import { beforeAll, expect, test } from 'vitest';
import { treeOf } from '../server/test/site.ts';
import { By, type Browser } from './browser.ts';
import { Session } from './session.ts';

/** Finding, looking, gathering and arranging in the Library, as a person does it. */
const session = new Session('library');
const go = (path: string) => session.go(path);
let browser: Browser;
let root: string;
beforeAll(() => {
  ({ browser, root } = session);
});

/** A choice of the panel in which conditions are chosen. */
function choice(text: string) {
  const at = By.xpath(
    `//*[@role='dialog']//button[normalize-space(*[1])='${text}' or normalize-space(.)='${text}']`,
  );
  return browser.see(at, `the choice “${text}”`);
}

async function foundItems(): Promise<number> {
  const sum = await browser.see(By.css('.sum'), 'how many are found');
  return Number(/^([\d,]+) item/.exec(await sum.getText())![1]!.replace(',', ''));
}

test('a query is built by choosing; the count beside a choice is what it leaves; the address holds it', async () => {
  await go('/library');
  await browser.text('All folders');
  const all = await foundItems();
  await browser.click('Add filter');
  await (await choice('File type')).click();
  const image = await choice('image');
  const counted = Number(/\d+/.exec(await image.getText())![0]);
  await image.click();
  await browser.text('kind is image');
  await browser.driver.wait(async () => (await foundItems()) === counted, 10_000);
  expect(counted).toBeLessThan(all);
  await browser.click('Add filter');
  await (await choice('Orientation')).click();
  await (await choice('square')).click();
  await browser.text('shape is square');
  const squares = await foundItems();
  expect(squares).toBeGreaterThan(0);

  const address = await browser.driver.getCurrentUrl();
  expect(decodeURIComponent(address)).toContain('where=kind:image,shape:square');
  await browser.open('about:blank');
  await browser.open(address);
  await browser.text('shape is square');
  expect(await foundItems()).toBe(squares);

  await browser.click('shape is square');
  await browser.click('Invert');
  await browser.text('shape is not square');
  await browser.driver.wait(async () => (await foundItems()) === counted - squares, 10_000);
  await browser.click('shape is not square');
  await browser.click('Remove');
  await browser.driver.wait(async () => (await foundItems()) === counted, 10_000);
});

test('either of two: another choice beside the first', async () => {
  await go('/library?where=kind:video');
  const films = await foundItems();
  await browser.click('kind is video');
  await browser.click('Add alternative');
  await (await choice('audio')).click();
  await browser.text('kind is audio');
  await browser.text('or');
  expect(await foundItems()).toBeGreaterThan(films);
});

test('words: any order, plural for singular, without accents; a nonsense query says so', async () => {
  await go('/library');
  await browser.fill('Find items', 'crescents moon');
  await (await browser.field('Find items')).sendKeys(Key.ENTER);
  await browser.text('matching “crescents moon”');
  await browser.text('moon-waxing-crescent.jpg');
  await go('/library?where=bogus:1');
  await browser.text('The search in the address can’t be read');
});

test('a kept query stands below the folders with its count, and goes when it is forgotten', async () => {
  await go('/library?where=kind:image,no:alt');
  const items = await foundItems();
  await browser.click('Save search');
  await browser.fill('Name of the search', 'Without words');
  await browser.press(Key.ENTER);
  const kept = await browser.button('Without words');
  expect(await kept.getText()).toContain(String(items));
  await go('/library');
  await browser.click('Without words');
  await browser.text('no alt text');
  expect(await foundItems()).toBe(items);
  await browser.click('Delete saved search Without words');
  await browser.gone('Saved searches');
});

test('gathered by range and by a frame; the tray stays while moving on; all of a query at once', async () => {
  await go('/library?folder=images/moon&sort=name');
  await browser.text('6 items');
  const first = await browser.button('moon-first-quarter.jpg');
  await browser.driver.actions().keyDown(Key.CONTROL).click(first).keyUp(Key.CONTROL).perform();
  await browser.text('1 item in the tray');
  const last = await browser.button('moon-full.jpg');
  await browser.driver.actions().keyDown(Key.SHIFT).click(last).keyUp(Key.SHIFT).perform();
  await browser.text('2 items in the tray');
  await browser.click('Ledger');
  await browser.text('2 items in the tray');
  await browser.click('Empty tray');
  await browser.gone('in the tray');

  await go('/library?folder=images/moon&sort=name');
  await browser.button('moon-full.jpg');
  const sheet = await browser.see(By.css('.scroller'), 'the sheet');
  const { x, y, width } = await sheet.getRect();
  await browser.driver
    .actions()
    .move({ x: Math.round(x + 6), y: Math.round(y + 6), origin: Origin.VIEWPORT })
    .press()
    .move({ x: Math.round(x + width - 40), y: Math.round(y + 60), origin: Origin.VIEWPORT })
    .release()
    .perform();
  const gathered = await (await browser.text('in the tray')).getText();
  expect(Number(/\d+/.exec(gathered)![0])).toBeGreaterThan(2);
  await browser.click('Add all to tray');
  await browser.text('6 items in the tray');
});

test('tags of many: mixed ones told, changed as one plan, undone as one', async () => {
  await browser.click('Tags …');
  await browser.text('Tags of 6 items');
  await browser.fill('Add tags', 'to be printed');
  await browser.press(Key.ENTER);
  await browser.text('new, on all items');
  await browser.inDialog('Review changes');
  await browser.text('Tag “to be printed” 6 items');
  await browser.inDialog('Change 6 items');
  await browser.text('Done. Tag “to be printed” 6 items');
  await go(`/library?where=${encodeURIComponent('tag:to%20be%20printed')}`);
  await browser.text('6 items');
  await browser.click('Ledger');
  await browser.click('Undo: Tag “to be printed” 6 items');
  await browser.inDialog('Undo');
  await browser.text('Done. Undo: Tag');
  await go(`/library?where=${encodeURIComponent('tag:to%20be%20printed')}`);
  await browser.text('No items match');
});

test('a tag is renamed where the tags stand; what goes with it is told; undone', async () => {
  await browser.click('Edit fields …');
  await browser.press(Key.ESCAPE);
  await browser.gone('Edit fields of 6 items');
  await browser.click('Tags …');
  await browser.fill('Add tags', 'luna, for print');
  await browser.inDialog('Review changes');
  await browser.inDialog('Change 6 items');
  await browser.text('Done. Tag “luna”, “for print” 6 items');
  await go('/library');
  await browser.see(By.css('.which'), 'the drawer');
  await (
    await browser.see(By.xpath("//div[contains(@class,'which')]//label[contains(., 'Tags')]"), 'Tags')
  ).click();
  await browser.click('luna');
  await browser.text('6 items');
  await browser.text('Often used together');
  await browser.click('Rename or merge');
  await browser.fill('New name, or an existing tag', 'moon');
  await browser.press(Key.ENTER);
  await browser.text('Rename the tag “luna” to “moon”, on 6 items');
  await browser.inDialog('Change 6 items');
  await browser.text('Done. Rename the tag');
  // One stands on what the tag has become; what goes with it opens as many as it says.
  await browser.text('“moon”');
  await browser.driver.wait(
    async () => (await browser.driver.getCurrentUrl()).includes('where=tag:moon'),
    5000,
    'the address names the old tag',
  );
  await browser.text('6 items');
  const beside = await browser.see(By.css('section.current ul a'), 'a tag used together');
  const told = /\d+$/.exec((await beside.getText()).trim())![0];
  await beside.click();
  await browser.text(told === '1' ? '1 item' : `${told} items`);
  // The same acts by right click on any tag.
  const moon = await browser.see(By.xpath("//a[contains(@class,'branch')][contains(., 'moon')]"), 'moon');
  await browser.driver.actions().contextClick(moon).perform();
  await browser.see(By.xpath("//*[@role='menuitem'][contains(., 'Add spelling')]"), 'the menu of a tag');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.press(Key.ESCAPE);
  await go('/ledger');
  await browser.click('Undo: Rename the tag “luna”');
  await browser.inDialog('Undo');
  await browser.text('Done. Undo: Rename the tag');
  await go(`/library?where=tag:luna`);
  await browser.text('6 items');
});

test('moved together: addresses change in the pages, and undo brings every byte back', async () => {
  const before = await treeOf(root);
  await go('/library?folder=images/moon');
  await browser.text('6 items in the tray');
  await browser.click('Move …');
  await browser.fill('To folder', 'images/luna');
  await browser.inDialog('Review changes');
  await browser.text('Move 6 items to “images/luna”');
  await browser.text('redirects from old to new addresses');
  await (
    await browser.see(By.xpath("//div[@role='dialog']//button[contains(., 'Move 6 items, update')]"), 'Move')
  ).click();
  await browser.text('Done. Move 6 items');
  expect(await readFile(join(root, 'gallery/moon.html'), 'utf8')).toContain('images/luna/moon-full.jpg');
  await go('/ledger');
  await browser.click('Undo: Move 6 items');
  await browser.text('Cancel');
  await (
    await browser.see(
      By.xpath("//div[@role='dialog']//button[starts-with(normalize-space(.), 'Undo')]"),
      'Undo',
    )
  ).click();
  await browser.text('Done. Undo: Move 6 items');
  expect(await treeOf(root)).toEqual(before);
  await browser.click('Empty tray');
});

test('a folder gets another address with all within, and leaves no empty folder', async () => {
  const before = await treeOf(root);
  await go('/library?folder=images/moon');
  await browser.click('Rename, move or merge');
  await browser.fill('New path of the folder', 'images/our-moon');
  await browser.press(Key.ENTER);
  await browser.text('Rename the folder “moon” to “our-moon”');
  await (
    await browser.see(By.xpath("//div[@role='dialog']//button[contains(., 'Move 6 items')]"), 'Move')
  ).click();
  await browser.text('Done. Rename the folder');
  const after = Object.keys(await treeOf(root));
  expect([after.includes('images/moon/'), after.includes('images/our-moon/moon-full.jpg')]).toEqual([
    false,
    true,
  ]);
  await go('/ledger');
  await browser.click('Undo: Rename the folder');
  await browser.text('Cancel');
  await (
    await browser.see(
      By.xpath("//div[@role='dialog']//button[starts-with(normalize-space(.), 'Undo')]"),
      'Undo',
    )
  ).click();
  await browser.text('Done. Undo: Rename the folder');
  expect(await treeOf(root)).toEqual(before);
});

test('the table: words are written in place, Enter goes on to the next line, columns are chosen', async () => {
  await go('/library?folder=images/moon&view=table&sort=name');
  await browser.click('Title of moon-first-quarter.jpg');
  await browser.press('Half a moon, small', Key.ENTER);
  await browser.text('Half a moon, small');
  await browser.press('Half a moon', Key.TAB);
  await browser.text('Half a moon');
  await browser.driver.wait(async () => {
    const list = (await (
      await fetch(`${session.server.address}/api/items?folder=images/moon&sort=name`)
    ).json()) as {
      items: { words: { title: string } }[];
    };
    return (
      list.items[0]!.words.title === 'Half a moon, small' && list.items[1]!.words.title === 'Half a moon'
    );
  }, 10_000);
  await browser.click('Columns');
  await (await browser.field('Licence end')).click();
  await browser.click('Done');
  await browser.see(By.xpath("//*[@role='columnheader'][contains(., 'Licence end')]"), 'the new column');
  await browser.click('File size');
  await browser.text('6 items');
  expect(await browser.driver.getCurrentUrl()).toContain('sort=bytes');
});

test('addresses are copied bare, as HTML and as Markdown', async () => {
  await go('/library?folder=images/moon&view=sheet&sort=name');
  await browser.driver
    .actions()
    .keyDown(Key.CONTROL)
    .click(await browser.button('moon-full.jpg'))
    .keyUp(Key.CONTROL)
    .perform();
  await browser.click('More …');
  await browser.click('Copy addresses …');
  const shown = async () => (await browser.field('Addresses')).getAttribute('value');
  await browser.driver.wait(async () => (await shown()) === '/images/moon/moon-full.jpg', 5000);
  await browser.click('As HTML');
  await browser.driver.wait(
    async () => /^<img src="\/images\/moon\/moon-full.jpg" width="\d+" height="\d+">$/.test((await shown())!),
    5000,
  );
  await browser.click('As Markdown');
  await browser.driver.wait(
    async () => /^!\[\]\(\/images\/moon\/moon-full.jpg\)$/.test((await shown())!),
    5000,
  );
  await browser.press(Key.ESCAPE);
  await browser.gone('Addresses of 1 item');
  await browser.click('Empty tray');
});

test('looked at closely: pixel for pixel, on to the next; two side by side with what differs', async () => {
  await go('/library?folder=images/moon&view=sheet&sort=name');
  await (await browser.button('moon-full.jpg')).sendKeys('l');
  await browser.text('images/moon/moon-full.jpg');
  await browser.text('2 of 6');
  await browser.press('1');
  const picture = () => browser.see(By.css('.closer .pane img'), 'the image');
  await browser.driver.wait(async () => Math.round((await (await picture()).getRect()).width) === 1400, 5000);
  await browser.press(Key.ARROW_RIGHT);
  await browser.text('images/moon/moon-last-quarter.jpg');
  await browser.text('3 of 6');
  await browser.press(Key.ESCAPE);
  await browser.gone('3 of 6');
  for (const name of ['moon-full.jpg', 'moon-last-quarter.jpg'])
    await browser.driver
      .actions()
      .keyDown(Key.CONTROL)
      .click(await browser.button(name))
      .keyUp(Key.CONTROL)
      .perform();
  await browser.click('Compare');
  await browser.text('2 items side by side');
  const rows = await browser.driver.findElements(By.css('.closer tbody tr:not(.same)'));
  const differing = await Promise.all(rows.map((row) => row.getText()));
  expect(differing.some((row) => row.startsWith('File size'))).toBe(true);
  expect(differing.some((row) => row.startsWith('Folder'))).toBe(false);
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.press(Key.ESCAPE);
  await browser.click('Empty tray');
});

test.each(['sheet', 'table'])(
  'by axe-core: no fault of accessibility in the %s with its menus',
  async (view) => {
    await go(`/library?where=kind:image,no:alt&view=${view}`);
    await browser.click('Add all to tray');
    await browser.text('in the tray');
    await browser.click('Add filter');
    expect(await session.faultsOfAccess()).toEqual([]);
    await browser.click('Tag');
    expect(await session.faultsOfAccess()).toEqual([]);
    await browser.click('Empty tray');
  },
);

test('what is typed is counted before it is added; sorted by any fact; given to a person in the record', async () => {
  await go('/library');
  await browser.click('Add filter');
  await (await choice('Wider than')).click();
  await (await browser.field('Wider than, in pixels')).sendKeys('900');
  const counted = await browser.driver.wait(
    () =>
      browser.driver.executeScript<number>(
        "return Number(/\\d+/.exec(document.querySelector('[aria-label=\"Add a filter\"] [role=status]')?.innerText ?? '')?.[0] ?? 0)",
      ),
    10_000,
  );
  await browser.press(Key.ENTER);
  await browser.text('wider than 900 px');
  await browser.driver.wait(async () => (await foundItems()) === counted, 10_000);

  // It is changed where it stands, with its answer to begin with.
  await browser.click('wider than 900 px');
  await browser.click('Change …');
  expect(await (await browser.field('Wider than, in pixels')).getAttribute('value')).toBe('900');
  await browser.fill('Wider than, in pixels', '1500');
  await browser.press(Key.ENTER);
  await browser.text('wider than 1,500 px');
  await browser.driver.wait(async () => (await foundItems()) < counted, 10_000);
  await go('/library');
  await browser.click('Add filter');
  await (await choice('File size above')).click();
  await browser.choose('Unit', 'kB');
  await browser.fill('File size above', '400');
  await browser.press(Key.ENTER);
  await browser.text('larger than 400 kB');

  await go('/library?view=table');
  await browser.choose('Sort by', 'Licence end');
  await browser.click('Sort direction: Earliest first');
  await browser.button('Sort direction: Latest first');
  expect(await browser.driver.getCurrentUrl()).toMatch(/sort=licenceEnd.*turned=1/);
  await go('/library?view=table&sort=creator');
  await browser.text('Name');
  await go('/library?where=kind:image&sort=width');
  const widths = await browser.driver.executeScript<number[]>(
    `return fetch('/api/items?where=kind:image&sort=width&limit=5').then((answer) => answer.json()).then(({ items }) => items.map((item) => item.width))`,
  );
  const first = await browser.see(By.css('[data-index="0"]'), 'the widest');
  expect(await first.getAttribute('title')).toContain(`${widths[0]} ×`);
  expect(widths).toEqual([...widths].sort((a, b) => b - a));

  await first.click();
  await browser.choose('Owner', 'Ben Thistlewick');
  await browser.text('Done. Assign to');
  await go('/library?where=owner:Ben%20Thistlewick');
  expect(await foundItems()).toBe(1);
});
