import { readdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import { beforeAll, beforeEach, expect, test } from 'vitest';
import { By, type Browser } from './browser.ts';
import { Session } from './session.ts';

/** The table as a working sheet: blocks pasted, cells filled down, one change for many; and out and in as CSV. */
const session = new Session('sheet');
let browser: Browser;
beforeAll(() => {
  ({ browser } = session);
});
beforeEach(async () => {
  await session.go('/ledger');
  await browser.forget();
});
interface Item {
  id: number;
  name: string;
  path: string;
  words: { alt: string; title: string; caption: string; tags: string[] };
}
async function found(query: string): Promise<Item[]> {
  const answer = await fetch(`${session.server.address}/api/items?limit=300&${query}`);
  return ((await answer.json()) as { items: Item[] }).items;
}
async function cell(column: string, name: string) {
  return browser.see(By.css(`[aria-label^="${column} of ${name}:"]`), `${column} of ${name}`);
}

test('a block from a spreadsheet is pasted, as a plan; a cell is filled down into what is gathered', async () => {
  const items = await found('folder=images/moon&sort=name');
  await session.go('/library?folder=images/moon&sort=name&view=table');
  const start = await cell('Title', items[0]!.name);
  await browser.driver.executeScript('arguments[0].focus()', start);
  await browser.driver.executeScript(
    `const data = new DataTransfer(); data.setData('text/plain', arguments[0]);
     document.activeElement.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }))`,
    'First moon\tA thin crescent\nSecond moon\t"Half, with ""seas"""\n',
  );
  await browser.text('Set alt text, title of 2 items');
  await session.applyPlan('Change');
  const after = await found('folder=images/moon&sort=name');
  expect(after.slice(0, 2).map(({ words }) => [words.title, words.alt])).toEqual([
    ['First moon', 'A thin crescent'],
    ['Second moon', 'Half, with "seas"'],
  ]);
  await browser.click('Add all to tray');
  await browser.driver.executeScript('arguments[0].focus()', await cell('Title', items[1]!.name));
  await browser.click(`Fill “Title” down into ${items.length - 2} selected items below`);
  await session.applyPlan('Change');
  const filled = await found('folder=images/moon&sort=name');
  expect(filled.map(({ words }) => words.title)).toEqual([
    'First moon',
    ...filled.slice(1).map(() => 'Second moon'),
  ]);
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.press('w');
  await browser.choose('Field', 'Title');
  await browser.choose('Action', 'Find and replace');
  await browser.fill('Text to find', 'second');
  await browser.fill('Replace with', 'Another');
  await browser.click('Review changes');
  await browser.text('Replace “second” in title of');
  await session.applyPlan('Change');
  expect((await found('folder=images/moon&sort=name'))[3]!.words.title).toBe('Another moon');
});

test('a table is handed out, changed, taken in: the plan shows the cells; conflicts, unknown columns and formulas are told', async () => {
  await session.go('/describe/table');
  await browser.click('Download CSV');
  const folder = join(session.folder, 'downloads');
  const file = await browser.driver.wait(async () => {
    const [name] = (await readdir(folder)).filter((one) => one.endsWith('.csv'));
    return name && join(folder, name);
  }, 10_000);
  const text = await readFile(file as string, 'utf8');
  const items = await found('where=kind:image&sort=path');
  const [one, two] = [items[20]!, items[21]!];
  const lines = text.split('\r\n');
  expect(lines[0]).toContain('id,version,path,address,alt,');
  const columns = lines[0]!.replace('\ufeff', '').split(',');
  const rows = [one, two].map(({ id }) => lines.find((line) => line.startsWith(`${id},`))!.split(','));
  rows[0]![columns.indexOf('alt')] = '"Sky, from the table"';
  rows[0]![columns.indexOf('title')] = "'=SUM(A1)";
  rows[1]![columns.indexOf('alt')] = 'Mine';
  const back = [
    `${columns.join(',')},Colour`,
    ...rows.map((row) => `${row.join(',')},red`),
    '999999,1,,,x',
  ].join('\r\n');
  await writeFile(join(session.folder, 'back.csv'), `\ufeff${back}`);
  // Meanwhile someone else writes the second one.
  const now = (await (await fetch(`${session.server.address}/api/items/${two.id}`)).json()) as {
    item: { rowVersion: number };
  };
  await fetch(`${session.server.address}/api/items/${two.id}`, {
    method: 'PATCH',
    headers: { 'Content-Type': 'application/json', Origin: session.server.address },
    body: JSON.stringify({ rowVersion: now.item.rowVersion, words: { alt: 'Theirs' } }),
  });
  await (
    await browser.driver.findElement(By.css('input[type=file]'))
  ).sendKeys(join(session.folder, 'back.csv'));
  await browser.text('3 rows, 2 matched');
  await browser.text('“Colour”');
  await browser.text('Line 4: There is no item “999999”');
  await browser.text('changed since by');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.click('Review 2 changes');
  await browser.text('Sky, from the table');
  await session.applyPlan('Change');
  const after = await found('where=kind:image&sort=path');
  expect(after.find(({ id }) => id === one.id)!.words).toMatchObject({
    alt: 'Sky, from the table',
    title: '=SUM(A1)',
  });
  expect(after.find(({ id }) => id === two.id)!.words.alt).toBe('Theirs');
  await browser.press(Key.ESCAPE);
});
