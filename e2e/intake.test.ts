import { readFile, truncate } from 'node:fs/promises';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { By, Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { makeAgency, serveAgency } from '../demo/agency.ts';
import { heic } from '../server/test/heic.ts';
import { stubbornFilm } from '../server/test/media.ts';
import { treeOf } from '../server/test/site.ts';
import type { Browser } from './browser.ts';
import type { RunningServer } from './server.ts';
import { painted, Session } from './session.ts';

/** The ways into Intake: drop, paste, fetch, choose; by keys alone; at once; on after a reload. */
let agency: Server;
let supplier: string;
const session = new Session('intake', async () => {
  const shelf = join(session.folder, 'agency');
  await makeAgency(shelf, 'tests', 200);
  agency = serveAgency(shelf);
  await new Promise<void>((done) => agency.listen(0, '127.0.0.1', done));
  supplier = `127.0.0.1:${(agency.address() as AddressInfo).port}`;
  return ['--fetch-host', supplier];
});
const go = (path: string) => session.go(path);
let browser: Browser;
let root: string;
let folder: string;
let server: RunningServer;
beforeAll(() => {
  ({ browser, root, folder, server } = session);
});
afterAll(() => {
  agency?.close();
});

test('a dropped folder tree keeps its nesting; one bad file among twenty stops nothing; the batch is undone as a whole', async () => {
  for (let i = 1; i <= 19; i++)
    await session.put(`Open Nights/${i % 2 ? 'Spring Term' : ''}/Guests ${i}.jpg`, await painted(i));
  await session.put('Open Nights/Spring Term/broken.jpg', (await painted(40)).subarray(0, 5000));
  const before = await treeOf(root);
  await go('/library?folder=images/events');
  await browser.text('All folders');
  await session.drop(join(folder, 'Open Nights'));
  await browser.text('Bring in 19 items');
  await browser.text('ends too early');
  await browser.text('1 file refused');
  await browser.click('Refused 1');
  await browser.gone('guests-2.jpg');
  await browser.click('All 20');
  await browser.text('guests-2.jpg');
  expect(await (await browser.field('Folder for all 19')).getAttribute('value')).toBe('images/events');
  await browser.fill('Tags for all', 'open night, guests');
  await browser.fill('Credit for all', 'Corvane Hill Observatory');
  await (await browser.field('Credit for all')).sendKeys(Key.TAB);
  expect(await treeOf(root)).toEqual(before);
  await browser.click('Bring in 19 items');
  await browser.text('Done. Bring in 19 items to 2 folders');
  const after = await treeOf(root);
  const added = Object.keys(after).filter((path) => !(path in before));
  expect(added).toHaveLength(21);
  expect(added).toContain('images/events/open-nights/guests-2.jpg');
  expect(added).toContain('images/events/open-nights/spring-term/guests-1.jpg');
  expect(added.some((path) => path.includes('broken'))).toBe(false);

  await browser.click('Show');
  await browser.text('from one change in the ledger');
  await browser.text('19 items');
  await browser.click('guests-2.jpg');
  await browser.text('open night');
  expect(await (await browser.field('Credit')).getAttribute('value')).toBe('Corvane Hill Observatory');

  await browser.click('Intake');
  await browser.click('Undo import');
  await browser.inDialog('Undo');
  await browser.text('Done. Undo: Bring in 19 items');
  expect(await treeOf(root)).toEqual(before);
  await browser.click('Clear refused files');
  await browser.text('No files waiting');
});

test('an image pasted from the clipboard arrives under a name that says when', async () => {
  await go('/intake');
  await browser.text('No files waiting');
  await session.paste(
    await sharp(await painted(50))
      .png()
      .toBuffer(),
  );
  await browser.text('pasted-image-');
  await browser.text('600 × 400 px');
  await browser.click('Skip: pasted-image-');
  await browser.text('No files waiting');
});

test('what is pasted while the window still opens is not lost', async () => {
  // The first answer about the site waits, as on a slow line, until the test lets it through.
  await browser.command('Page.addScriptToEvaluateOnNewDocument', {
    source: `if (sessionStorage.getItem('slow')) {
      const ask = window.fetch;
      const gate = new Promise((open) => (window.openGate = open));
      window.fetch = async (...of) => (String(of[0]).endsWith('/api/site') ? (await gate, ask(...of)) : ask(...of));
    }`,
  });
  await browser.driver.executeScript("sessionStorage.setItem('slow', '1')");
  await go('/intake');
  await browser.text('Opening …');
  await session.paste(
    await sharp(await painted(52))
      .png()
      .toBuffer(),
  );
  await browser.driver.executeScript("sessionStorage.removeItem('slow'); window.openGate()");
  await browser.text('pasted-image-');
  await browser.click('Skip: pasted-image-');
  await browser.text('No files waiting');
});

/** Limits what the browser sends, in bytes a second; -1: no limit. */
async function speed(upload: number): Promise<void> {
  await browser.command('Network.enable', {});
  await browser.command('Network.emulateNetworkConditions', {
    offline: false,
    latency: 5,
    downloadThroughput: -1,
    uploadThroughput: upload,
  });
}

/** Bytes that the server has of the only file on the list. */
async function sent(): Promise<number> {
  const list = await (await fetch(`${server.address}/api/arrivals`)).json();
  const [arrival] = (list as { changed: { upload: string }[] }).changed;
  if (!arrival?.upload) return 0;
  const head = await fetch(`${server.address}/api/uploads/${arrival.upload}`, {
    method: 'HEAD',
    headers: { 'Tus-Resumable': '1.0.0' },
  });
  return Number(head.headers.get('upload-offset'));
}

/** Reloads the page. With bytes still to be sent the browser asks first; the person goes. */
async function reload(): Promise<void> {
  await browser.driver.executeScript('window.before = true; setTimeout(() => location.reload(), 0)');
  await browser.driver.wait(async () => {
    try {
      await (await browser.driver.switchTo().alert()).accept();
    } catch (error) {
      if ((error as Error).name !== 'NoSuchAlertError') throw error;
    }
    return (await browser.driver.executeScript('return window.before === undefined')) as boolean;
  }, 10_000);
}

test('sending goes on by itself after a reload in the middle, and nothing is sent twice', async () => {
  const bytes = await sharp({
    create: {
      width: 1500,
      height: 1000,
      channels: 3,
      background: '#222',
      noise: { type: 'gaussian', mean: 120, sigma: 60 },
    },
  })
    .png({ compressionLevel: 0 })
    .toBuffer();
  const path = await session.put('big-noise.png', bytes);
  await go('/intake');
  await browser.text('No files waiting');
  await speed(400_000);
  await session.drop(path);
  await browser.text('Uploading');
  await browser.driver.wait(async () => (await sent()) > 200_000, 30_000);
  await reload();
  await browser.text('Uploading');
  const kept = await sent();
  expect(kept).toBeGreaterThan(200_000);
  expect(kept).toBeLessThan(bytes.length);
  await speed(-1);
  await browser.text('Bring in 1 item');
  expect(await browser.screen()).not.toContain('Uploading');
  await browser.click('Bring in 1 item');
  await browser.text('Done. Bring in “big-noise.png”');
  expect((await readFile(join(root, 'big-noise.png'))).equals(bytes)).toBe(true);
});

test('a file too large for the browser’s store goes on where it stopped after a reload, with one act of the person', async () => {
  const path = await session.put('sky-model.bin', new Uint8Array(16));
  await truncate(path, 320_000_000);
  await go('/intake');
  await browser.text('No files waiting');
  await speed(2_000_000);
  await session.drop(path);
  await browser.driver.wait(async () => (await sent()) > 1_000_000, 30_000);
  await reload();
  // The browser asks before it reads the file again; here nobody can answer, so the person takes the same file once more.
  await browser.button('Resume upload');
  await session.drop(path);
  await browser.text('Uploading');
  expect(await sent()).toBeGreaterThan(1_000_000);
  await speed(-1);
  await browser.text('kept as it is, without preview');
  await browser.text('320 MB');
  await browser.click('Skip: sky-model.bin');
  await browser.text('No files waiting');
});

test('fetched from a supplier by address: what came waits, what did not is told and stays to be corrected', async () => {
  await go('/intake');
  await browser.text('No files waiting');
  await browser.click('Fetch from a URL');
  await browser.fill(
    'File URLs',
    [
      `http://${supplier}/GP_40217_L.jpg`,
      `http://${supplier}/order/40243`,
      `http://${supplier}/lost.jpg`,
      'http://10.1.2.3/a.jpg',
    ].join('\n'),
  );
  await (await browser.field('File URLs')).submit();
  await browser.text('Bring in 2 items');
  await browser.text('a-comet-with-two-tails-over-a-dark.jpg');
  await browser.text('answered 404');
  await browser.text('Fetching from other servers is switched off here');
  expect(await (await browser.field('File URLs')).getAttribute('value')).toBe(
    `http://${supplier}/lost.jpg\nhttp://10.1.2.3/a.jpg`,
  );
  await browser.click('Fields of GP_40243_L.jpg');
  expect(await (await browser.field('Creator of')).getAttribute('value')).toBe('Tamsin Greyling');
  await browser.click('Bring in 2 items');
  await browser.text('Done. Bring in 2 items');
  expect(Object.keys(await treeOf(root))).toContain('the-sun-with-a-large-group-of-spots.jpg');
});

test('at once: what raises no doubt is on the site without a further word, what does waits', async () => {
  await go('/intake');
  await browser.text('No files waiting');
  await (await browser.field('Bring in files without issues')).click();
  await go('/library?folder=images/press');
  await browser.text('3 items');
  const copy = await readFile(join(root, 'images/hero/evening-at-the-dome.jpg'));
  await session.drop(
    await session.put('Press Evening.jpg', await painted(90)),
    await session.put('Dome copy.jpg', copy),
  );
  await browser.text('Done. Bring in “press-evening.jpg”');
  expect(Object.keys(await treeOf(root))).toContain('images/press/press-evening.jpg');
  await browser.click('Intake');
  await browser.text('This file already exists');
  await browser.click('Skip: Dome copy.jpg');
  await browser.text('No files waiting');
  await (await browser.field('Bring in files without issues')).click();
});

test('by keys alone: choose, name, say words, bring in, undo', async () => {
  await go('/intake');
  await browser.text('No files waiting');
  // The system's own chooser stands outside the page: what it gives is put into the field that it fills.
  await browser.driver
    .findElement(By.css('input[type=file]'))
    .sendKeys(await session.put('IMG_4321.JPG', await painted(95)));
  await browser.text('Bring in 1 item');
  const before = await treeOf(root);
  await browser.tabTo('Folder for all');
  await browser.press('images/keys', Key.TAB);
  await browser.text('in images/keys');
  await browser.tabTo('4321.jpg');
  await browser.press(Key.ENTER);
  await browser.press('dome-at-noon', Key.ENTER);
  await browser.text('dome-at-noon.jpg');
  await browser.tabTo('Fields of IMG_4321.JPG');
  await browser.press(Key.ENTER);
  await browser.tabTo('Alt text of');
  await browser.press('The dome in bright sunlight', Key.TAB);
  await browser.tabTo('Bring in 1 item');
  await browser.press(Key.ENTER);
  await browser.text('Done. Bring in “dome-at-noon.jpg”');
  expect(Object.keys(await treeOf(root))).toContain('images/keys/dome-at-noon.jpg');
  await browser.tabTo('Undo import');
  await browser.press(Key.ENTER);
  await browser.text('Cancel');
  await browser.tabTo('Undo', true);
  await browser.press(Key.ENTER);
  await browser.text('Done. Undo: Bring in');
  expect(await treeOf(root)).toEqual(before);
});

test('an image as a phone sends it is saved as JPEG; what must not get out and cannot be removed asks, and is skipped', async () => {
  const before = await treeOf(root);
  const phone = heic(160, 96, (x) => [x < 80 ? 60 : 200, 118, 134]);
  await session.put('evening/IMG_2031.heic', phone);
  await session.put('evening/drone.mp4', await stubbornFilm());
  await go('/intake');
  await browser.text('No files waiting');
  await session.drop(join(folder, 'evening/IMG_2031.heic'), join(folder, 'evening/drone.mp4'));
  await browser.text('so it is saved as JPEG');
  await browser.text('img-2031.jpg');
  await browser.click('Keep as it is');
  await browser.text('Visitors would see nothing');
  await browser.text('img-2031.heic');
  await browser.click('Save as JPEG');
  await browser.text('img-2031.jpg');
  await browser.text('It could not be removed');
  await browser.click('Skip this one');
  await browser.click('Bring in 1 item');
  await browser.text('Done. Bring in “img-2031.jpg”');
  const added = Object.keys(await treeOf(root)).filter((path) => !(path in before));
  expect(added).toEqual(['img-2031.jpg']);
  const file = await readFile(join(root, added[0]!));
  expect(await sharp(file).metadata()).toMatchObject({ format: 'jpeg', width: 160, height: 96 });
  await browser.click('Undo import');
  await browser.inDialog('Undo');
  await browser.text('Done. Undo: Bring in');
  expect(await treeOf(root)).toEqual(before);
});
