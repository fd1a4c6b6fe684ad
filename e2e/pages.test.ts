import { rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { beforeAll, expect, test } from 'vitest';
import { treeOf } from '../server/test/site.ts';
import { By, type Browser } from './browser.ts';
import { PagesSession } from './pages-session.ts';

const session = new PagesSession('pages');

let browser: Browser;

let root: string;

beforeAll(() => {
  ({ browser, root } = session);
});

test('pages are found by words and ordered by what they lack; nothing is at fault for screen readers', async () => {
  await session.go('/pages');
  await browser.text('About the observatory');
  await browser.fill('Find pages', 'deep SKY');
  await browser.text('1 page');
  await browser.text('Deep sky – Corvane Hill Observatory');
  await browser.fill('Find pages', 'html');
  await browser.choose('Order', 'most broken first');
  await browser.driver.wait(async () => {
    const [first] = await browser.driver.findElements(By.css('.scroller li'));
    return first !== undefined && (await first.getText()).includes('broken');
  }, 10_000);
  expect(await session.faultsOfAccess()).toEqual([]);
  await session.openPage('contact.html');
  // The logo and the favicon, and what the style sheet shows in the footer.
  await browser.text('2 placements, 1 more from style sheets');
  await browser.text('of css/site.css');
  expect(await session.faultsOfAccess()).toEqual([]);
});

test('a placement is chosen in the list and seen in the page, chosen in the page and seen in the list', async () => {
  await session.openPage('about.html');
  await session.clickInPage('img[src*="light-curve"]', 'middle');
  const chosen = await browser.see(By.css('.placements li.chosen'), 'the chosen placement');
  expect(await chosen.getText()).toContain('light-curve.svg');
  await browser.press('j');
  await browser.driver.wait(
    async () =>
      !(await (await browser.see(By.css('.placements li.chosen'), 'another one')).getText()).includes(
        'light-curve',
      ),
    10_000,
  );
  expect(await (await browser.see(By.css('.placements'), 'the list')).getText()).toMatch(
    /shown \d+ × \d+, *\n?\s*really 3600 × 1500/,
  );
  // The page's own scripts do not run, and nothing in it leads away.
  expect(
    await session.inPage<string>("return document.querySelector('a').click() ?? location.search"),
  ).toContain('iconomos-preview');
});

test('a broken reference is mended with one click, another with an item that is chosen; undone to the byte', async () => {
  const before = await treeOf(root);
  await session.go('/pages');
  await browser.click('3 broken references');
  await browser.text('the same name, written with other capitals');
  await browser.click('Repair with images/dome/dome-night.jpg');
  await browser.text('Repair 1 reference');
  await session.applyPlan('Repair 1 reference', 'Repair');
  expect(await session.text('about.html')).toContain('/images/dome/dome-night.jpg');
  await browser.text('2 broken references');
  await session.undone(before);
});

test('an item is placed between two blocks: seen before it is written, undone to the byte', async () => {
  const before = await treeOf(root);
  const page = await session.text('open-nights.html');
  await session.openPage('open-nights.html');
  await browser.click('Place an item');
  await browser.text('Choose a spot on the page');
  await session.clickInPage('h1[data-look-before]', 'edge');
  await session.choose('moon-full.jpg');
  await browser.text('Source');
  // The page beside it shows it already; the file is as it was.
  await browser.driver.wait(
    () =>
      session.inPage<boolean>(
        "return [...document.images].some((one) => one.src.includes('moon-full') || one.src.startsWith('data:'))",
      ),
    20_000,
    'the image stands on the drawn page',
  );
  expect(await session.text('open-nights.html')).toBe(page);
  await browser.fill('Classes', 'wide');
  await browser.text('class="wide"');
  await session.ready('Save to page');
  await browser.text('Done. Place “moon-full.jpg”');
  const now = await session.text('open-nights.html');
  expect(now).toMatch(
    /<(?:figure|img) class="wide"[^]*images\/moon\/moon-full[^]*srcset="[^"]*moon-full-480\.jpg 480w[^]*<h1>/,
  );
  expect((await sharp(join(root, 'images/moon/moon-full-480.jpg')).metadata()).width).toBe(480);
  expect(
    now.replace(/\s*<figure class="wide">[^]*?<\/figure>|\s*<img class="wide"[^>]*>/, '').replace(/\s+/g, ''),
  ).toBe(page.replace(/\s+/g, ''));
  await session.undone(before);
});

/** From “Cancel” Tab goes into the page, over its own links, and to the spots, which come last. */
async function tabToSpots(): Promise<void> {
  const frame = await browser.see(By.css('iframe'), 'the drawn page');
  await browser.tabTo('Cancel');
  for (let presses = 0; presses < 60; presses++) {
    await browser.press(Key.TAB);
    const within = await browser.driver.executeScript<boolean>(
      'return document.activeElement === arguments[0]',
      frame,
    );
    if (!within) continue;
    const spot = await session.inPage<boolean>(
      "return document.activeElement?.shadowRoot === null && document.activeElement.style.zIndex === '2147483647'",
    );
    if (spot) return;
  }
  throw new Error('Tab never came to the spots.');
}

test('by keys alone: a spot, an item, and it is written', async () => {
  const before = await treeOf(root);
  await session.openPage('imprint.html');
  await browser.press('p');
  await browser.text('Choose a spot on the page');
  await tabToSpots();
  for (let presses = 0; presses < 4; presses++) await browser.press(Key.TAB);
  await browser.press(Key.ENTER);
  await browser.text('The item to place');
  await browser.tabTo('Words to find');
  await browser.press(...'dome-snow');
  await browser.text('dome-snow.jpg');
  await browser.driver.sleep(600);
  await browser.tabTo('dome-snow.jpg');
  await browser.press(Key.ENTER);
  await browser.text('Source');
  await browser.tabTo('Save to page');
  await browser.press(Key.ENTER);
  await browser.text('Done.');
  expect(await session.text('imprint.html')).toContain('dome-snow');
  await session.undone(before);
});

test('by keys alone: a background behind a block, and a poster and captions for a video', async () => {
  const before = await treeOf(root);
  await session.openPage('imprint.html');
  await browser.press('h');
  await browser.text('Choose a spot on the page');
  await tabToSpots();
  // The first spot is the background that the page has.
  await browser.press(Key.TAB);
  await browser.press(Key.ENTER);
  await browser.text('The item to place');
  await browser.tabTo('Words to find');
  await browser.press(...'dome-snow');
  await browser.text('dome-snow.jpg');
  await browser.driver.sleep(600);
  await browser.tabTo('dome-snow.jpg');
  await browser.press(Key.ENTER);
  await browser.text('Set background');
  await browser.text('Source');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.tabTo('Save to page');
  await browser.press(Key.ENTER);
  await browser.text('Done.');
  expect(await session.text('imprint.html')).toMatch(/style="[^"]*background-image: url\([^)]*dome-snow/);
  await session.undone(before);

  await writeFile(join(root, 'media/timelapse/clouds.vtt'), 'WEBVTT\n');
  const with_ = await treeOf(root);
  await session.openPage('timelapse.html');
  await browser.tabTo('clouds-over-the-dome.mp4');
  await browser.press(Key.ENTER);
  await browser.press('e');
  await browser.text('Poster and captions');
  await browser.tabTo('Choose a poster …');
  await browser.press(Key.ENTER);
  await browser.text('Choose a poster');
  await browser.tabTo('Words to find');
  await browser.press(...'dome-snow');
  await browser.driver.sleep(600);
  await browser.tabTo('dome-snow.jpg');
  await browser.press(Key.ENTER);
  await browser.tabTo('Captions file');
  await browser.press(Key.ARROW_DOWN);
  await browser.option('media/timelapse/clouds.vtt');
  await browser.press(Key.ARROW_DOWN, Key.ENTER);
  await browser.tabTo('Shown as');
  await browser.press(...'English');
  await browser.text('Source');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.driver.sleep(700);
  await browser.tabTo('Save to page');
  await browser.press(Key.ENTER);
  await browser.text('Done. Edit “clouds-over-the-dome.mp4”');
  const html = await session.text('timelapse.html');
  expect(html).toMatch(/<video[^>]* poster="[^"]*dome-snow/);
  expect(html).toMatch(/<track [^>]*kind="captions"[^>]*clouds\.vtt/);
  await session.undone(with_);
  await rm(join(root, 'media/timelapse/clouds.vtt'));
});

test('a background with more pixels than are shown is offered in a size that fits', async () => {
  const before = await treeOf(root);
  await session.openPage('index.html');
  await browser.click('phone');
  await browser.text('shown 341');
  await browser.tabTo('milky-way-over-corvane-hill.jpg');
  await browser.press(Key.ENTER);
  await browser.click('Use a fitting size …');
  await browser.text('Source');
  await session.ready('Save to page');
  await browser.text('Done.');
  expect(await session.text('css/site.css')).toMatch(/milky-way-over-corvane-hill-\d+\.jpg/);
  await session.undone(before);
});

test('another image at one place: the element keeps what is its own; the item and its other placements stay', async () => {
  const before = await treeOf(root);
  await session.openPage('about.html');
  await session.clickInPage('img[src*="light-curve"]', 'middle');
  await browser.click('Replace on this page');
  await session.choose('dome-snow.jpg');
  await browser.text('Source');
  await session.ready('Save to page');
  await browser.text('Done. Replace an image with “dome-snow.jpg”');
  const now = await session.text('about.html');
  expect(now).toContain('dome-snow');
  expect(now).not.toContain('light-curve.svg');
  await session.undone(before);
});

test.each([
  ['of a style sheet', 'index.html', '.hero', 'css/site.css', /\.hero \{[^}]*moon-full\.jpg[^}]*cover/],
  ['of the block itself', 'visit.html', 'div[style]', 'visit.html', /<div style="[^"]*moon-full\.jpg/],
])(
  'a background %s is exchanged on the drawn page, seen there first',
  async (_of, page, block, file, now) => {
    const before = await treeOf(root);
    const written = await session.text(file);
    await session.openPage(page);
    await browser.click('Place an item');
    await browser.text('Choose a spot on the page');
    await session.clickInPage(block, 'middle');
    await session.choose('moon-full.jpg');
    await browser.text('Source');
    await browser.driver.wait(
      () =>
        session.inPage<boolean>(
          `return getComputedStyle(document.querySelector('${block}')).backgroundImage.includes('moon-full.jpg')`,
        ),
      20_000,
      'the drawn page shows it',
    );
    expect(await session.text(file)).toBe(written);
    if (file.endsWith('.css')) await browser.text('which 21 other files use');
    await session.ready('Save to page');
    await browser.text('Done. Set “moon-full.jpg” as a background');
    expect(await session.text(file)).toMatch(now);
    const after = await treeOf(root);
    expect(Object.keys(after).filter((path) => after[path] !== before[path])).toEqual([file]);
    await session.undone(before);
  },
);

test.each([
  ['moonrise.mp4', /<video src="media\/[^"]+\.mp4" width="\d+" height="\d+" controls/, 'video[controls]'],
  ['the-moor-at-night.ogg', /<audio src="media\/[^"]+\.ogg" controls/, 'audio[controls]'],
  [
    'sky-chart-winter.pdf',
    /<p><a href="documents\/(?:old\/)?sky-chart-winter\.pdf">[^<.]+ \(PDF, \d+(?:\.\d)? kB\)<\/a><\/p>/,
    'a[href*=winter]',
  ],
])('%s is placed as what it is', async (name, markup, element) => {
  const before = await treeOf(root);
  await session.openPage('imprint.html');
  await browser.click('Place an item');
  await browser.text('Choose a spot on the page');
  await session.clickInPage('h1[data-look-before]', 'edge');
  await session.choose(name);
  await browser.text('Source');
  await browser.driver.wait(
    () => session.inPage<boolean>(`return document.querySelector('${element}') !== null`),
    20_000,
    'the drawn page has it',
  );
  await session.ready('Save to page');
  await browser.text(`Done. Place “${name}”`);
  expect(await session.text('imprint.html')).toMatch(markup);
  await session.undone(before);
});
