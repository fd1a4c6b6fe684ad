import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { beforeAll, expect, test } from 'vitest';
import { ZipFile } from 'yazl';
import { treeOf } from '../server/test/site.ts';
import type { Browser } from './browser.ts';
import { painted, Session } from './session.ts';

/** What the door says of files, and what a person decides. */
const session = new Session('door');
const go = (path: string) => session.go(path);
let browser: Browser;
let root: string;
let folder: string;
beforeAll(() => {
  ({ browser, root, folder } = session);
});

test('the same file twice in one drop is brought in once', async () => {
  await go('/intake');
  await browser.text('No files waiting');
  const bytes = await painted(33);
  await session.drop(
    await session.put('Evening one.jpg', bytes),
    await session.put('Evening two.jpg', bytes),
  );
  await browser.text('above is the same file');
  const before = await treeOf(root);
  await browser.click('Bring in 1 item');
  await browser.text('Done. Bring in');
  await browser.text('No files waiting');
  const after = await treeOf(root);
  expect(Object.keys(after).filter((path) => !(path in before))).toHaveLength(1);
});

test('a look-alike is compared side by side and replaces the item; undo brings the old bytes back', async () => {
  const before = await treeOf(root);
  const larger = await sharp(join(root, 'images/moon/moon-full.jpg'))
    .resize(1700)
    .jpeg({ quality: 95 })
    .toBuffer();
  await go('/intake');
  await browser.text('No files waiting');
  await session.drop(await session.put('Vollmond.jpg', larger));
  await browser.text('It looks like “images/moon/moon-full.jpg”');
  await browser.click('Compare');
  await browser.text('Compare “vollmond.jpg”');
  await browser.text('New file');
  await browser.text('Used in');
  await browser.inDialog('Replace the existing one');
  await browser.text('replaces the item');
  await browser.click('Bring in 1 item');
  await browser.text('Done. Replace “moon-full.jpg”');
  const after = await treeOf(root);
  expect(Object.keys(after)).toEqual(Object.keys(before));
  expect((await readFile(join(root, 'images/moon/moon-full.jpg'))).equals(larger)).toBe(true);
  await browser.click('Undo import');
  await browser.inDialog('Undo');
  await browser.text('Done. Undo: Replace “moon-full.jpg”');
  expect(await treeOf(root)).toEqual(before);
});

test('an archive asks; unpacked, its files take its place, with their folders', async () => {
  const zip = new ZipFile();
  zip.addBuffer(await painted(60), 'Supplier/Dome One.jpg');
  zip.addBuffer(Buffer.from('junk'), '__MACOSX/._Dome One.jpg');
  zip.addBuffer(Buffer.from('<script>'), 'Supplier/evil.html');
  zip.end();
  const chunks: Buffer[] = [];
  for await (const chunk of zip.outputStream) chunks.push(chunk as Buffer);
  await go('/intake');
  await browser.text('No files waiting');
  await session.drop(await session.put('Supplier pictures.zip', Buffer.concat(chunks)));
  await browser.text('An archive with 2 files');
  await browser.text('1 file needs your decision');
  await browser.click('Unpack into this folder');
  await browser.text('dome-one.jpg');
  await browser.text('in supplier');
  await browser.text('It is a page or a script');
  await browser.gone('An archive with');
  await browser.click('Skip: Dome One.jpg');
  await browser.click('Clear refused files');
  await browser.text('No files waiting');
});

test('a folder’s rule: too large is shrunk at the door, too small is told; the place is taken out', async () => {
  const large = await sharp(await painted(70, 3000, 2000))
    .withExif({
      IFD0: { Artist: 'Ines Cobbledale', ImageDescription: 'The great dome by day' },
      IFD3: {
        GPSLatitudeRef: 'N',
        GPSLatitude: '54/1 10/1 0/1',
        GPSLongitudeRef: 'W',
        GPSLongitude: '2/1 5/1 0/1',
      },
    })
    .jpeg({ quality: 95 })
    .toBuffer();
  await go('/intake');
  await browser.text('No files waiting');
  await session.drop(
    await session.put('IMG_7001.JPG', large),
    await session.put('tiny.jpg', await painted(71, 300, 200)),
  );
  await browser.text('It contains the place where it was taken');
  await browser.text('the-great-dome-by-day.jpg');
  await browser.fill('Folder for all 2', 'images/hero');
  await (await browser.field('Folder for all 2')).sendKeys(Key.TAB);
  await browser.text('in images/hero');
  await browser.click('Folder rules');
  await browser.text('Rules of “images/hero”');
  await browser.fill('Purpose', 'the head of a page');
  await browser.fill('Minimum width', '1200');
  await browser.fill('Maximum longer side', '1800');
  await browser.click('Save rules');
  await browser.text('Larger than needed: 3000 × 2000 px');
  await browser.text('1800 × 1200 px');
  await browser.text(
    'Smaller than the folder requires: 300 × 200 px, a width of 1200 px wanted for the head of a page',
  );
  await browser.click('Skip it');
  await browser.text('won’t be stored');
  await browser.click('Bring in 1 item');
  await browser.text('Done. Bring in “the-great-dome-by-day.jpg”');
  const stored = await sharp(join(root, 'images/hero/the-great-dome-by-day.jpg')).metadata();
  expect([stored.width, stored.height]).toEqual([1800, 1200]);
  expect(stored.exif!.includes('Ines Cobbledale')).toBe(true);
  const bytes = await readFile(join(root, 'images/hero/the-great-dome-by-day.jpg'));
  const original = await readFile(join(folder, 'IMG_7001.JPG'));
  const place = Buffer.from([0x36, 0, 0, 0, 1, 0, 0, 0, 10, 0, 0, 0, 1]);
  expect([original.includes(place), bytes.includes(place)]).toEqual([true, false]);
  await browser.click('Show');
  await browser.click('the-great-dome-by-day.jpg');
  expect(await (await browser.field('Creator')).getAttribute('value')).toBe('Ines Cobbledale');
});

test('the folder is chosen before the files; by keys a name is written, and the keyboard stays there', async () => {
  await go('/intake');
  await browser.text('No files waiting');
  await browser.fill('Folder for new files', 'images/press');
  await browser.press(Key.TAB);
  expect(await session.faultsOfAccess()).toEqual([]);
  await session.drop(await session.put('IMG_8001.jpg', await painted(81)));
  await browser.text('in images/press');
  await browser.tabTo('press-8001.jpg');
  await browser.press(Key.ENTER);
  await browser.field('New name of IMG_8001.jpg');
  await browser.press('press-evening', Key.ENTER);
  await browser.text('press-evening.jpg');
  await browser.driver.wait(
    () => browser.driver.executeScript('return document.activeElement.innerText === "press-evening.jpg"'),
    5000,
    'the focus is not on the name',
  );
  await browser.click('Bring in 1 item');
  await browser.text('Done. Bring in');
  expect(Object.keys(await treeOf(root))).toContain('images/press/press-evening.jpg');
});

test('the intake list by axe-core: no fault of accessibility', async () => {
  await go('/intake');
  await session.drop(
    await session.put('Moon again.jpg', await readFile(join(root, 'images/moon/moon-full.jpg'))),
    await session.put('New One.jpg', await painted(80)),
  );
  await browser.text('Bring in 1 item');
  await browser.click('Fields of New One.jpg');
  await browser.click('More');
  expect(await session.faultsOfAccess()).toEqual([]);
});
