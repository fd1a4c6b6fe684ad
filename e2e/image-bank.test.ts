import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { By, Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { BankFound } from '../api/image-bank.ts';
import { serveBank } from '../demo/bank/bank.ts';
import { treeOf } from '../server/test/site.ts';
import type { Browser } from './browser.ts';
import { PagesSession } from './pages-session.ts';

/** Images are found in a bank, bought where they cost something, and come through Intake with their licence. */
let bank: Server;
const session = new PagesSession('bank', async () => {
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
  // On a page its credit stands beneath it, without being asked for.
  await session.openPage('imprint.html');
  await browser.click('Place an item');
  await browser.text('Choose a spot on the page');
  await session.clickInPage('h1[data-look-before]', 'edge');
  await session.choose(path!.slice(path!.lastIndexOf('/') + 1));
  await browser.text('Source');
  await session.ready('Save to page');
  await browser.text('Done. Place');
  expect(await session.text('imprint.html')).toMatch(/<figcaption>[^<]* \/ Moorlight Images<\/figcaption>/);
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

test('where an item is chosen, an image can be found in the bank too; what looks the same is told', async () => {
  // Somebody has put one of the bank's images on the site, under a name and in a size of their own.
  const address = `${session.server.address}/api/image-bank/images`;
  const { images } = (await (await fetch(`${address}?words=bottle`)).json()) as BankFound;
  const [image] = images;
  const large = await (await fetch(`${address}/${image!.id}/look?size=large`)).arrayBuffer();
  const own = await sharp(Buffer.from(large)).resize({ width: 420 }).png().toBuffer();
  await writeFile(join(root, 'images/somebody-had-it.png'), own);
  await session.go('/library?where=name:somebody');
  await browser.text('somebody-had-it.png');
  await session.openPage('imprint.html');
  await browser.click('Place an item');
  await browser.text('Choose a spot on the page');
  await session.clickInPage('h1[data-look-before]', 'edge');
  await browser.text('The item to place');
  await browser.fill('Words to find', 'bottle');
  await browser.click('Find an image');
  await browser.text('Find an image at Moorlight Images');
  await (
    await browser.see(By.css('.results button'), 'one that is here', /you have (one|\d+) like this/)
  ).click();
  await browser.text('Your library has this image, or one that looks the same');
  await browser.text('images/somebody-had-it.png');
  expect(await session.faultsOfAccess()).toEqual([]);
});

test('a steward names another bank; one in the private network is not asked, and that is undone', async () => {
  await session.go('/intake');
  await browser.click('Image bank …');
  await browser.fill('Address of the image bank', 'http://127.0.0.1:9/');
  await browser.inDialog('Save');
  await browser.text('Done. Use the image bank at 127.0.0.1:9');
  await browser.click('Find an image');
  await browser.text('lies in the private network, which is not asked.');
  await browser.press(Key.ESCAPE);
  await browser.click('Image bank …');
  await browser.text('Only searches and orders are sent to it.');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.inDialog('Remove the address');
  await browser.text('Done. Remove the address of the image bank');
  await browser.click('Find an image');
  await browser.text('Find an image at Moorlight Images');
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
