import { copyFile, mkdir, readFile, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { beforeAll, expect, test } from 'vitest';
import { plantedFaults } from '../demo/faults.ts';
import { SEED } from '../demo/make.ts';
import { treeOf } from '../server/test/site.ts';
import { By, type Browser } from './browser.ts';
import { painted, Session } from './session.ts';

/** The library is cleaned as a person does it: looked over, doubles merged, idle items set aside, and all of it taken back. */
const session = new Session('upkeep');
const unused = plantedFaults(SEED).unused.length;
let browser: Browser;
let root: string;
let go: Session['go'];
beforeAll(() => {
  ({ browser, root } = session);
  go = session.go.bind(session);
});
const text = (path: string) => readFile(join(root, path), 'utf8');
async function undoLast(title: string): Promise<void> {
  await go('/ledger');
  // Not the line of an undo, which is called the same.
  const button = By.xpath(`//button[starts-with(@aria-label, 'Undo: ${title}')]`);
  await browser.clickAt(button, `the undo of “${title}”`);
  await session.applyPlan('Undo', 'Undo:');
}
const isThere = (path: string) =>
  stat(join(root, path)).then(
    () => true,
    () => false,
  );

/** An image that is heavy for its 1700 pixels. */
async function noisy(path: string): Promise<void> {
  const noise = { type: 'gaussian', mean: 90, sigma: 40 } as const;
  await sharp({ create: { width: 1700, height: 1100, channels: 3, background: '#000', noise } })
    .jpeg({ quality: 80 })
    .toFile(join(root, path));
}

test('the overview says how the library is; every figure leads to its items', async () => {
  await go('/upkeep');
  await browser.text('can be freed');
  await browser.text('In order');
  await browser.text('3 broken references');
  expect(await session.faultsOfAccess()).toEqual([]);
  await (await browser.see(By.css('.app-fold [role=button], .app-fold button'), 'the numbers')).click();
  await browser.text('images');
  await browser.click(`${unused} unused`);
  await browser.text('Not used on any page and not mentioned in any text');
  await browser.text(`${unused} items`);
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.click('Broken references');
  await browser.text('the same name, written with other capitals');

  // The figures of a line lead to just those items.
  await go('/upkeep');
  const door = await browser.see(By.css('a[aria-label^="File size, issues"]'), 'what needs care in weight');
  const needs = Number(await door.getText());
  expect(needs).toBeGreaterThan(3);
  await door.click();
  await browser.text('upkeep finds a problem with its file size');
  await browser.text(`${needs} items`);
  await go('/upkeep');
  await browser.click('can be freed');
  await browser.text('not used anywhere');
});

test('twenty groups of copies are merged by a rule: placements move, redirects lead on; undone to the byte', async () => {
  await mkdir(join(root, 'double'));
  let page = '<!doctype html>\n<title>Doubles</title>\n<body>\n';
  for (let i = 0; i < 20; i++) {
    const name = `thing-${i + 10}.jpg`;
    await writeFile(join(root, 'double', name), await painted(100 + i, 60 + i, 40));
    await copyFile(join(root, 'double', name), join(root, 'double', `a-${name}`));
    page += `<p><img src="double/a-${name}" alt="Thing ${i}">${i % 2 ? `<img src="double/${name}" alt="Once more"><img src="double/${name}" alt="And again">` : ''}</p>\n`;
  }
  await writeFile(join(root, 'doubles.html'), `${page}</body>\n`);
  await go('/upkeep?queue=copies');
  await browser.text('25 groups');
  const before = await treeOf(root);
  await browser.choose('Keep', 'items in a folder');
  await browser.choose('Folder', 'double');
  await browser.text('this group is left as it is');
  await browser.choose('Keep', 'the most used');
  await browser.text('used most (2 times)');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.click('Select all');
  await browser.text('Merge 25 groups …');
  await browser.click('Merge 25 groups');
  // What a text names stays, and is said.
  await browser.text('stays: its name stands in');
  await browser.text('doubles.html');
  await session.applyPlan('Merge and set aside', 'Merge');
  const now = await text('doubles.html');
  expect(now).not.toContain('a-thing-11.jpg');
  expect(now.match(/src="double\/thing-11\.jpg"/g)).toHaveLength(3);
  expect(now).toContain('src="double/a-thing-10.jpg"');
  expect(await isThere('double/thing-10.jpg')).toBe(false);
  expect(await isThere('double/a-thing-10.jpg')).toBe(true);
  expect(await text('iconomos-redirects.csv')).toContain('/double/a-thing-11.jpg,/double/thing-11.jpg,301');
  await undoLast('Merge');
  expect(await treeOf(root)).toEqual(before);
  await rm(join(root, 'double'), { recursive: true });
  await rm(join(root, 'doubles.html'));
  await go('/upkeep?queue=copies');
  await browser.text('5 groups');
});

test('another one is kept by keys; look-alikes stand side by side with how they differ', async () => {
  await go('/upkeep?queue=look-alikes');
  await browser.text('cropped');
  await browser.text('re-encoded');
  // Groups of any size stand whole in the window.
  const cutOff = await browser.driver.executeScript<number>(
    `return [...document.querySelectorAll('section article')].filter((one) => {
       const { left, right } = one.getBoundingClientRect();
       return left < 0 || right > innerWidth;
     }).length`,
  );
  expect(cutOff).toBe(0);
  const stays = () => browser.see(By.css('section article.stays .path'), 'what stays');
  const first = await (await stays()).getText();
  const radio = await browser.see(By.css('section article.stays input[type=radio]'), 'the choice');
  await browser.driver.executeScript('arguments[0].focus()', radio);
  await browser.press(Key.ARROW_RIGHT);
  await browser.text('your choice');
  expect(await (await stays()).getText()).not.toBe(first);
  const compare = By.xpath("//section[contains(., 'lantern-detail')]//button[normalize-space(.)='Compare']");
  await (await browser.see(compare, 'the group of the lantern')).click();
  await browser.click('Show differences');
  await browser.text('a part of the first');
  await browser.text('no place differs');
  expect(await browser.driver.findElements(By.css('.pane .part rect.line'))).toHaveLength(1);
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.press('d');
  expect(await browser.driver.findElements(By.css('.pane .part'))).toEqual([]);
  await browser.press(Key.ESCAPE);
});

test('unused items are cleaned up, one of them kept on purpose; all of it is undone', async () => {
  // All but the one that is kept.
  const aside = `Set aside ${unused - 1} items`;
  await go('/upkeep?queue=unused');
  await browser.text('uploads/2025/banner_old.jpg');
  const before = await treeOf(root);
  await (await browser.field('Choose uploads/2025/banner_old.jpg')).click();
  await browser.click('Keep on purpose');
  await browser.inDialog('Keep on purpose');
  await browser.text('Enter a reason');
  await browser.fill('Reason', 'for the anniversary in May');
  await browser.inDialog('Keep on purpose');
  await browser.text('Done. Dismiss one finding');
  await browser.gone('uploads/2025/banner_old.jpg');
  await browser.click('Select all');
  await browser.click(aside);
  await session.applyPlan(aside, aside);
  await browser.text('Nothing to do here');
  expect(await isThere('uploads/2025/banner_old.jpg')).toBe(true);
  expect(await isThere('uploads/2025/WhatsNew.jpg')).toBe(false);

  await browser.click('Dismissed');
  await browser.text('for the anniversary in May');
  await browser.text('Ottilie Marrow');
  expect(await session.faultsOfAccess()).toEqual([]);
  await undoLast(aside);
  expect(await treeOf(root)).toEqual(before);
  await go('/upkeep?queue=dismissed');
  await browser.click('Report again');
  await browser.text('Nothing dismissed');
  await go('/upkeep?queue=unused');
  await browser.text('uploads/2025/banner_old.jpg');
});

test('findings of several checks come together in the tray and are set aside in one plan; undone', async () => {
  const before = await treeOf(root);
  await go('/upkeep?queue=unused');
  await (await browser.field('Choose uploads/2025/WhatsNew.jpg')).click();
  await browser.click('Add to tray');
  await browser.text('1 item in the tray');
  await browser.click('Poor names');
  for (const name of ['uploads/2024/IMG_4380.JPG', 'uploads/2025/dsc_0193.jpg'])
    await (await browser.field(`Choose ${name}`)).click();
  await browser.click('Add 2 items to tray');
  await browser.text('3 items in the tray');
  await browser.click('Set aside …');
  await session.applyPlan('Set aside 3 items', 'Set aside 3 items');
  for (const name of ['2025/WhatsNew.jpg', '2024/IMG_4380.JPG', '2025/dsc_0193.jpg'])
    expect(await isThere(`uploads/${name}`)).toBe(false);
  await undoLast('Set aside 3 items');
  expect(await treeOf(root)).toEqual(before);
});

test('what is set aside is kept for a time, and emptied only with the number typed', async () => {
  await go('/upkeep?queue=unused');
  await (await browser.field('Choose uploads/2025/WhatsNew.jpg')).click();
  await (await browser.field('Choose uploads/2025/dsc_0193.jpg')).click();
  await browser.click('Set aside 2 items');
  await session.applyPlan('Set aside 2 items', 'Set aside 2 items');
  await go('/upkeep?queue=aside');
  await browser.text('kept until');
  await browser.fill('Kept for', '90');
  await browser.click('Keep for 90 days');
  await browser.text('Done. Keep items set aside for 90 days');
  // now has this address by another file: it comes back under a free name.
  await writeFile(join(root, 'uploads/2025/WhatsNew.jpg'), await painted(7, 90, 60));
  await go('/upkeep?queue=aside');
  await (await browser.field('Choose uploads/2025/WhatsNew.jpg')).click();
  await browser.click('Restore 1 item');
  await browser.text('now has this address');
  await browser.click('Cancel');
  await browser.click('Restore under new names');
  await browser.text('It is restored as');
  await session.applyPlan('Restore 1 item', 'Restore');
  expect(await isThere('uploads/2025/WhatsNew-2.jpg')).toBe(true);

  await (await browser.field('Choose uploads/2025/dsc_0193.jpg')).click();
  await browser.click('Delete for good');
  await browser.text('will be deleted');
  const empty = await browser.see(
    By.xpath("//div[@role='dialog']//button[contains(., 'Delete 1 item')]"),
    'the button',
  );
  await browser.fill('Type the number', '2');
  expect(await empty.isEnabled()).toBe(false);
  await browser.fill('Type the number', '1');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.inDialog('Delete 1 item');
  await browser.text('Nothing is set aside');
  await go('/ledger');
  await browser.text('Delete “dsc_0193.jpg”');
  await browser.text('can’t be undone');
});

test('an image that is far too large is weighed, made lighter at its address, and comes back', async () => {
  await go('/upkeep?queue=too-large');
  await browser.text('evening-at-the-dome.jpg');
  const before = await treeOf(root);
  await browser.click('Estimate savings');
  await browser.text('Measured on');
  await (await browser.field('Choose images/hero/evening-at-the-dome.jpg')).click();
  await browser.click('Compress');
  await session.applyPlan('Compress 1 item', 'Compress 1 item');
  expect((await stat(join(root, 'images/hero/evening-at-the-dome.jpg'))).size).toBeGreaterThan(1000);
  expect(await treeOf(root)).not.toEqual(before);
  await undoLast('Compress 1 item');
  expect(await treeOf(root)).toEqual(before);
});

test('pages offer an image in smaller sizes, by the keys alone; undone to the byte', async () => {
  const path = 'images/trails/night-field.jpg';
  await noisy(path);
  await writeFile(
    join(root, 'field.html'),
    `<!doctype html><title>The field</title>\n<img src="${path}" width="800" alt="The field">\n`,
  );
  await go('/upkeep?queue=no-sizes');
  await browser.text(path);
  const before = await treeOf(root);
  await browser.tabTo(`Choose ${path}`);
  await browser.press(Key.SPACE);
  // Its buttons stand before it.
  await browser.driver.executeScript('document.activeElement.blur()');
  await browser.tabTo('Add responsive sizes to 1 item');
  await browser.press(Key.ENTER);
  await browser.text('Add responsive sizes to 1 image');
  await browser.tabTo('Make sizes');
  await browser.press(Key.ENTER);
  await browser.text('Done. Add responsive sizes to 1 image');
  await session.alone();
  const after = await treeOf(root);
  expect(Object.keys(after).filter((one) => !(one in before))).toEqual(
    [1200, 1600, 480, 800].map((width) => `images/trails/night-field-${width}.jpg`),
  );
  expect(await text('field.html')).toContain(`${path} 1700w" sizes="(max-width: 800px) 100vw, 800px"`);
  await go('/upkeep?queue=no-sizes');
  await browser.gone(path);
  await undoLast('Add responsive sizes to 1 image');
  expect(await treeOf(root)).toEqual(before);
});

test('pages are drawn to see how large they show their images; what is larger than that is told', async () => {
  const path = 'images/trails/card-field.jpg';
  await noisy(path);
  await writeFile(
    join(root, 'card.html'),
    `<!doctype html><title>A card</title>\n<style>img { width: 50%; max-width: 300px }</style>\n<img src="${path}" alt="The field">\n`,
  );
  await go('/pages');
  await browser.text('A card');
  await go('/upkeep?queue=too-large');
  await browser.text('only the widths written in them are known');
  expect(await browser.screen()).not.toContain(path);
  await browser.click('Measure on the pages');
  await browser.text('on a screen');
  await browser.text(' pages, on screens');
  await browser.text(path);
  await browser.text('It is 1700 pixels wide but displayed at 300 pixels at most');
  expect(await browser.screen()).not.toContain('Could not be measured');
  expect(await session.faultsOfAccess()).toEqual([]);
  // The page shows it larger now: what was measured is past.
  await writeFile(join(root, 'card.html'), `<title>A card</title><img src="${path}" alt="The field">`);
  await browser.text('For 1 page only the widths written in it are known');
  await browser.gone(path);
});

test('the encoding of a video shows how far it is and can be stopped; nothing has changed then', async () => {
  // So many that nobody is quicker than the one who stops it.
  const copies = Array.from({ length: 6 }, (_, at) => join(root, `media/old/aurora-${at}.mp4`));
  for (const copy of copies) await copyFile(join(root, 'media/old/aurora-from-the-camera.mp4'), copy);
  await go('/upkeep?queue=heavy-film');
  await browser.text('aurora-5.mp4');
  const before = await treeOf(root);
  await browser.click('Select all');
  await browser.click('Compress');
  await browser.text('Computing the plan');
  await browser.click('Stop');
  await browser.gone('Computing the plan');
  expect(await browser.screen()).not.toContain('This can’t be done');
  expect(await treeOf(root)).toEqual(before);
  // It can be planned again at once.
  for (const copy of copies) await rm(copy);
  await browser.gone('aurora-5.mp4');
  await browser.click('Compress');
  await browser.text('Compress 1 item');
  await browser.click('Cancel');
  await session.alone();
});

test('a licence is written into all that are chosen; what was written comes back', async () => {
  const path = 'images/trails/star-trails-old-wall.jpg';
  await go('/upkeep?queue=no-licence');
  await browser.text(path);
  expect(await session.faultsOfAccess()).toEqual([]);
  await (await browser.field(`Choose ${path}`)).click();
  await browser.fill('Licence', 'CC BY 4.0');
  await browser.click('Write licence into 1 item');
  await session.applyPlan('Change 1 item', 'Set licence of 1 item');
  await go('/upkeep?queue=no-licence');
  await browser.text('It has no licence');
  await browser.gone(path);
  await undoLast('Set licence of 1 item');
  await go('/upkeep?queue=no-licence');
  await browser.text(path);
});

test.each([
  ['heavy-film', 'media/old/aurora-from-the-camera.mp4', 'Compress', 'Compress 1 item', 'Compress 1 item'],
  ['heavy-pdf', 'documents/old/exhibition-print.pdf', 'Compress', 'Compress 1 item', 'Compress 1 item'],
  [
    'format',
    'uploads/2025/ember-veil-banner.png',
    'Convert to JPEG',
    'Convert 1 image to JPEG',
    'Convert 1 image to JPEG',
  ],
  [
    'private',
    'uploads/2024/IMG_4352.JPG',
    'Remove the location from',
    'Remove the location from 1 file',
    'Write 1 file',
  ],
  [
    'other-type',
    'uploads/2025/heron-poster.png',
    'Correct the extension of',
    'Correct the extension of 1 file',
    'Rename',
  ],
])('%s: %s is mended in bulk, and comes back', async (check, path, act, title, apply) => {
  await go(`/upkeep?queue=${check}`);
  await browser.text(path);
  expect(await session.faultsOfAccess()).toEqual([]);
  const before = await treeOf(root);
  await (await browser.field(`Choose ${path}`)).click();
  await browser.click(act);
  await session.applyPlan(apply, title);
  expect(await treeOf(root)).not.toEqual(before);
  await go(`/upkeep?queue=${check}`);
  await browser.gone(path);
  await undoLast(title);
  expect(await treeOf(root)).toEqual(before);
});
