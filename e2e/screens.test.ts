import { beforeAll, expect, test } from 'vitest';
import { By, type Browser } from './browser.ts';
import { Session } from './session.ts';

const session = new Session('screens');
let browser: Browser;
beforeAll(() => {
  ({ browser } = session);
});

/** What stands on each screen once it is there. */
const SCREENS: [path: string, says: string][] = [
  ['/library?folder=images', 'Add all to tray'],
  ['/library?folder=images&view=table', 'Columns'],
  ['/describe', 'Save and next'],
  ['/describe/pages', 'Text on pages'],
  ['/describe/table', 'Download CSV'],
  ['/describe/names', 'Add part'],
  ['/intake', 'Choose files …'],
  ['/pages?page=index.html', 'Open the page as served'],
  ['/upkeep', 'can be freed'],
  ['/upkeep?queue=copies', 'Merge group …'],
  ['/export', 'Past exports'],
  ['/ledger', 'Undo restores files to the byte'],
];

/** What the browser's console holds since it was asked last. */
async function errors(): Promise<string[]> {
  const entries = await browser.driver.manage().logs().get('browser');
  return entries.filter((one) => one.level.name === 'SEVERE').map((one) => one.message);
}

test.each(['light', 'dark'])(
  'no screen has a fault of accessibility or an error in the console, in the %s scheme',
  async (scheme) => {
    await browser.command('Emulation.setEmulatedMedia', {
      features: [{ name: 'prefers-color-scheme', value: scheme }],
    });
    await errors();
    for (const [path, says] of SCREENS) {
      await session.go(path);
      await browser.text(says);
      expect(await session.faultsOfAccess(), path).toEqual([]);
      expect(await errors(), path).toEqual([]);
    }
  },
);

test('a spreadsheet and a text show what they are, without asking for a preview that is not there', async () => {
  await errors();
  await session.go('/library?where=kind:document');
  await browser.text('bright-stars.csv');
  await browser.text('volunteers.csv');
  await browser.settled();
  expect(await errors()).toEqual([]);
});

test('right click: on an item what can be done with it, on a folder what can be done with that; by keys too', async () => {
  await session.go('/library?folder=images/moon');
  const full = await browser.see(By.css('[data-item][title*="moon-full.jpg"]'), 'the full Moon');
  await browser.driver.actions().contextClick(full).perform();
  await browser.text('Find similar');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.click('Add to tray');
  await browser.text('1 item in the tray');
  await browser.driver.actions().contextClick(full).perform();
  await browser.click('Remove from tray');
  await browser.gone('1 item in the tray');

  const media = await browser.see(By.css('a[data-folder="media"]'), 'the folder media');
  await browser.driver.actions().contextClick(media).perform();
  await (
    await browser.see(By.xpath("//*[@role='menuitem'][contains(., 'New folder')]"), 'New folder')
  ).click();
  await browser.text('New folder in “media”');
  await browser.press('\uE00C');

  // Closed, a folder hides what lies in it, also after the page was loaded again.
  const branch = await browser.see(By.css('[data-key="uploads"] .el-tree-node__expand-icon'), 'its triangle');
  await browser.see(By.css('a[data-folder="uploads/2024"]'), 'a folder within');
  await branch.click();
  await browser.driver.wait(
    async () => !(await browser.driver.findElement(By.css('a[data-folder="uploads/2024"]')).isDisplayed()),
    10_000,
  );
  await session.go('/library?folder=images/moon');
  await browser.see(By.css('a[data-folder="images/moon"]'), 'the tree');
  expect(
    await browser.driver.executeScript(
      'return document.querySelector(\'a[data-folder="uploads/2024"]\')?.checkVisibility() ?? false',
    ),
  ).toBe(false);
});
