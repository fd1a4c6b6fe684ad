import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { By, Key } from 'selenium-webdriver';
import { beforeAll, expect, test } from 'vitest';
import { treeOf } from '../server/test/site.ts';
import type { Browser } from './browser.ts';
import { DocumentsSession } from './documents-session.ts';

const PAGE = 'visit.html';
const PART = 'notes/part.html';

/** Texts in HTML are edited where they lie: the main part of a page, or a whole fragment. */
const FRAGMENT =
  '<p class="lead">Opens  at dusk</p>\n<script>document.title = "ran"; parent.ran = 1</script>\n' +
  '<p onclick="ran = 1"><img src=x onerror="parent.ran = 1"> Price: <b>4</b></p>\n<form><input></form>\n';
const session: DocumentsSession = new DocumentsSession('html-text', async () => {
  await writeFile(join(session.root, PART), FRAGMENT);
  return [];
});
let browser: Browser;
beforeAll(() => {
  ({ browser } = session);
});

const on = (path = PAGE) => readFile(join(session.root, path), 'utf8');

test('a word of a page is corrected; every other byte stays; undo', async () => {
  const before = await treeOf(session.root);
  const was = await on();
  await session.go(`/pages?page=${PAGE}`);
  await browser.click('Edit the text');
  await session.inEditor(PAGE);
  await browser.text('Its header, footer and head stay as they are.');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.hold(Key.CONTROL, 'f');
  await browser.fill('Words in this document', 'twenty minutes');
  await browser.text('1 of 1');
  await browser.fill('Replace with', 'half an hour & more');
  await browser.click('Replace all');
  await browser.text('not on the site yet');
  expect(await on()).toBe(was);
  await session.save();
  await browser.text('1 line changed');
  expect(await on()).toBe(was.replace('twenty minutes', 'half an hour &amp; more'));
  await session.undo(`Edit “${PAGE}”`);
  await browser.gone('half an hour');
  expect(await treeOf(session.root)).toEqual(before);
});

test('a heading, a list and an image of the library come in; what the editor can’t change stays', async () => {
  const was = await on();
  await session.edit(PAGE);
  await session.inEditor(PAGE);
  await browser.clickAt(
    By.xpath("//*[contains(@class, 'ProseMirror')]//li[contains(., 'Corvane Water')]"),
    'the last item',
  );
  await browser.press(Key.END, Key.ENTER, 'A bench at the top', Key.ENTER, Key.ENTER);
  await session.writeList();
  await session.save();
  const now = await on();
  expect(now).toMatch(
    /<li><img [^>]*> Line 12 to Corvane Water<\/li>\n<li>A bench at the top<\/li>\n<\/ul>\n<h2>What to bring<\/h2>\n<ul>\n<li>a red torch<\/li>\n<li>a blanket<\/li>\n<\/ul>\n<p><img src="\/images\/dome\/dome-snow\.jpg" alt="[^"]*" width="\d+" height="\d+"><\/p>/,
  );
  const div = /<div style=[^]*<\/html>\n/.exec(was)![0];
  expect(now.endsWith(div)).toBe(true);
  expect(now.startsWith(was.slice(0, was.indexOf('<li>')))).toBe(true);
  // A page of the site as it is used: the image counts as placed there.
  await session.go('/library?q=dome-snow');
  await browser.click('dome-snow.jpg');
  await browser.text('visit.html');
});

test('of a fragment with a script and a form nothing runs, and both stay; its source can be edited', async () => {
  await session.edit(PART);
  await session.inEditor(PART);
  await browser.text('Can’t be edited here, and is kept as it is: script, form.');
  expect(await browser.driver.executeScript('return window.ran ?? null')).toBeNull();
  await browser.hold(Key.CONTROL, 'f');
  await browser.fill('Words in this document', 'dusk');
  await browser.fill('Replace with', 'dawn');
  await browser.click('Replace all');
  await browser.press(Key.ESCAPE);
  await browser.click('HTML source');
  await browser.until(
    'the source is there',
    async () =>
      (await (await session.inEditor(PART)).getAttribute('value'))?.includes('Opens  at dawn') ?? false,
  );
  await browser.click('Running text');
  await session.inEditor(PART);
  await session.save();
  expect(await on(PART)).toBe(FRAGMENT.replace('dusk', 'dawn'));
});
