import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import { beforeAll, expect, test } from 'vitest';
import { By, type Browser } from './browser.ts';
import { Session } from './session.ts';

/** The Library looked at: videos and sounds played, the sheet's size, the table's columns, four side by side, what looks alike. */
const session = new Session('look');
let browser: Browser;
beforeAll(() => {
  ({ browser } = session);
});

const ask = <Result>(script: string) => browser.driver.executeScript<Result>(`return ${script}`);

async function found(query: string) {
  const answer = await fetch(`${session.server.address}/api/items?${query}`);
  return ((await answer.json()) as { items: { id: number; name: string; owner: string | null }[] }).items;
}

test.each(['video', 'audio'])('a file of the kind %s is played in place, by keys', async (kind) => {
  const [item] = await found(`where=kind:${kind}`);
  await session.go(`/library?where=kind:${kind}&item=${item!.id}`);
  const player = await browser.see(By.css(kind), `the player of ${item!.name}`);
  await browser.driver.wait(
    () => ask<boolean>(`document.querySelector('${kind}').readyState >= 2`),
    20_000,
    'it can be played',
  );
  await player.sendKeys(Key.SPACE);
  await browser.driver.wait(
    () => ask<boolean>(`document.querySelector('${kind}').currentTime > 0.2`),
    10_000,
    'it goes on',
  );
});

test('the sheet gets larger and smaller images by its slider', async () => {
  await session.go('/library?folder=images/moon');
  await browser.text('6 items');
  const slider = await browser.see(By.css('[role=slider]'), 'the slider');
  await browser.see(By.css('.place img'), 'a thumbnail');
  await browser.settled();
  const width = () =>
    ask<number>("Math.max(...[...document.querySelectorAll('.place img')].map((one) => one.width))");
  const before = await width();
  await slider.sendKeys(...Array.from({ length: 12 }, () => Key.ARROW_RIGHT));
  await browser.driver.wait(async () => (await width()) > before * 1.2, 20_000, 'larger');
  await slider.sendKeys(...Array.from({ length: 24 }, () => Key.ARROW_LEFT));
  await browser.driver.wait(async () => (await width()) < before, 20_000, 'smaller');
});

test('columns are put in another order and made wider, and stay so', async () => {
  await session.go('/library?folder=images/moon&view=table');
  await browser.text('6 items');
  const titles = () =>
    ask<string[]>(
      "[...document.querySelectorAll('[role=columnheader]')].map((one) => one.innerText.trim()).filter(Boolean)",
    );
  expect((await titles()).indexOf('Title')).toBeLessThan((await titles()).indexOf('Alt text'));
  await browser.click('Columns');
  await browser.click('Move Alt text left');
  await browser.click('Tags wider');
  await browser.click('Done');
  await browser.driver.navigate().refresh();
  await browser.text('6 items');
  await browser.driver.wait(
    async () => (await titles()).indexOf('Alt text') < (await titles()).indexOf('Title'),
    5000,
    'the new order stays',
  );
});

test('four stand side by side; what looks like an image is one step from its record', async () => {
  await session.go('/library?folder=images/dome');
  await browser.text('7 items');
  await browser.click('dome-aurora.jpg');
  await browser.click('Find similar');
  await browser.text('dome-aurora-bright.jpg');
  await session.go('/library?folder=images/tonight');
  await browser.text('4 items');
  await browser.click('Add all to tray');
  await browser.text('4 items in the tray');
  await browser.press('=');
  await browser.text('4 items side by side');
  await browser.text('tonight-fog.jpg');
  expect(await session.faultsOfAccess()).toEqual([]);
});

test('what is gathered is given to a person; undone', async () => {
  await browser.driver.executeScript('sessionStorage.clear()');
  await session.go('/library?folder=images/moon');
  await browser.click('Add all to tray');
  await browser.text('6 items in the tray');
  await browser.press('g');
  await browser.choose('Owner', 'Ben Thistlewick');
  await browser.inDialog('Review changes');
  await session.applyPlan('Change 6 items');
  expect((await found('folder=images/moon')).map((item) => item.owner)).toEqual(
    Array(6).fill('Ben Thistlewick'),
  );
  await browser.click('Undo');
  await session.applyPlan('Undo');
  expect((await found('folder=images/moon')).map((item) => item.owner)).toEqual(Array(6).fill(null));
});

test('an empty folder is made and removed again', async () => {
  await session.go('/library');
  await browser.click('New folder …');
  await browser.fill('New folder', 'images/evenings');
  await browser.press(Key.ENTER);
  await session.applyPlan('Apply');
  await session.go('/library?folder=images/evenings');
  await browser.click('Delete empty folder …');
  await session.applyPlan('Apply');
  await expect(stat(join(session.root, 'images/evenings'))).rejects.toThrow('ENOENT');
});
