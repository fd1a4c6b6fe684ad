import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { By, Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { serveBank } from '../demo/bank/bank.ts';
import { treeOf } from '../server/test/site.ts';
import type { Browser } from './browser.ts';
import { Session } from './session.ts';

/** Images are found in a bank, bought where they cost something, and come through Intake with their licence. */
let bank: Server;
const session = new Session('bank', async () => {
  bank = serveBank(join(session.folder, 'bank'), 'tests');
  await new Promise<void>((done) => bank.listen(0, '127.0.0.1', done));
  return ['--image-bank', `http://127.0.0.1:${(bank.address() as AddressInfo).port}`];
});
let browser: Browser;
let root: string;
beforeAll(() => {
  ({ browser, root } = session);
});
afterAll(() => {
  bank.close();
  bank.closeAllConnections();
});
const findSnow = async (licence: string) => {
  await session.go('/intake');
  await browser.click('Find an image');
  await browser.text('Find an image at Moorlight Images');
  await browser.fill('Words to find', 'snow hill');
  await browser.press(Key.ENTER);
  await browser.text('20 images.');
  await browser.choose('Licence', licence);
  await browser.gone('20 images.');
};

test('“snow hill” is found, its credit comes along, and it is on the site with both', async () => {
  const before = await treeOf(root);
  await findSnow('Free with credit');
  expect(await session.faultsOfAccess()).toEqual([]);
  await (await browser.see(By.css('.results button'), 'an image')).click();
  await browser.text('You may use it on any page, free of charge; its credit has to stand near it');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.inDialog('Bring to Intake');
  await browser.text('1 image brought to Intake.');
  await browser.text('in Intake');
  await browser.press(Key.ESCAPE);
  await browser.click('Bring in 1 item');
  await browser.text('Done. Bring in');
  const [path] = Object.keys(await treeOf(root)).filter((one) => !(one in before));
  expect(path).toMatch(/snow/);
  expect((await sharp(await readFile(join(root, path!))).metadata()).format).toBe('jpeg');
  await session.go('/library?where=name:snow&sort=added');
  await browser.click(path!);
  expect(await (await browser.field('Credit')).getAttribute('value')).toMatch(/ \/ Moorlight Images$/);
  expect(await (await browser.field('Licence')).getAttribute('value')).toMatch(
    /^Free with credit, receipt R-/,
  );
  // It is known again.
  await findSnow('Free with credit');
  await browser.text('in the library');
  await browser.text('Your library has');
});

test('buying is asked for twice, and its end stands in the record', async () => {
  await findSnow('Licence for one site');
  await (await browser.see(By.css('.results button'), 'an image')).click();
  await browser.text('You may use it on this site until');
  await browser.click('Buy for');
  await browser.text('This buys a licence from Moorlight Images for');
  expect(await browser.screen()).not.toContain('brought to Intake');
  await browser.inDialog('Buy and bring to Intake');
  await browser.text('1 image brought to Intake.');
  await browser.press(Key.ESCAPE);
  await browser.click('Fields');
  const ends = await (await browser.see(By.css('.words input[type=date]'), 'the end')).getAttribute('value');
  expect(Date.parse(ends!) - Date.now()).toBeGreaterThan(360 * 86_400_000);
});

test('when the bank does not answer, that is said, and everything else works', async () => {
  bank.close();
  bank.closeAllConnections();
  await session.go('/intake');
  await browser.click('Find an image');
  await browser.text('does not answer. Everything else works. Try again later.');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.press(Key.ESCAPE);
  await browser.text('waiting');
});
