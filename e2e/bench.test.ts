import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { beforeAll, expect, test } from 'vitest';
import { treeOf } from '../server/test/site.ts';
import { By, type Browser } from './browser.ts';
import { Session } from './session.ts';

/** One image on the bench, as a person edits it: by the pointer and by keys, saved as a plan, always from the original. */
const session = new Session('bench');
let browser: Browser;
let root: string;
beforeAll(() => {
  ({ browser, root } = session);
});

const DUSK = 'images/dome/dome-dusk.jpg';
const bytesOf = (path: string) => readFile(join(root, path));
const sizeOf = async (path: string) => {
  const { width, height } = await sharp(await bytesOf(path)).metadata();
  return [width, height];
};
async function open(name: string): Promise<void> {
  await session.go(`/library?folder=images/dome&where=name:${name.replace('.jpg', '')}`);
  await browser.click(name);
  await browser.text('Used in');
  await browser.press('b');
  await browser.text('Edit image');
  await browser.text('Original 1600 × 1067 px');
}
const framed = async () =>
  (await (await browser.see(By.css('.framed'), 'the frame')).getAttribute('aria-label'))!;

test('squared, lightened and black and white, in place: pages follow; opened again it can be changed; back to the original byte by byte', async () => {
  const before = await treeOf(root);
  await open('dome-dusk.jpg');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.choose('Ratio', '1:1 (square)');
  await browser.text('Cropped to 1:1'.toLowerCase());
  await (await browser.field('Automatic')).click();
  await (await browser.field('Black and white')).click();
  await browser.text('automatic levels, black and white');
  await browser.text('Saved 1067 × 1067 px');
  await browser.click('Save …');
  await browser.inDialog('Review changes');
  await browser.text('Edit “dome-dusk.jpg”: Cropped to 1:1, automatic levels, black and white');
  await session.applyPlan('Save image', 'Edit “dome-dusk.jpg”');
  await browser.text('Used in');
  expect(await sizeOf(DUSK)).toEqual([1067, 1067]);
  const { channels } = await sharp(await bytesOf(DUSK)).stats();
  expect(Math.abs(channels[0]!.mean - channels[2]!.mean)).toBeLessThan(1.5);
  const after = await treeOf(root);
  const changed = Object.keys(after).filter((path) => after[path] !== before[path]);
  const pages = changed.filter((path) => path.endsWith('.html'));
  for (const page of pages)
    expect(await readFile(join(root, page), 'utf8')).toMatch(
      /dome-dusk\.jpg"[^>]*width="1067"[^>]*height="1067"/,
    );
  // Its smaller size has the new shape too.
  const [wide, high] = await sizeOf('images/dome/dome-dusk-640.jpg');
  expect(wide).toBe(high);

  await browser.press('b');
  await browser.text('automatic levels, black and white');
  // Undo goes back to what was saved, and no further.
  const undo = await browser.see(By.css('button[aria-label="Undo"]'), 'Undo');
  expect(await undo.isEnabled()).toBe(false);
  await (await browser.field('Black and white')).click();
  await browser.driver.wait(() => undo.isEnabled(), 5000, 'a step that can be undone');
  await browser.hold(Key.CONTROL, 'z');
  await browser.text('automatic levels, black and white');
  await browser.click('Back to the original');
  await browser.text('This is the original.');
  await browser.click('Save …');
  await browser.inDialog('Review changes');
  await session.applyPlan('Save image', 'Edit “dome-dusk.jpg”: Back to the original');
  // Versions of one day are told apart by what was done.
  await browser.text('Used in');
  const told = async () =>
    Promise.all(
      (await browser.driver.findElements(By.css('.versions li'))).map(async (one) =>
        (await one.getText()).replace(/\s+/g, ' '),
      ),
    );
  await browser.driver.wait(async () => (await told()).length >= 2, 10_000, 'both versions');
  const [latest, first] = await told();
  expect(latest).toContain('Edit “dome-dusk.jpg”: Back to the original');
  expect(first).toContain('Edit “dome-dusk.jpg”: Cropped to 1:1, automatic levels, black and white');
  expect((await treeOf(root))[DUSK]).toBe(before[DUSK]);
  for (let entries = 0; entries < 2; entries++) {
    await session.go('/ledger');
    const at = By.xpath("//button[normalize-space(.)='Undo …' or normalize-space(.)='Undo']");
    await (await browser.see(at, 'an undo')).click();
    await session.applyPlan('Undo', 'Undo');
  }
  expect(await treeOf(root)).toEqual(before);
});

test('the frame by keys and by the pointer, to the pixel; undone, done again, and kept when the page is loaded anew', async () => {
  await open('dome-fog.jpg');
  expect(await framed()).toContain('1600 by 1067');
  await browser.driver.executeScript('document.querySelector(\'.grip[aria-label*="right lower"]\').focus()');
  await browser.press(Key.ARROW_LEFT, Key.ARROW_LEFT);
  await browser.hold(Key.SHIFT, Key.ARROW_UP);
  expect(await framed()).toContain('1598 by 1057');
  await browser.driver.executeScript("document.querySelector('.framed').focus()");
  await browser.press(Key.ARROW_RIGHT);
  await browser.text('Saved 1598 × 1057 px');
  await browser.driver.sleep(500);
  await browser.hold(Key.CONTROL, 'z');
  await browser.driver.wait(async () => !(await framed()).includes('1598 by 1057'), 5000, 'undone');
  await browser.hold(Key.CONTROL, 'y');
  await browser.driver.wait(async () => (await framed()).includes('1598 by 1057'), 5000, 'done again');

  const grip = await browser.see(By.css('.grip[aria-label*="left edge"]'), 'the left edge');
  const actions = browser.driver.actions({ async: true });
  await actions
    .move({ origin: grip })
    .press()
    .move({ origin: grip, x: 100, duration: 200 })
    .release()
    .perform();
  const drawn = Number(/Frame: (\d+) by/.exec(await framed())![1]);
  expect(drawn).toBeLessThan(1598 - 100);
  await browser.driver.navigate().refresh();
  await browser.text('Edit image');
  await browser.driver.wait(
    async () => (await framed()).includes(`${drawn} by 1057`),
    10_000,
    'the frame as it was',
  );
  await browser.click('Discard and close');
  await browser.text('Used in');
  await browser.press('b');
  await browser.text('This is the original.');
});

test('any ratio, and around the thing on it; the pages that show it are one click away', async () => {
  await open('dome-dusk.jpg');
  await browser.choose('Ratio', 'other');
  await browser.fill('Ratio, across', '5');
  await browser.fill('Ratio, down', '4');
  await browser.press(Key.TAB);
  await browser.driver.wait(async () => (await framed()).includes('1334 by 1067'), 5000, 'five to four');
  await browser.click('Frame the thing on it');
  await browser.text('Nothing was framed: it has no plain ground.');
  await browser.click('2 pages');
  await browser.click('index.html');
  await browser.driver.wait(
    async () => (await browser.driver.getCurrentUrl()).endsWith('/pages?page=index.html'),
    10_000,
    'the page',
  );
  // What was being made of it waits; it is given up.
  await session.go('/library?folder=images/dome&where=name:dome-dusk');
  await browser.click('dome-dusk.jpg');
  await browser.text('Used in');
  await browser.press('b');
  await browser.text('cropped to 5:4');
  await browser.click('Discard and close');
  await browser.text('Used in');
});

test('a part is covered, the image straightened by a line, made smaller, and saved as a new item; the old one stays', async () => {
  const before = await treeOf(root);
  await open('dome-night.jpg');
  await browser.click('Straighten by a line');
  const stage = await browser.see(By.css('.stage'), 'the image');
  const line = browser.driver.actions({ async: true });
  await line
    .move({ origin: stage, x: -200, y: 0 })
    .press()
    .move({ origin: stage, x: 200, y: 20, duration: 200 })
    .release()
    .perform();
  await browser.text('straightened by 2.9° left');
  await browser.click('Cover parts');
  await browser.click('Cover a part');
  const part = browser.driver.actions({ async: true });
  await part
    .move({ origin: stage, x: -60, y: -40 })
    .press()
    .move({ origin: stage, x: 60, y: 40, duration: 200 })
    .release()
    .perform();
  await browser.text('1 part covered');
  await browser.choose('Resize', 'width');
  await browser.text('px wide');
  const width = await browser.field('Width');
  await browser.driver.executeScript('arguments[0].scrollIntoView()', width);
  const fields = await browser.driver.findElements(
    By.xpath("//aside//label[starts-with(normalize-space(.), 'Width')]//input"),
  );
  await fields.at(-1)!.sendKeys(Key.chord(Key.CONTROL, 'a'), '800', Key.TAB);
  await browser.text('resized to 800 px wide');
  await browser.choose('Format', 'WebP');
  await browser.text('Saved 800 ×');
  await browser.text('px, WebP');
  await browser.click('Save …');
  await (await browser.field('Save as a new item')).click();
  await browser.fill('Name, without extension', 'dome-night-small');
  await browser.inDialog('Review changes');
  await browser.text('Save an edited copy of “dome-night.jpg” as “images/dome/dome-night-small.webp”');
  await session.applyPlan('Save image', 'Save an edited copy');
  const [wide] = await sizeOf('images/dome/dome-night-small.webp');
  expect(wide).toBe(800);
  const after = await treeOf(root);
  expect(Object.keys(after).filter((path) => after[path] !== before[path])).toEqual([
    'images/dome/dome-night-small.webp',
  ]);
});

test('what cannot be done is said: too small stays as it is, a frame beyond all of it, what is no image', async () => {
  await open('dome-snow.jpg');
  await browser.choose('Resize', 'width');
  const fields = await browser.driver.findElements(
    By.xpath("//aside//label[starts-with(normalize-space(.), 'Width')]//input"),
  );
  await fields.at(-1)!.sendKeys(Key.chord(Key.CONTROL, 'a'), '5000', Key.TAB);
  await browser.text('Already small enough: it isn’t enlarged.');
  // A part is covered by keys: it is framed, and the frame becomes the part.
  await browser.driver.executeScript('document.querySelector(\'.grip[aria-label*="right lower"]\').focus()');
  for (let times = 0; times < 20; times++) await browser.hold(Key.SHIFT, Key.ARROW_LEFT);
  await browser.click('Cover parts');
  await browser.click('Cover what the frame holds');
  await browser.text('1 part covered');
  // A step that is taken out leaves its settings as they were before.
  await browser.click('Back to the original');
  await browser.text('This is the original.');
  const resize = By.xpath("//aside//label[starts-with(normalize-space(.), 'Resize')]");
  expect(await (await browser.see(resize, 'Resize')).getText()).toContain('as it is');
  await browser.click('Close');
  const { items } = (await (
    await fetch(`${session.server.address}/api/items?where=kind:document&limit=1`)
  ).json()) as { items: { id: number; name: string }[] };
  await session.go(`/library/edit/${items[0]!.id}`);
  await browser.text('can’t be edited here: it isn’t an image.');
});

test('a drawing is saved as an image, larger than it is drawn; nothing else is offered for it', async () => {
  await session.go('/library?folder=images/drawings&where=name:eclipse');
  await browser.click('eclipse.svg');
  await browser.text('Used in');
  await browser.press('b');
  await browser.text('A drawing has no pixels to crop or tone.');
  expect(await browser.driver.findElements(By.css('.grip'))).toHaveLength(0);
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.choose('Resize', 'longest side');
  await browser.text('Choose a format to save it as an image.');
  await browser.fill('Pixels', '2400');
  await browser.choose('Format', 'PNG');
  await browser.text('Saved 2400');
  await browser.click('Save …');
  // Beside the drawing, unless asked otherwise.
  await browser.inDialog('Review changes');
  await session.applyPlan('Save image', 'Save an edited copy of “eclipse.svg”');
  expect(Math.max(...(await sizeOf('images/drawings/eclipse.png')))).toBe(2400);
});

test('looked at closely: before and after by a divider, what is clipped, whether text can be read on it, the result pixel by pixel', async () => {
  await open('dome-dusk.jpg');
  const column = () =>
    browser.driver.executeScript<number>(
      `const canvas = document.querySelector('.stage > canvas');
       const { data } = canvas.getContext('2d').getImageData(Math.round(canvas.width * 0.4), 0, 1, canvas.height);
       return data.reduce((sum, value, at) => sum + (at % 4 === 3 ? 0 : value), 0) / canvas.height;`,
    );
  const becomes = (wanted: (sum: number) => boolean, what: string) =>
    browser.driver.wait(async () => wanted(await column()), 5000, what);
  // The canvas may be a little larger or smaller by then.
  const like = (one: number, other: number) => Math.abs(one - other) < 5;
  await becomes((sum) => sum > 0, 'the image is drawn');
  const original = await column();
  await (await browser.field('Automatic')).click();
  await browser.text('automatic levels');
  await becomes((sum) => Math.abs(sum - original) > 20, 'the edit is drawn');
  const edited = await column();
  await browser.press('c');
  const divider = await browser.see(By.css('[aria-label^="Divider"]'), 'the divider');
  // Left of it the canvas shows the original, right of it the edit: the same column, before and after it is moved over.
  await becomes((sum) => like(sum, original), 'the original is drawn there');
  await divider.sendKeys(...Array.from({ length: 20 }, () => Key.ARROW_LEFT));
  await becomes((sum) => like(sum, edited), 'the edit is drawn there again');
  await browser.press('c');

  await browser.fill('White', '90');
  await browser.press(Key.TAB);
  await (await browser.field('Mark pure white and pure black')).click();
  const marked = () =>
    browser.driver.executeScript<number>(
      `const canvas = document.querySelector('.stage > canvas');
       const { data } = canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height);
       let count = 0;
       for (let at = 0; at < data.length; at += 4) if (data[at] === 226 && data[at + 1] === 52) count++;
       return count;`,
    );
  await browser.driver.wait(async () => (await marked()) > 20, 5000, 'pure white is marked');
  await (await browser.field('Mark pure white and pure black')).click();

  await (await browser.field('Text will stand on it')).click();
  await browser.text('Text needs 4.5 to be read everywhere.');
  await (await browser.see(By.xpath("//button[contains(., 'Veil at')]"), 'the veil')).click();
  await browser.text('It can be read everywhere.');
  expect(await session.faultsOfAccess()).toEqual([]);

  await browser.click('100 %');
  await browser.driver.wait(
    () =>
      browser.driver.executeScript<boolean>(
        `const image = document.querySelector('.close img');
         return image !== null && image.naturalWidth === 1600 && image.getBoundingClientRect().width === 1600;`,
      ),
    20_000,
    'each pixel of the saved file is one on the screen',
  );
  await browser.click('100 %');

  await browser.click('Keep as treatment …');
  await browser.fill('Name', 'Sunset banner');
  await browser.inDialog('Keep');
  await browser.text('Save the treatment “Sunset banner”');
  await browser.click('Discard and close');
  await browser.text('Used in');
});

test('a smaller size of another image leads to that one', async () => {
  await session.go('/library?folder=images/dome&where=name:dome-fog');
  const small = await browser.driver.executeScript<number>(
    `const ask = (path) => fetch('/api/' + path).then((one) => one.json());
     return ask('items?where=name:dome-fog&limit=9')
       .then(({ items }) => ask('items/' + items.find((one) => one.name === 'dome-fog.jpg').id))
       .then(({ family }) => family.sizes[0].id);`,
  );
  expect(small).toBeGreaterThan(0);
  await session.go(`/library/edit/${small}`);
  await browser.text('This is a smaller size of');
  await browser.click('dome-fog.jpg');
  await browser.text('Original 1600 × 1067 px');
});
