import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import { By, Key } from 'selenium-webdriver';
import { beforeAll, expect, test } from 'vitest';
import { draftAsText } from '../core/sheet/edits.ts';
import { treeOf } from '../server/test/site.ts';
import type { Browser } from './browser.ts';
import { DocumentsSession } from './documents-session.ts';

/** Tables are edited cell by cell, in workbooks and in text; what nobody touches keeps its bytes. */
const session = new DocumentsSession('sheets');
let browser: Browser;
beforeAll(() => {
  ({ browser } = session);
});

const BOOK = 'documents/price-list.xlsx';
const TABLE = 'documents/bright-stars.csv';
const on = (path: string) => readFile(join(session.root, path));
const open = async (path: string) => {
  await session.go(`/documents?path=${encodeURIComponent(path)}`);
  await browser.see(By.css('revo-grid .rgCell'), 'the cells');
};
const cell = (text: string) =>
  By.xpath(`//revo-grid//*[contains(@class, 'rgCell')][normalize-space(.)='${text}']`);
const at = (text: string) => browser.clickAt(cell(text), `the cell “${text}”`);
/** Types into the cell that the keyboard is on, as fast as its field opens. */
async function write(words: string, key: string): Promise<void> {
  await browser.press(words);
  const field = "return document.querySelector('revogr-edit input')?.value === arguments[0]";
  await browser.until(`“${words}” stands in the field`, () =>
    browser.driver.executeScript<boolean>(field, words),
  );
  await browser.press(key);
}
const shows = (text: string) => browser.see(cell(text), `a cell “${text}”`);
const noCell = (text: string) =>
  browser.until(
    `no cell “${text}”`,
    async () => (await browser.driver.findElements(cell(text))).length === 0,
  );
/** Parts of a workbook that are others than before. */
function changedParts(before: Uint8Array, after: Uint8Array): string[] {
  const [old, now] = [unzipSync(before), unzipSync(after)];
  return Object.keys({ ...old, ...now }).filter(
    (name) => !old[name] || !now[name] || Buffer.compare(old[name], now[name]) !== 0,
  );
}

test('a price is corrected and a row comes in; formulas follow at once; one part of the file changes; undo', async () => {
  const before = await treeOf(session.root);
  const was = await on(BOOK);
  await session.go('/library?q=price-list.xlsx');
  await browser.click('price-list.xlsx');
  await browser.click('Edit table');
  await browser.see(By.css('revo-grid .rgCell'), 'the cells');
  await at('£7.00');
  await write('8.5', Key.ENTER);
  await shows('£510.00');
  await at('Enamel pin, dome');
  await browser.click('Rows …');
  await browser.click('Insert row above');
  await browser.text('11 rows');
  await browser.see(By.css('revogr-focus'), 'the cell that is written in');
  await write('Star chart', Key.TAB);
  await browser.text('B5');
  await write('8', Key.TAB);
  await shows('£8.00');
  await browser.text('C5');
  await write('10', Key.TAB);
  await browser.text('D5');
  await write('=B5*C5', Key.ENTER);
  // It looks like the one above it.
  await shows('£80.00');
  await browser.hold(Key.CONTROL, 'z');
  await noCell('£80.00');
  await browser.hold(Key.CONTROL, 'y');
  await shows('£80.00');
  expect(await session.faultsOfAccess()).toEqual([]);
  expect(await on(BOOK)).toEqual(was);

  await browser.click('Save …');
  await browser.text('Prices: Star chart | £8.00 | 10 | £80.00');
  await session.applyPlan('Save document');
  await browser.text('3 cells changed, 1 row added');
  expect(changedParts(was, await on(BOOK))).toEqual(['xl/worksheets/sheet1.xml']);
  await browser.click('Show what changed');
  await browser.see(By.css('[role=dialog] ins'), 'the row as it is now', /Star wheel for children \| £8.50/);
  await browser.press(Key.ESCAPE);
  await session.alone();

  // The version before it can be gone on with.
  await browser.click('Edit previous version');
  await shows('£7.00');
  await noCell('Star chart');
  await browser.text('not on the site yet');
  await browser.click('Discard changes');
  await shows('Star chart');
  await browser.clickAt(By.xpath("//button[normalize-space(.)='Undo']"), 'Undo of what was done');
  await session.applyPlan('Undo', 'Undo: Edit “price-list.xlsx”');
  await shows('£7.00');
  expect(await treeOf(session.root)).toEqual(before);
});

test('a table in text is sorted, filtered, pasted into, and keeps the lines that nobody touched', async () => {
  const was = (await on(TABLE)).toString();
  const [heading, ...lines] = was.trimEnd().split('\r\n') as [string, ...string[]];
  await open(TABLE);
  await browser.fill('Show rows with', 'yellow');
  await browser.text(`of ${lines.length + 1} rows`);
  await noCell('Lintel');
  await browser.fill('Show rows with', '');
  await at('Harrow');
  await write('Barrow', Key.ENTER);
  await shows('Barrow');
  await noCell('Harrow');
  await at('magnitude');
  await browser.press(Key.ARROW_DOWN);
  await browser.click('Sort descending');
  const first = By.xpath(
    "(//revo-grid//revogr-viewport-scroll[not(contains(@class,'rowHeaders'))]//*[@data-rgrow='0' and @data-rgcol='0'])[last()]",
  );
  await browser.see(first, 'the faintest star first', /Fell/);
  await at('best month');
  await browser.press(Key.ARROW_RIGHT);
  await browser.text('E1');
  await browser.driver.executeScript(`
    const data = new DataTransfer();
    data.setData('text/plain', 'seen\\tby\\nyes\\t"Ilse, Jon"');
    document.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));`);
  await shows('seen');
  await browser.click('Save …');
  await session.applyPlan('Save document');
  const now = (await on(TABLE)).toString();
  const sorted = lines
    .map((line) => line.replace('Harrow', 'Barrow'))
    .sort((one, other) => Number(other.split(',')[1]) - Number(one.split(',')[1]));
  expect(now.split('\r\n')[0]).toBe(`${heading},seen,by`);
  expect(now.split('\r\n').slice(2)).toEqual([...sorted.slice(1), '']);
  // By keys one comes out of the cells again.
  await at('seen');
  await browser.press(Key.ESCAPE, Key.TAB);
  const inside = () =>
    browser.driver.executeScript<boolean>(
      'return !!document.activeElement.closest(\'[aria-label*="leave the cells"]\')',
    );
  await browser.until('the keyboard is outside the cells', async () => !(await inside()));
});

test('what is typed faster than the fields of cells open and close is all there', async () => {
  await open(TABLE);
  const was = (await on(TABLE)).toString().split('\r\n');
  const name = (line: string) => line.split(',')[0]!;
  await at(name(was[3]!));
  await browser.press(
    'Aldebaran',
    Key.ENTER,
    'Betelgeuse',
    Key.ENTER,
    'Capellx',
    Key.BACK_SPACE,
    'a',
    Key.ENTER,
  );
  await shows('Capella');
  await session.save();
  const now = (await on(TABLE)).toString().split('\r\n');
  expect(now.slice(3, 6).map(name)).toEqual(['Aldebaran', 'Betelgeuse', 'Capella']);
  expect(now.slice(6)).toEqual(was.slice(6));
});

test.each([
  ['the button', 'Fellwing', () => browser.click('Save …')],
  ['its keys', 'Fellmoor', () => browser.hold(Key.CONTROL, 's')],
])('what stands in a cell that is still open is saved by %s', async (_by, words, save) => {
  await open(TABLE);
  await at('Lintel');
  await write(words, '');
  await save();
  await session.applyPlan('Save document');
  expect((await on(TABLE)).toString()).toContain(words);
  await session.undo('Edit “bright-stars.csv”');
  await shows('Lintel');
});

test('two people edit one workbook: the second is told, sees both, and keeps both', async () => {
  await open(BOOK);
  await at('Enamel pin, Saturn');
  await write('Enamel pin, ringed', Key.ENTER);
  await browser.text('Draft kept at');
  await session.saveElsewhere(BOOK, () =>
    draftAsText({ from: undefined, edits: [{ do: 'set', sheet: 0, cells: [[1, 0, 'Star wheel, north']] }] }),
  );
  await browser.text('has changed on the site since you opened it');
  await browser.click('Compare …');
  await browser.see(By.css('[role=dialog] ins'), 'what is mine', /Enamel pin, ringed/);
  await browser.inDialog('Keep both changes');
  await session.alone();
  await shows('Star wheel, north');
  await shows('Enamel pin, ringed');
  await browser.click('Save …');
  await session.applyPlan('Save document');
  await browser.gone('not on the site yet');
  const sheet = Buffer.from(unzipSync(await on(BOOK))['xl/worksheets/sheet1.xml']!).toString();
  expect(sheet).toContain('Star wheel, north<');
  expect(sheet).toContain('Enamel pin, ringed<');
});

test('a new price list: begun here, three rows, brought in by the rule of its folder, placed on a page', async () => {
  await session.go('/intake');
  await browser.click('New document …');
  await browser.inDialog('Create');
  await browser.text('Enter a title');
  await browser.fill('Title', 'Spring prices');
  await (await browser.field('Blank spreadsheet (XLSX)')).click();
  await browser.fill('Folder of the document', 'documents');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.inDialog('Create');
  await browser.text('spring-prices.xlsx');
  await browser.click('Bring in 1 item');
  await browser.text('Last import');
  await session.go('/library?q=spring-prices');
  await browser.click('spring-prices.xlsx');
  await browser.text('Spring prices');
  await browser.click('Edit table');
  await browser.see(By.css('revo-grid .rgCell'), 'the cells');
  const first = By.xpath(
    "//revo-grid//*[contains(@class, 'rgCell')][@data-rgrow='0'][@data-rgcol='0'][not(ancestor::*[@row-header])]",
  );
  await browser.clickAt(first, 'the first cell');
  for (const [at, row] of [
    ['Item', 'Price'],
    ['Star wheel', '9.5'],
    ['Sum', '=SUM(B1:B2)'],
  ].entries()) {
    await write(row[0]!, Key.TAB);
    await browser.text(`B${at + 1}`);
    await write(row[1]!, Key.ENTER);
    await browser.text(`B${at + 2}`);
    await browser.press(Key.ARROW_LEFT);
    await browser.text(`A${at + 2}`);
  }
  await browser.click('Save …');
  await session.applyPlan('Save document');
  await browser.text('3 rows added');
  const sheet = Buffer.from(
    unzipSync(await on('documents/spring-prices.xlsx'))['xl/worksheets/sheet1.xml']!,
  ).toString();
  expect(sheet).toContain('<f>SUM(B1:B2)</f><v>9.5</v>');

  await session.openPage('open-nights.html');
  await browser.click('Place an item');
  await browser.text('Choose a spot on the page');
  await session.clickInPage('h1[data-look-before]', 'edge');
  await session.choose('spring-prices.xlsx');
  await browser.text('Source');
  await session.ready('Save to page');
  await browser.text('Done. Place “spring-prices.xlsx”');
  expect(await session.text('open-nights.html')).toMatch(
    /<a href="(?:\/|)documents\/spring-prices\.xlsx"[^>]*>Spring prices \(XLSX, [\d.]+ kB\)<\/a>/,
  );
});
