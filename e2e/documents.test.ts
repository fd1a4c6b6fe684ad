import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { By, Key } from 'selenium-webdriver';
import { beforeAll, expect, test } from 'vitest';
import { treeOf } from '../server/test/site.ts';
import type { Browser } from './browser.ts';
import { DocumentsSession } from './documents-session.ts';

/** Documents are read and edited where they lie; what nobody touches keeps its bytes, and nobody overwrites another. */
const session = new DocumentsSession('documents');
let browser: Browser;
beforeAll(() => {
  ({ browser } = session);
});

const PAGE = 'notes/red-light.md';
const TABLE = 'documents/bright-stars.csv';
const on = (path: string) => readFile(join(session.root, path), 'utf8');
test('a word of a Markdown page is corrected; every other byte stays; the version says what changed; undo', async () => {
  const before = await treeOf(session.root);
  const was = await on(PAGE);
  await session.go(`/pages?page=${encodeURIComponent(PAGE)}`);
  await browser.click('Edit the text');
  const area = await session.inEditor(PAGE);
  await area.click();
  await browser.hold(Key.CONTROL, Key.END);
  await browser.press(' Bring spare batteries.');
  await browser.text('not on the site yet');
  expect(await on(PAGE)).toBe(was);
  await browser.click('Save …');
  await browser.fill('Note', 'Asked for by Ilse');
  await session.applyPlan('Save document');
  await browser.text('1 line changed');
  await browser.text('Asked for by Ilse');
  const now = await on(PAGE);
  expect(now).toContain(' Bring spare batteries.');
  expect(now.replace(' Bring spare batteries.', '')).toBe(was);
  await browser.click('Show what changed');
  await browser.see(By.css('[role=dialog] ins'), 'the line as it is now', /Bring spare batteries/);
  await browser.press(Key.ESCAPE);
  await session.alone();
  await session.undo('Edit “red-light.md”');
  await browser.gone('Bring spare batteries.');
  expect(await treeOf(session.root)).toEqual(before);
});

test('headings, lists and an image from the library', async () => {
  await session.edit(PAGE);
  await session.atTheEnd(PAGE);
  await session.writeList();
  await session.save();
  expect(await on(PAGE)).toMatch(
    /\n## What to bring\n\n[-*] a red torch\n[-*] a blanket\n\n!\[[^\]]*\]\(\/images\/dome\/dome-snow\.jpg\)\n$/,
  );
});

test('rows and columns of a table come and go', async () => {
  await session.edit(PAGE);
  await session.atTheEnd(PAGE);
  await browser.press(Key.ENTER);
  await browser.click('Table');
  await browser.press('Night', Key.TAB, 'Price');
  await browser.click('Add row');
  await browser.press(Key.TAB, Key.TAB, 'Friday');
  await browser.click('Add column');
  await browser.click('Delete row');
  await session.save();
  expect(await on(PAGE)).toMatch(/\| *Night *\| *\| *Price *\| *\|\n(?:\|[ -|:]*\|\n){3}$/);
  await session.undo('Edit “red-light.md”');
  await browser.gone('Night');
});

test('a table of text: one line is changed, and what is written survives a reload', async () => {
  const was = await on(TABLE);
  await session.edit(TABLE);
  await browser.click('Edit as text');
  await session.atTheEnd(TABLE);
  await browser.press('Polaris,2.0');
  await browser.text('Draft kept at');
  await session.edit(TABLE);
  await browser.text('not on the site yet');
  await session.save();
  expect(await on(TABLE)).toBe(`${was}Polaris,2.0`);
});

test('two people: the second is told, sees both, and keeps both changes', async () => {
  await session.edit(PAGE);
  await session.atTheEnd(PAGE);
  await browser.press(Key.ENTER, 'Mine, at the end.');
  await browser.text('not on the site yet');
  await session.saveElsewhere(PAGE, (words) => words.replace(/^# .*$/m, '# Their heading'));
  await browser.click('Save …');
  await browser.text('has changed on the site since you opened it');
  expect(await on(PAGE)).not.toContain('Mine, at the end.');
  await browser.click('Compare …');
  await browser.text('The two changes touch different lines');
  await browser.inDialog('Keep both changes');
  await session.save();
  const now = await on(PAGE);
  expect(now).toContain('# Their heading');
  expect(now).toContain('Mine, at the end.');
});

test('words are found and replaced, in running text and in lines', async () => {
  await session.edit(PAGE);
  await session.inEditor(PAGE);
  await browser.hold(Key.CONTROL, 'f');
  await browser.fill('Words in this document', 'RED');
  await browser.text('1 of');
  await (await browser.field('Match case')).click();
  await browser.text('Not found');
  await (await browser.field('Match case')).click();
  const was = await on(PAGE);
  await browser.fill('Replace with', 'dim');
  await browser.click('Replace all');
  await browser.text('Not found');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.press(Key.ESCAPE);
  await session.save();
  expect((await on(PAGE)).toLowerCase()).toBe(was.toLowerCase().replaceAll('red', 'dim'));

  await session.edit(TABLE);
  await browser.click('Edit as text');
  await session.inEditor(TABLE);
  await browser.click('Find …');
  await browser.fill('Words in this document', 'april');
  await browser.text('line 4');
  await browser.press(Key.ENTER);
  await browser.text('line 6');
  await browser.fill('Replace with', 'May');
  const before = await on(TABLE);
  await browser.button('Replace').then((one) => one.click());
  await browser.text('1 of 1, line 4');
  await session.save();
  expect(await on(TABLE)).toBe(before.replace(/April(?!.*April)/s, 'May'));
});

test('the editor can be used with keys and read by screen readers', async () => {
  await session.edit(PAGE);
  await session.inEditor(PAGE);
  expect(await session.faultsOfAccess()).toEqual([]);
});
