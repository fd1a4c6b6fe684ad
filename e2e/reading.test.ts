import { appendFile, mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { strToU8, zipSync } from 'fflate';
import { By, Key } from 'selenium-webdriver';
import { beforeAll, expect, test } from 'vitest';
import { treeOf } from '../server/test/site.ts';
import type { Browser } from './browser.ts';
import { Session } from './session.ts';

/** Documents are read where they lie, as they look; nothing in them runs or changes anything. */
const session = new Session('reading');
let browser: Browser;
beforeAll(() => {
  ({ browser } = session);
});

const LIBRARY = '/library?where=kind:document&view=sheet';
async function read(name: string): Promise<void> {
  await (await browser.button(name)).sendKeys('l');
}
async function close(): Promise<void> {
  await browser.press(Key.ESCAPE);
  await session.alone();
}
/** What the cell that is chosen holds, beside the cells. */
const chosen = () => browser.see(By.css('.closer [role=status] .words'), 'the content of the cell');
const cell = (row: number, column: number) => browser.see(By.id(`cell-${row - 1}-${column - 1}`), 'a cell');
async function find(words: string, said: string): Promise<void> {
  await browser.hold(Key.CONTROL, 'f');
  await browser.see(By.css('.closer form[role=search] input'), 'the search');
  await browser.settled();
  await browser.press(words);
  await browser.text(said);
}

test('a PDF: pages, its text to select, words found and marked, larger and smaller, printed', async () => {
  await session.go(LIBRARY);
  await read('annual-report.pdf');
  await browser.see(
    By.xpath("//*[@data-page-number='1']//span[contains(., 'Annual report')]"),
    'the text of page 1',
  );
  await browser.text('of 8');
  await browser.click('Next page');
  await browser.until(
    'page 2',
    async () => (await (await browser.field('Page')).getAttribute('value')) === '2',
  );
  expect(await session.faultsOfAccess()).toEqual([]);
  // From the page that is seen.
  await find('observatory', '2 of 8, page 2');
  await browser.see(By.css('.closer .highlight.selected'), 'the words, marked');
  await browser.press(Key.ENTER);
  await browser.text('3 of 8, page 3');
  await browser.press(Key.ESCAPE);
  await browser.gone('Match case');
  await browser.driver.executeScript(
    'window.print = () => { window.printed = document.querySelectorAll(".app-print img").length }',
  );
  await browser.click('Print …');
  await browser.until(
    'eight pages to print',
    async () => (await browser.driver.executeScript('return window.printed')) === 8,
  );
  await close();
});

test('a workbook: formats, formulas, what stays in sight, sheets, words; gone through by keys', async () => {
  await session.go(LIBRARY);
  await read('price-list.xlsx');
  await browser.text('10 rows, 4 columns');
  expect(await (await cell(2, 2)).getText()).toBe('£9.50');
  expect(await (await cell(10, 4)).getText()).toMatch(/^£\d,\d{3}\.\d{2}$/);
  await (await cell(10, 4)).click();
  expect(await (await chosen()).getText()).toBe('=SUM(D2:D9)');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.hold(Key.CONTROL, Key.HOME);
  await browser.press(Key.ARROW_DOWN);
  await browser.press(Key.ARROW_DOWN);
  expect(await (await chosen()).getText()).toBe('Star wheel, southern sky');
  await find('heron', '1 of 1, A9');
  expect(await (await chosen()).getText()).toBe('Print, Heron Galaxy');
  await browser.press(Key.ESCAPE);
  await browser.choose('Sheet', 'Terms');
  await browser.text('Members pay a tenth less.');
  await close();
});

test('text and slides on paper: looks, tables and images; links lead nowhere, and nothing runs', async () => {
  const types = { mimetype: 'application/vnd.oasis.opendocument.text' };
  const names =
    'xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" xmlns:xlink="http://www.w3.org/1999/xlink"';
  const pack = (files: Record<string, string>) =>
    zipSync(Object.fromEntries(Object.entries(files).map(([name, part]) => [name, strToU8(part)])), {
      level: 0,
    });
  await writeFile(
    join(session.root, 'documents/hire.odt'),
    pack({
      ...types,
      'content.xml': `<office:document-content ${names}><office:body><office:text><text:h text:outline-level="1">Hiring the dome</text:h><text:p>Ask <text:a xlink:href="javascript:parent.ran=1">the office</text:a>. &lt;script&gt;parent.ran=1&lt;/script&gt;</text:p></office:text></office:body></office:document-content>`,
    }),
  );
  await writeFile(join(session.root, 'documents/locked.docx'), Buffer.from('d0cf11e0a1b11ae1', 'hex'));
  const before = await treeOf(session.root);
  await session.go(LIBRARY);
  await read('hire.odt');
  const { driver } = browser;
  await browser.within(By.css('.closer iframe'), 'the paper', async () => {
    await browser.text('Hiring the dome');
    await (await browser.see(By.css('.link'), 'the link')).click();
    expect(await driver.findElements(By.css('a[href]'))).toEqual([]);
  });
  expect(await driver.executeScript('return window.ran')).toBeNull();
  expect(await session.faultsOfAccess()).toEqual([]);
  await find('dome', '1 of 1');
  await browser.press(Key.ESCAPE);
  await close();
  await read('booking-form.docx');
  await browser.within(By.css('.closer iframe'), 'the paper', async () => {
    await browser.text('Booking form for schools');
    expect(await driver.findElements(By.css('table tr'))).toHaveLength(4);
    // From within the document, too.
    await browser.press(Key.ESCAPE);
  });
  await session.alone();
  await read('locked.docx');
  await browser.text('protected by a password, or was saved in the old binary format');
  await close();
  expect(await treeOf(session.root)).toEqual(before);
});

test('a table of a million rows opens in a window of its rows, to its very end', async () => {
  const folder = join(session.root, 'documents/data');
  await mkdir(folder, { recursive: true });
  const file = join(folder, 'readings.csv');
  await writeFile(file, 'number;star;note\n');
  for (let part = 0; part < 10; part++) {
    const lines = Array.from({ length: 100_000 }, (_, at) => {
      const number = part * 100_000 + at;
      return `${number};Star ${number % 977};"seen; ""clear"""\n`;
    });
    await appendFile(file, lines.join(''));
  }
  await session.go(LIBRARY);
  await read('readings.csv');
  await browser.text('1,000,001 rows, 3 columns');
  await (await cell(2, 3)).click();
  expect(await (await chosen()).getText()).toBe('seen; "clear"');
  await browser.hold(Key.CONTROL, Key.END);
  await browser.hold(Key.CONTROL, Key.ARROW_LEFT);
  await browser.until('the last row', async () => (await (await chosen()).getText()) === '999999');
  expect(await browser.driver.findElements(By.css('.closer [role=gridcell]'))).not.toHaveLength(0);
  expect((await browser.driver.findElements(By.css('.closer [role=gridcell]'))).length).toBeLessThan(300);
  await close();
});
