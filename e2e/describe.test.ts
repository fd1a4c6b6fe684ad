import { Key } from 'selenium-webdriver';
import { beforeAll, expect, test } from 'vitest';
import { treeOf } from '../server/test/site.ts';
import { By, type Browser } from './browser.ts';
import { Session } from './session.ts';

/** Describing: ten by keys alone, the notes in the margin, words of pages and records brought in line. */
const session = new Session('describe');
let browser: Browser;
let root: string;
beforeAll(() => {
  ({ browser, root } = session);
});

interface Item {
  id: number;
  name: string;
  path: string;
  words: { alt: string; decorative: boolean; title: string };
}
async function found(query: string): Promise<Item[]> {
  const answer = await fetch(`${session.server.address}/api/items?limit=300&${query}`);
  return ((await answer.json()) as { items: Item[] }).items;
}
/** Waits until the queue shows so many as gone through, and the alt text has the focus. */
async function standsAt(number: number): Promise<void> {
  // The words are looked for at the foot of the queue: the work in the masthead counts too.
  await browser.see(
    By.xpath(`//footer//p[starts-with(normalize-space(.), '${number} of ')]`),
    `“${number} of …” at the foot`,
  );
  await browser.driver.wait(
    () => browser.driver.executeScript<boolean>("return document.activeElement?.closest('.alt') !== null"),
    10_000,
    'the alt text has the focus',
  );
}

test('ten images are described by keys alone, none twice, and the words stand in the records', async () => {
  const before = await found('where=kind:image,!mark:described&sort=seen');
  expect(before.length).toBeGreaterThan(10);
  await session.go('/describe');
  for (let number = 1; number <= 10; number++) {
    await standsAt(number);
    if (number === 4) {
      await browser.press(Key.ESCAPE);
      await browser.press('d');
    } else if (number === 6) {
      await browser.press(Key.ESCAPE);
      await browser.press('s');
    } else if (number === 7) {
      await browser.press(Key.ESCAPE);
      await browser.press('p');
      await browser.driver.wait(
        () =>
          browser.driver.executeScript<boolean>(
            "return document.querySelector('.alt textarea').value !== ''",
          ),
        5000,
      );
      await browser.press(Key.ENTER);
    } else await browser.press(`The sky over the hill, view ${number}`, Key.ENTER);
  }
  await standsAt(11);
  await browser.press(Key.ESCAPE);
  await browser.press('b');
  await standsAt(10);
  const after = await found('where=kind:image');
  const words = before.slice(0, 10).map(({ id }) => after.find((item) => item.id === id)!.words);
  expect(words.map((one) => one.alt)).toEqual(
    [1, 2, 3, 0, 5, 0, 5, 8, 9, 10].map((number) => (number ? `The sky over the hill, view ${number}` : '')),
  );
  expect(words.map((one) => one.decorative)).toEqual(words.map((_, index) => index === 3));
  expect(await session.faultsOfAccess()).toEqual([]);
});

test('notes say live what is wrong; a suggestion is taken by keys and says where it comes from', async () => {
  const [logo] = await found('where=name:logo.svg');
  await session.go(`/describe?where=name:${logo!.name}`);
  await browser.text('Used on');
  await browser.text('alt text on “');
  const field = await browser.field('Alt text');
  await field.sendKeys(Key.chord(Key.CONTROL, 'a'), Key.DELETE);
  await browser.text('It has no alt text.');
  await field.sendKeys('An arch drawn with a pen');
  await browser.text('It is the only content of the link to');
  await field.sendKeys(Key.chord(Key.CONTROL, 'a'), Key.DELETE);
  await field.sendKeys('Image of our dome');
  await browser.text('It starts with “Image of”.');
  await field.sendKeys(Key.chord(Key.CONTROL, 'a'), Key.DELETE);
  await browser.text('It has no alt text.');
  await browser.press(Key.ARROW_DOWN, Key.ENTER);
  await browser.driver.wait(
    async () => (await field.getAttribute('value')) === 'Corvane Hill Observatory, home',
    5000,
  );
  await browser.gone('It has no alt text.');
  await browser.text('Text in the image: “');
});

test('pages and records are brought in line, in either direction, and back', async () => {
  const before = await treeOf(root);
  await session.go('/describe/pages');
  await browser.text('In the record');
  expect(await session.faultsOfAccess()).toEqual([]);
  await (
    await browser.see(By.xpath("//tr//button[contains(., 'Update page')]"), 'a way to the page')
  ).click();
  await browser.text('Write the text of 1 record to 1 page');
  await session.applyPlan('Change', 'Write the text');
  const changed = Object.entries(await treeOf(root)).filter(([path, hash]) => before[path] !== hash);
  expect(changed).toHaveLength(1);
  await browser.click('Undo');
  await session.applyPlan('Undo');
  expect(await treeOf(root)).toEqual(before);

  await session.go('/describe/pages');
  await browser.text('In the record');
  const take = await browser.see(By.xpath("//button[contains(., 'from the pages')]"), 'all to the records');
  const records = Number(/\d+/.exec(await take.getText())![0]);
  expect(records).toBeGreaterThan(0);
  await take.click();
  await session.applyPlan('Change', 'Set');
  expect(await treeOf(root)).toEqual(before);
});
