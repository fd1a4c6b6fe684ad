import { readFile, rm, writeFile } from 'node:fs/promises';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { beforeAll, expect, test } from 'vitest';
import { treeOf } from '../server/test/site.ts';
import { By, type Browser } from './browser.ts';
import { painted, Session } from './session.ts';

/** Pages as a person works on them: looked at, mended, with items placed and galleries, and the live site. */
const session = new Session('pages');
let browser: Browser;
let root: string;
beforeAll(() => {
  ({ browser, root } = session);
});
const text = (path: string) => readFile(join(root, path), 'utf8');
const openPage = async (path: string) => {
  await session.go(`/pages?page=${encodeURIComponent(path)}`);
  await browser.text('Open the page as served');
};

/** Reads something in the page that is drawn: it stands in a frame of another origin. */
async function inPage<Answer>(script: string): Promise<Answer> {
  const { driver } = browser;
  await driver.switchTo().frame(await browser.see(By.css('iframe'), 'the drawn page'));
  try {
    return await driver.executeScript<Answer>(script);
  } finally {
    await driver.switchTo().defaultContent();
  }
}
/** Clicks into the drawn page: on the top edge of an element, or into it. */
async function clickInPage(selector: string, where: 'edge' | 'middle'): Promise<void> {
  await browser.driver.wait(
    () => inPage<boolean>(`return document.querySelector(${JSON.stringify(selector)}) !== null`),
    20_000,
    `the drawn page has ${selector}`,
  );
  await inPage(`document.querySelector(${JSON.stringify(selector)}).scrollIntoView({ block: 'center' })`);
  await browser.driver.sleep(400);
  const rect = await inPage<{ x: number; y: number; width: number; height: number }>(
    `const r = document.querySelector(${JSON.stringify(selector)}).getBoundingClientRect(); return { x: r.x, y: r.y, width: r.width, height: r.height }`,
  );
  const { box, scale } = await browser.driver.executeScript<{ box: { x: number; y: number }; scale: number }>(
    "const frame = document.querySelector('iframe'); const r = frame.getBoundingClientRect(); return { box: { x: r.x, y: r.y }, scale: r.width / frame.offsetWidth }",
  );
  await browser.driver
    .actions()
    .move({
      x: Math.round(box.x + scale * (rect.x + rect.width / 2)),
      y: Math.round(box.y + scale * (rect.y + (where === 'edge' ? 2 : rect.height / 2))),
    })
    .click()
    .perform();
}
async function choose(name: string): Promise<void> {
  await browser.text('The item');
  await browser.fill('Words to find', name);
  const at = By.xpath(`//div[@role='dialog']//li/button[contains(., '${name}')]`);
  await (await browser.see(at, `the item “${name}”`)).click();
}
/** Clicks a button once what it would do has been computed. */
async function ready(name: string): Promise<void> {
  const at = By.xpath(`//button[normalize-space(.)='${name}' and not(@disabled)]`);
  await (await browser.see(at, `“${name}”, ready`)).click();
}
async function undone(before: Record<string, string>): Promise<void> {
  await browser.click('Undo');
  await session.applyPlan('Undo', 'Undo:');
  expect(await treeOf(root)).toEqual(before);
}

test('pages are found by words and ordered by what they lack; nothing is at fault for screen readers', async () => {
  await session.go('/pages');
  await browser.text('About the observatory');
  await browser.fill('Find pages', 'deep SKY');
  await browser.text('1 page');
  await browser.text('Deep sky – Corvane Hill Observatory');
  await browser.fill('Find pages', 'html');
  await (await browser.see(By.xpath("//option[.='most broken first']"), 'the order')).click();
  await browser.driver.wait(async () => {
    const [first] = await browser.driver.findElements(By.css('.scroller li'));
    return first !== undefined && (await first.getText()).includes('broken');
  }, 10_000);
  expect(await session.faultsOfAccess()).toEqual([]);
  await openPage('contact.html');
  // The logo and the favicon, and what the style sheet shows in the footer.
  await browser.text('3 placements');
  await browser.text('of css/site.css');
  expect(await session.faultsOfAccess()).toEqual([]);
});

test('a placement is chosen in the list and seen in the page, chosen in the page and seen in the list', async () => {
  await openPage('about.html');
  await clickInPage('img[src*="light-curve"]', 'middle');
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
  expect(await inPage<string>("return document.querySelector('a').click() ?? location.search")).toContain(
    'iconomos-look',
  );
});

test('a broken reference is mended with one click, another with an item that is chosen; undone to the byte', async () => {
  const before = await treeOf(root);
  await session.go('/pages');
  await browser.click('3 broken references');
  await browser.text('the same name, written with other capitals');
  await browser.click('Repair with images/dome/dome-night.jpg');
  await browser.text('Repair 1 reference');
  await session.applyPlan('Repair 1 reference', 'Repair');
  expect(await text('about.html')).toContain('/images/dome/dome-night.jpg');
  await browser.text('2 broken references');
  await undone(before);
});

test('an item is placed between two blocks: seen before it is written, undone to the byte', async () => {
  const before = await treeOf(root);
  const page = await text('open-nights.html');
  await openPage('open-nights.html');
  await browser.click('Place an item');
  await browser.text('Choose a spot on the page');
  await clickInPage('h1[data-look-before]', 'edge');
  await choose('moon-full.jpg');
  await browser.text('What is written');
  // The page beside it shows it already; the file is as it was.
  await browser.driver.wait(
    () =>
      inPage<boolean>(
        "return [...document.images].some((one) => one.src.includes('moon-full') || one.src.startsWith('data:'))",
      ),
    20_000,
    'the picture stands on the drawn page',
  );
  expect(await text('open-nights.html')).toBe(page);
  await browser.fill('Classes', 'wide');
  await browser.text('class="wide"');
  await ready('Write it to the page');
  await browser.text('Done. Place “moon-full.jpg”');
  const now = await text('open-nights.html');
  expect(now).toMatch(
    /<(?:figure|img) class="wide"[^]*images\/moon\/moon-full[^]*srcset="[^"]*moon-full-480\.jpg 480w[^]*<h1>/,
  );
  expect((await sharp(join(root, 'images/moon/moon-full-480.jpg')).metadata()).width).toBe(480);
  expect(
    now.replace(/\s*<figure class="wide">[^]*?<\/figure>|\s*<img class="wide"[^>]*>/, '').replace(/\s+/g, ''),
  ).toBe(page.replace(/\s+/g, ''));
  await undone(before);
});

/** From “Not now” Tab goes into the page, over its own links, and to the spots, which come last. */
async function tabToSpots(): Promise<void> {
  const frame = await browser.see(By.css('iframe'), 'the drawn page');
  await browser.tabTo('Not now');
  for (let presses = 0; presses < 60; presses++) {
    await browser.press(Key.TAB);
    const within = await browser.driver.executeScript<boolean>(
      'return document.activeElement === arguments[0]',
      frame,
    );
    if (!within) continue;
    const spot = await inPage<boolean>(
      "return document.activeElement?.shadowRoot === null && document.activeElement.style.zIndex === '2147483647'",
    );
    if (spot) return;
  }
  throw new Error('Tab never came to the spots.');
}

test('by keys alone: a spot, an item, and it is written', async () => {
  const before = await treeOf(root);
  await openPage('imprint.html');
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
  await browser.text('What is written');
  await browser.tabTo('Write it to the page');
  await browser.press(Key.ENTER);
  await browser.text('Done.');
  expect(await text('imprint.html')).toContain('dome-snow');
  await undone(before);
});

test('by keys alone: a background behind a block, and a poster and captions for a film', async () => {
  const before = await treeOf(root);
  await openPage('imprint.html');
  await browser.press('b');
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
  await browser.text('A background here');
  await browser.text('What is written');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.tabTo('Write it to the page');
  await browser.press(Key.ENTER);
  await browser.text('Done.');
  expect(await text('imprint.html')).toMatch(/style="[^"]*background-image: url\([^)]*dome-snow/);
  await undone(before);

  await writeFile(join(root, 'media/timelapse/clouds.vtt'), 'WEBVTT\n');
  const with_ = await treeOf(root);
  await openPage('timelapse.html');
  await browser.tabTo('clouds-over-the-dome.mp4');
  await browser.press(Key.ENTER);
  await browser.press('e');
  await browser.text('Poster and captions');
  await browser.tabTo('Choose a poster …');
  await browser.press(Key.ENTER);
  await browser.text('The poster of this film');
  await browser.tabTo('Words to find');
  await browser.press(...'dome-snow');
  await browser.driver.sleep(600);
  await browser.tabTo('dome-snow.jpg');
  await browser.press(Key.ENTER);
  await browser.tabTo('Captions file');
  await browser.press(...'media');
  await browser.tabTo('Shown as');
  await browser.press(...'English');
  await browser.text('What is written');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.driver.sleep(700);
  await browser.tabTo('Write it to the page');
  await browser.press(Key.ENTER);
  await browser.text('Done. Edit “clouds-over-the-dome.mp4”');
  const html = await text('timelapse.html');
  expect(html).toMatch(/<video[^>]* poster="[^"]*dome-snow/);
  expect(html).toMatch(/<track [^>]*kind="captions"[^>]*clouds\.vtt/);
  await undone(with_);
  await rm(join(root, 'media/timelapse/clouds.vtt'));
});

test('a background with more pixels than are shown is offered in a size that fits', async () => {
  const before = await treeOf(root);
  await openPage('index.html');
  await browser.click('phone');
  await browser.text('shown 341');
  await browser.tabTo('milky-way-over-corvane-hill.jpg');
  await browser.press(Key.ENTER);
  await browser.click('Use a size that fits …');
  await browser.text('What is written');
  await ready('Write it to the page');
  await browser.text('Done.');
  expect(await text('css/site.css')).toMatch(/milky-way-over-corvane-hill-\d+\.jpg/);
  await undone(before);
});

test('another picture at one place: the element keeps what is its own; the item and its other placements stay', async () => {
  const before = await treeOf(root);
  await openPage('about.html');
  await clickInPage('img[src*="light-curve"]', 'middle');
  await browser.click('Show another here');
  await choose('dome-snow.jpg');
  await browser.text('What is written');
  await ready('Write it to the page');
  await browser.text('Done. Show “dome-snow.jpg”');
  const now = await text('about.html');
  expect(now).toContain('dome-snow');
  expect(now).not.toContain('light-curve.svg');
  await undone(before);
});

test.each([
  ['of a style sheet', 'index.html', '.hero', 'css/site.css', /\.hero \{[^}]*moon-full\.jpg[^}]*cover/],
  ['of the block itself', 'visit.html', 'div[style]', 'visit.html', /<div style="[^"]*moon-full\.jpg/],
])(
  'a background %s is exchanged on the drawn page, seen there first',
  async (_of, page, block, file, now) => {
    const before = await treeOf(root);
    const written = await text(file);
    await openPage(page);
    await browser.click('Place an item');
    await browser.text('Choose a spot on the page');
    await clickInPage(block, 'middle');
    await choose('moon-full.jpg');
    await browser.text('What is written');
    await browser.driver.wait(
      () =>
        inPage<boolean>(
          `return getComputedStyle(document.querySelector('${block}')).backgroundImage.includes('moon-full.jpg')`,
        ),
      20_000,
      'the drawn page shows it',
    );
    expect(await text(file)).toBe(written);
    if (file.endsWith('.css')) await browser.text('which 21 other files use');
    await ready('Write it to the page');
    await browser.text('Done. Show “moon-full.jpg”');
    expect(await text(file)).toMatch(now);
    const after = await treeOf(root);
    expect(Object.keys(after).filter((path) => after[path] !== before[path])).toEqual([file]);
    await undone(before);
  },
);

test.each([
  ['moonrise.mp4', /<video src="media\/[^"]+\.mp4" width="\d+" height="\d+" controls/, 'video[controls]'],
  ['the-moor-at-night.ogg', /<audio src="media\/[^"]+\.ogg" controls/, 'audio[controls]'],
  [
    'sky-chart-winter.pdf',
    /<p><a href="documents\/(?:old\/)?sky-chart-winter\.pdf">[^<.]+<\/a><\/p>/,
    'a[href*=winter]',
  ],
])('%s is placed as what it is', async (name, markup, element) => {
  const before = await treeOf(root);
  await openPage('imprint.html');
  await browser.click('Place an item');
  await browser.text('Choose a spot on the page');
  await clickInPage('h1[data-look-before]', 'edge');
  await choose(name);
  await browser.text('What is written');
  await browser.driver.wait(
    () => inPage<boolean>(`return document.querySelector('${element}') !== null`),
    20_000,
    'the drawn page has it',
  );
  await ready('Write it to the page');
  await browser.text(`Done. Place “${name}”`);
  expect(await text('imprint.html')).toMatch(markup);
  await undone(before);
});

test('a gallery of a folder in an order of one’s own; made anew when the folder has changed', async () => {
  const before = await treeOf(root);
  await openPage('press.html');
  await browser.press('g');
  await browser.text('Choose a spot on the page');
  await clickInPage('h1[data-look-before]', 'edge');
  await browser.text('Place a gallery');
  await (await browser.field('Folder of the gallery')).sendKeys('images/trails');
  await browser.driver.wait(
    async () => (await browser.driver.findElements(By.css('.order .grip'))).length > 2,
    20_000,
    'the pictures of the folder',
  );
  const names = await browser.driver.executeScript<string[]>(
    "return [...document.querySelectorAll('.order .grip')].map((one) => one.getAttribute('aria-label').split(',')[0])",
  );
  const [, second] = await browser.driver.findElements(By.css('.order .grip'));
  await browser.driver.executeScript('arguments[0].focus()', second);
  await browser.hold(Key.ALT, Key.ARROW_LEFT);
  await browser.driver.wait(
    async () =>
      (await (await browser.see(By.css('.order .grip'), 'the first')).getAttribute('aria-label'))?.startsWith(
        names[1]!,
      ),
    10_000,
    'the second comes first',
  );
  // And one is dragged by the pointer: the first behind others.
  const grips = await browser.driver.findElements(By.css('.order .grip'));
  const actions = browser.driver.actions({ async: true });
  await actions
    .move({ origin: grips[0]! })
    .press()
    .move({ origin: grips[0]!, x: 20, y: 6 })
    .move({ origin: grips[4]!, x: 10, duration: 300 })
    .move({ origin: grips[4]!, x: 20, duration: 200 })
    .release()
    .perform();
  await browser.driver.wait(
    async () =>
      (await (await browser.see(By.css('.order .grip'), 'the first')).getAttribute('aria-label'))?.startsWith(
        names[0]!,
      ),
    10_000,
    'what was second comes first again',
  );
  // What was let go settles in a moment: the order is read once it stands still.
  let wished: string[] = [];
  await browser.driver.wait(
    async () => {
      const now = await browser.driver.executeScript<string[]>(
        "return [...document.querySelectorAll('.order .grip')].map((one) => one.getAttribute('aria-label').split(',')[0])",
      );
      const still = now.join() === wished.join();
      wished = now;
      return still;
    },
    20_000,
    'the order to stand still',
    500,
  );
  expect(wished).not.toEqual(names);
  await browser.text('will be made');
  await ready('Write the gallery to the page');
  await browser.text('Done. Place a gallery');
  const page = await text('press.html');
  const order = [...page.matchAll(/<li>.*?href="images\/trails\/([^"]+)"/g)].map((one) =>
    decodeURIComponent(one[1]!),
  );
  expect(order).toEqual(wished);
  expect(page).not.toContain('<script');
  // Someone else puts a picture into the folder.
  await writeFile(join(root, 'images/trails/new-trail.jpg'), await painted(91, 900, 600));
  await browser.text('1 new, 0 gone since.');
  await browser.click('Make it anew');
  await browser.text('1 picture new since it was made');
  await browser.text('will be made');
  await ready('Make the gallery anew');
  await browser.text('Done. Make anew');
  expect(await text('press.html')).toContain('images/trails/new-trail.jpg');
  const anew = await treeOf(root);
  expect(Object.keys(anew)).toContain('images/trails/new-trail-320.jpg');
  // Both are taken back in the Ledger, the later one first.
  for (let entries = 0; entries < 2; entries++) {
    await session.go('/ledger');
    const at = By.xpath("//button[normalize-space(.)='Undo …' or normalize-space(.)='Undo']");
    await (await browser.see(at, 'an undo')).click();
    await session.applyPlan('Undo', 'Undo');
  }
  await rm(join(root, 'images/trails/new-trail.jpg'));
  expect(await treeOf(root)).toEqual(before);
  await session.go('/library?q=new-trail');
  await browser.text('Nothing fits');
});

test('a focal point by keys: what the screens make of it, written to a placement', async () => {
  const before = await treeOf(root);
  await openPage('about.html');
  await clickInPage('img[src*="evening-at-the-dome"]', 'middle');
  await browser.click('Focal point');
  await browser.text('wide screen');
  await browser.tabTo('Focal point');
  for (let presses = 0; presses < 2; presses++) await browser.hold(Key.SHIFT, Key.ARROW_RIGHT);
  await browser.text('70 % from the left');
  const place = By.xpath("//div[@role='dialog']//label[contains(., 'line')]/input");
  const box = await browser.see(place, 'the placement');
  if (!(await box.isSelected())) await box.click();
  await browser.inDialog('Show the plan');
  await browser.text('object-position: 70% 50%');
  await session.applyPlan('Write 1 page', 'Set the focal point');
  expect(await text('about.html')).toMatch(/<img style="object-position: 70% 50%"[^>]*evening-at-the-dome/);
  await undone(before);
});

test('an item is replaced by a file of this machine: its address stays, pages follow the new size', async () => {
  const before = await treeOf(root);
  const next = await painted(55, 900, 900);
  const file = await session.put('Better.jpg', next);
  await session.go('/library?q=dome-snow');
  await (await browser.see(By.xpath('//*[@data-item]'), 'the item')).click();
  await browser.text('Stands on');
  await browser.click('Replace');
  await browser.text('A file of this machine');
  await browser.driver.findElement(By.css('[role=dialog] input[type=file]')).sendKeys(file);
  await browser.text('900 × 900 px');
  await browser.inDialog('Show the plan');
  await browser.text('another shape');
  await session.applyPlan('Replace it', 'Replace');
  const after = await treeOf(root);
  const changed = Object.keys(after).filter((path) => after[path] !== before[path]);
  const [replaced, size] = changed
    .filter((path) => path.endsWith('.jpg'))
    .sort((a, b) => a.length - b.length);
  expect((await readFile(join(root, replaced!))).equals(next)).toBe(true);
  // Its smaller size is made of the new file.
  expect(await sharp(join(root, size!)).metadata()).toMatchObject({ width: 640, height: 640 });
  await undone(before);
});

test('what lies on other hosts is not loaded until a person wants it', async () => {
  const asked: string[] = [];
  const other = createServer((request, response) => {
    asked.push(request.url!);
    painted(3).then(
      (bytes) => response.end(bytes),
      () => response.destroy(),
    );
  });
  await new Promise<void>((done) => other.listen(0, '127.0.0.1', done));
  const { port } = other.address() as AddressInfo;
  const page = join(root, 'elsewhere.html');
  await writeFile(
    page,
    `<title>Elsewhere</title><img src="images/trails/new.jpg"><img src="http://127.0.0.1:${port}/far.jpg" alt="">`,
  );
  try {
    await session.go('/pages?page=elsewhere.html');
    await browser.text('1 file of this page lies on other hosts and is not loaded');
    await browser.settled();
    expect(asked).toEqual([]);
    await browser.click('Load from other hosts');
    await browser.text('and is loaded from there');
    await browser.driver.wait(() => asked.includes('/far.jpg'), 10_000);
    await browser.click('Stop loading');
    await browser.text('and is not loaded');
  } finally {
    other.close();
    await rm(page);
  }
});

test('a snippet for use elsewhere: the whole element, or Markdown, in its full size', async () => {
  await browser.command('Browser.grantPermissions', {
    origin: session.server.address,
    permissions: ['clipboardReadWrite', 'clipboardSanitizedWrite'],
  });
  await session.go('/library?q=dome-snow');
  await (await browser.see(By.xpath('//*[@data-item]'), 'the item')).click();
  await browser.text('Stands on');
  await browser.click('Snippet');
  await browser.click('Copy');
  await browser.text('Copied: <img src="/images/');
  await (await browser.field('Form of the snippet')).sendKeys('Markdown');
  await browser.see(By.css('.snippet'), 'the form');
  await (await browser.see(By.xpath("//form[contains(@class, 'snippet')]//button"), 'Copy')).click();
  await browser.text('Copied: ![');
});

test('the layout of the folder is said, planned and undone', async () => {
  await session.go('/pages');
  await browser.click('How the folder is laid out');
  await browser.text('Served from the root');
  await browser.fill('Not looked at', 'uploads');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.inDialog('Show the plan');
  await browser.text('Not looked at');
  await session.applyPlan('Apply', 'Say how');
  await session.go('/library');
  await browser.text('The whole site');
  await browser.gone('uploads');
  await session.go('/ledger');
  const at = By.xpath("//button[normalize-space(.)='Undo …' or normalize-space(.)='Undo']");
  await (await browser.see(at, 'an undo')).click();
  await session.applyPlan('Undo', 'Undo');
  await session.go('/library');
  await browser.text('uploads');
});

test('the live site is read: what visitors see counts as placed', async () => {
  await session.go('/pages');
  await browser.click('The live site');
  await browser.text('Nothing has been read yet');
  await browser.click('Read it');
  await browser.text('of the library');
  await browser.text('A dome for everyone');
  expect(await session.faultsOfAccess()).toEqual([]);
  await session.go('/library?q=dome-snow');
  await (await browser.see(By.xpath('//*[@data-item]'), 'the item')).click();
  await browser.text('Seen on the live site');
});
