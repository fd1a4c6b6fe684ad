import { createHash } from 'node:crypto';
import { readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { parse } from 'csv-parse/sync';
import { Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { beforeAll, expect, test } from 'vitest';
import { fromBuffer, type Entry } from 'yauzl';
import { besideSite } from '../server/files/data-folder.ts';
import { bringArchive } from '../server/archive/bring.ts';
import { treeOf } from '../server/test/site.ts';
import { Browser, By } from './browser.ts';
import type { RunningServer } from './server.ts';
import { SMALL_DEMO } from '../demo/test-setup.ts';
import { Session } from './session.ts';

const session = new Session('walk', undefined, SMALL_DEMO);
const go = (path: string) => session.go(path);

let browser: Browser;

let root: string;

let folder: string;

let server: RunningServer;

beforeAll(() => {
  ({ browser, root, folder, server } = session);
});

test('Library: contact sheet, folder tree, find, record with facts and placements', async () => {
  await go('/');
  await browser.text('163 items');
  expect(await browser.screen()).toContain('All folders');
  await browser.click('moon');
  await browser.text('6 items');
  await browser.fill('Find items', 'crescent');
  await (await browser.field('Find items')).sendKeys(Key.ENTER);
  await browser.text('1 item');
  await browser.click('moon-waxing-crescent.jpg');
  await browser.text('/images/moon/moon-waxing-crescent.jpg');
  await browser.text('1400 × 1050 px');
  await browser.text('Used in 1 place');
  await browser.text('gallery/moon.html, line');
  const link = await browser.button('as served');
  const page = await (
    await fetch((await link.getAttribute('href'))!.replace('site.localhost', '127.0.0.1'))
  ).text();
  expect(page).toContain('moon-waxing-crescent.jpg');
});

test('Bring in: each file its result; copies told; broken ones refused; the rest goes on', async () => {
  const files = {
    'IMG_9001.JPG': await sharp({ create: { width: 900, height: 600, channels: 3, background: '#345' } })
      .jpeg()
      .toBuffer(),
    'really-a-png.jpg': await sharp({ create: { width: 64, height: 48, channels: 3, background: '#a43' } })
      .png()
      .toBuffer(),
    'again.jpg': await readFile(join(root, 'images/moon/moon-full.jpg')),
    'broken.jpg': (await readFile(join(root, 'images/moon/moon-full.jpg'))).subarray(0, 3000),
    'page.html': Buffer.from('<!doctype html><script>alert(1)</script>'),
    'empty.png': Buffer.alloc(0),
  };
  const paths: string[] = [];
  for (const [name, bytes] of Object.entries(files)) {
    paths.push(join(folder, name));
    await writeFile(paths.at(-1)!, bytes);
  }
  await browser.click('Intake');
  await browser.text('No files waiting');
  await browser.driver.findElement(By.css('input[type=file]')).sendKeys(paths.join('\n'));
  await browser.text('This file already exists');
  await browser.text('ends too early');
  await browser.text('It is a page or a script');
  await browser.text('The file is empty');
  await browser.text('it gets the extension .png');
  await browser.text('3 files refused');
  await browser.fill('Folder for all', 'images/new');
  const before = await treeOf(root);
  await browser.click('Bring in 2 items');
  await browser.text('Done.');
  const after = await treeOf(root);
  expect(Object.keys(after).filter((path) => !(path in before))).toEqual([
    'images/new/',
    'images/new/img-9001.jpg',
    'images/new/really-a-png.png',
  ]);
  expect(after['images/new/img-9001.jpg']).toBe(
    createHash('sha256').update(files['IMG_9001.JPG']).digest('hex'),
  );
  await browser.text('Last import');
  expect(await readdir(join(besideSite(root), 'arrivals'))).toEqual([]);
});

test('many windows at once: each goes on, and each is told what changes', async () => {
  const { driver } = browser;
  const first = await driver.getWindowHandle();
  for (let number = 0; number < 8; number++) {
    await driver.switchTo().newWindow('tab');
    await go('/library?folder=images/new');
    await browser.text('img-9001.jpg');
  }
  // Told of what comes while it stands in the background, too.
  await writeFile(
    join(root, 'images/new/later.png'),
    await readFile(join(root, 'images/new/really-a-png.png')),
  );
  for (const handle of (await driver.getAllWindowHandles()).reverse()) {
    await driver.switchTo().window(handle);
    if (handle === first) break;
    await browser.text('later.png');
    await driver.close();
  }
  await driver.switchTo().window(first);
  await rm(join(root, 'images/new/later.png'));
});

test('Describe: saved at once, and two people never overwrite each other', async () => {
  await go('/library?folder=images/new');
  await browser.click('img-9001.jpg');
  await browser.fill('Alt text', 'A plain evening sky above the moor');
  await browser.press(Key.TAB);
  await browser.text('Saved');
  const second = await Browser.start();
  try {
    await second.open(`${server.address}/library?folder=images/new`);
    await second.click('Signed in as Ottilie Marrow');
    await second.click('Work as Ben Thistlewick, editor');
    await second.click('img-9001.jpg');
    await second.driver.wait(
      async () => (await (await second.field('Title')).getAttribute('value')) === '',
      5000,
    );
    await second.driver.executeScript('window.EventSource = undefined');
    // The first person types, and the second one's words land before theirs are saved.
    const title = await browser.field('Title');
    await browser.driver.executeScript(
      `window.heldFetch = window.fetch; window.fetch = (path, options) => options && options.method === 'PATCH' ? new Promise((go) => setTimeout(go, 4000)).then(() => window.heldFetch(path, options)) : window.heldFetch(path, options);`,
    );
    await title.sendKeys('Evening', Key.TAB);
    await second.fill('Title', 'Sky of Ben');
    await (await second.field('Title')).sendKeys(Key.TAB);
    await second.text('Saved');
  } finally {
    await second.stop();
  }
  await browser.text('Ben Thistlewick changed this record while you had it open');
  await browser.text('Sky of Ben');
  await browser.driver.executeScript('window.fetch = window.heldFetch');
  await browser.click('Keep mine');
  await browser.gone('Keep mine');
  await browser.text('Saved');
  const items = (await (await fetch(`${server.address}/api/items?folder=images/new&q=9001`)).json()) as {
    items: { words: { title: string; alt: string } }[];
  };
  expect(items.items[0]!.words).toMatchObject({
    title: 'Evening',
    alt: 'A plain evening sky above the moor',
  });
});

test('Rename and move: the plan shows every span, applying rewrites pages, undo restores every byte', async () => {
  const before = await treeOf(root);
  await go('/library?folder=images/hero');
  await browser.click('evening-at-the-dome.jpg');
  await browser.click('Move or rename');
  await browser.fill('New name', 'red-evening.jpg');
  await browser.fill('Folder', 'images/evenings');
  await browser.click('Review changes');
  await browser.text('images/hero/evening-at-the-dome.jpg');
  await browser.text('about.html');
  await browser.text('images/evenings/red-evening.jpg');
  expect(await treeOf(root)).toEqual(before);
  await browser.click('Move 1 item, update 1 page');
  await browser.text('Done.');
  expect(await readFile(join(root, 'about.html'), 'utf8')).toContain(
    '<img src="images/evenings/red-evening.jpg"',
  );
  expect((await treeOf(root))['images/evenings/red-evening.jpg']).toBe(
    before['images/hero/evening-at-the-dome.jpg'],
  );
  const redirected = await fetch(`${server.servedAt}/images/hero/evening-at-the-dome.jpg`);
  expect([redirected.status, redirected.url]).toEqual([
    200,
    `${server.servedAt}/images/evenings/red-evening.jpg`,
  ]);

  await browser.click('Ledger');
  await browser.click('Undo: Move “evening-at-the-dome.jpg”');
  await browser.click('Undo, update 1 page');
  await browser.text('Done. Undo: Move “evening-at-the-dome.jpg”');
  expect(await treeOf(root)).toEqual(before);
});

test('Unused and copies: choose, set aside, restore', async () => {
  const before = await treeOf(root);
  await go('/upkeep?queue=copies');
  await browser.text('3 copies of');
  await browser.text('Keep: used most');
  await go('/upkeep?queue=unused');
  await (await browser.field('Choose uploads/2025/banner_old.jpg')).click();
  await (await browser.field('Choose uploads/2025/DSC_0192.jpg')).click();
  await browser.click('Set aside 2 items …');
  await browser.text('freed');
  await browser.inDialog('Set aside 2 items');
  await browser.text('Done. Set aside 2 items');
  const after = await treeOf(root);
  expect(Object.keys(before).filter((path) => !(path in after))).toEqual([
    'uploads/2025/DSC_0192.jpg',
    'uploads/2025/banner_old.jpg',
  ]);
  await go('/upkeep?queue=aside');
  await (await browser.field('Choose uploads/2025/banner_old.jpg')).click();
  await browser.click('Restore 1 item …');
  await browser.inDialog('Restore 1 item');
  await browser.text('Done. Restore “banner_old.jpg”');
  expect((await treeOf(root))['uploads/2025/banner_old.jpg']).toBe(before['uploads/2025/banner_old.jpg']);
});

test('a mentioned item warns before it is set aside', async () => {
  await go('/upkeep?queue=mentioned');
  await (await browser.field('Choose images/tonight/tonight-fog.jpg')).click();
  await browser.click('Set aside 1 item …');
  await browser.text('is mentioned in “js/site.js”, line');
  await browser.click('Cancel');
});

test('Export: gathered items as a ZIP with their table', async () => {
  await go('/library?folder=images/new');
  await browser.text('2 items');
  await browser.click('Add all to tray');
  await browser.text('2 items in the tray');
  await browser.click('More …');
  await (
    await browser.see(By.xpath("//*[@role='menuitem'][contains(., 'Export')]"), 'Export in the menu')
  ).click();
  await browser.click('Export 2 items');
  await browser.text('2 chosen items');
  const downloads = join(folder, 'downloads');
  await browser.driver.wait(
    async () => (await readdir(downloads)).some((name) => name.endsWith('.zip')),
    15_000,
  );
  const [name] = (await readdir(downloads)).filter((one) => one.endsWith('.zip'));
  const files = await unzip(await readFile(join(downloads, name!)));
  expect([...files.keys()].sort()).toEqual([
    'images/new/img-9001.jpg',
    'images/new/really-a-png.png',
    'items.csv',
  ]);
  const rows = parse(files.get('items.csv')!, { columns: true }) as Record<string, string>[];
  expect(rows[0]).toMatchObject({
    path: 'images/new/img-9001.jpg',
    alt: 'A plain evening sky above the moor',
    title: 'Evening',
    added_by: 'Ottilie Marrow',
    original_name: 'IMG_9001.JPG',
    use: 'unused',
  });
  expect(files.get('images/new/img-9001.jpg')).toEqual(await readFile(join(root, 'images/new/img-9001.jpg')));
  await browser.choose('Images in the ZIP', 'made anew: Press photo');
  await browser.text('What isn’t an image goes as it is');
  await browser.choose('Folders in the ZIP', 'all in one folder');
  await browser.choose('Table of the items', 'a table (JSON Lines)');
  await browser.choose('Metadata in the ZIP', 'written into the copies (IPTC, XMP)');
  await browser.text('get an XMP file beside them');
  await browser.click('Export 2 items');
  const zips = async () => (await readdir(downloads)).filter((one) => one.endsWith('.zip'));
  await browser.driver.wait(async () => (await zips()).length > 1, 30_000, 'the second ZIP is there');
  const second = (await zips()).find((one) => one !== name)!;
  const flat = await unzip(await readFile(join(downloads, second)));
  expect([...flat.keys()].sort()).toEqual(['img-9001.jpg', 'items.jsonl', 'really-a-png.jpg']);
  // The words of its record are in it now.
  expect(flat.get('img-9001.jpg')!.toString('utf8')).toContain('A plain evening sky above the moor');
  const lines = flat.get('items.jsonl')!.toString('utf8').trim().split('\n');
  expect(lines.map((line) => JSON.parse(line) as object)[0]).toMatchObject({
    file: 'img-9001.jpg',
    decorative: false,
    tags: expect.any(Array) as unknown[],
  });
  await browser.choose('Kind of export', 'a contact sheet (PDF)');
  await browser.text('Small images in rows');
  await browser.click('Export 2 items');
  await browser.driver.wait(
    async () => (await readdir(downloads)).some((one) => one.endsWith('.pdf')),
    15_000,
    'the contact sheet is there',
  );
  const sheet = (await readdir(downloads)).find((one) => one.endsWith('.pdf'))!;
  expect((await readFile(join(downloads, sheet))).subarray(0, 5).toString()).toBe('%PDF-');
  await browser.choose('Items to export', 'all items of the site');
  await browser.choose('Kind of export', 'an archive of the library');
  await browser.text('Passwords and access tokens stay out.');
  await browser.click('Archive library');
  const archives = async () => (await readdir(downloads)).filter((one) => one.endsWith('-archive.zip'));
  await browser.driver.wait(async () => (await archives()).length > 0, 60_000, 'the archive is there');
  const brought = { root: join(folder, 'brought'), data: join(folder, 'brought-data') };
  expect((await bringArchive(join(downloads, (await archives())[0]!), brought)).faults).toEqual([]);
  expect(await treeOf(brought.root)).toEqual(await treeOf(root));
  await browser.click('Empty tray');
});

test('Ledger: who, when, what; an undo that is in the way says so; undone in turn, the tree is as it was', async () => {
  await browser.click('Ledger');
  await browser.text('Bring in 2 items to “images/new”');
  expect(await browser.screen()).toContain('Ben Thistlewick');
  const now = await treeOf(root);
  await browser.click('Undo: Set aside 2 items');
  await browser.text('This can’t be done yet.');
  await browser.text('Undo that one first');
  await browser.click('Cancel');
  await browser.gone('This can’t be done yet.');
  await browser.click('Undo: Restore “banner_old.jpg”');
  await browser.inDialog('Undo');
  await browser.text('Done. Undo: Restore “banner_old.jpg”');
  await browser.click('Undo: Set aside 2 items');
  await browser.inDialog('Undo');
  await browser.text('Done. Undo: Set aside 2 items');
  const restored = await treeOf(root);
  expect(Object.keys(restored).filter((path) => !(path in now))).toEqual(['uploads/2025/DSC_0192.jpg']);
  expect(Object.keys(now).filter((path) => restored[path] !== now[path])).toEqual([]);
});

test('files dropped on a folder of the Library wait in Intake for that folder', async () => {
  await go('/library?folder=images/press');
  await browser.text('3 items');
  await browser.driver.executeScript(`
    const carried = new DataTransfer();
    carried.items.add(new File(['name,evening\\r\\n'], 'Guests List.csv', { type: 'text/csv' }));
    document.querySelector('main').dispatchEvent(new DragEvent('drop', { dataTransfer: carried, bubbles: true, cancelable: true }));
  `);
  await browser.text('guests-list.csv');
  expect(await (await browser.field('Folder for all')).getAttribute('value')).toBe('images/press');
  await browser.click('Bring in 1 item');
  await browser.text('Done.');
  expect(await readFile(join(root, 'images/press/guests-list.csv'), 'utf8')).toBe('name,evening\r\n');
});

test('a second window sees what others change on disk, without a reload', async () => {
  await go('/library?folder=images/hero');
  await browser.text('2 items');
  await writeFile(
    join(root, 'images/hero/third.png'),
    await sharp({ create: { width: 30, height: 20, channels: 3, background: '#7a5' } })
      .png()
      .toBuffer(),
  );
  await browser.text('3 items');
  await rm(join(root, 'images/hero/third.png'));
  await browser.text('2 items');
});

test('asked to stop, the server ends by itself and cleanly', async () => {
  expect(await server.stop()).toBe(0);
  await browser.text('The server doesn’t answer');
});

async function unzip(bytes: Buffer): Promise<Map<string, Buffer>> {
  const files = new Map<string, Buffer>();
  return new Promise((done, failed) => {
    fromBuffer(bytes, { lazyEntries: true }, (error, zip) => {
      if (error) return failed(error);
      zip.on('entry', (entry: Entry) => {
        zip.openReadStream(entry, (problem, stream) => {
          if (problem) return failed(problem);
          const chunks: Buffer[] = [];
          stream.on('data', (chunk: Buffer) => chunks.push(chunk));
          stream.on('end', () => {
            files.set(entry.fileName, Buffer.concat(chunks));
            zip.readEntry();
          });
        });
      });
      zip.on('end', () => done(files));
      zip.readEntry();
    });
  });
}
