import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { By, Key } from 'selenium-webdriver';
import { beforeAll, expect, test } from 'vitest';
import type { DocumentView } from '../api/documents.ts';
import { treeOf } from '../server/test/site.ts';
import type { Browser } from './browser.ts';
import { Session } from './session.ts';

/** Documents are read and edited where they lie; what nobody touches keeps its bytes, and nobody overwrites another. */
const session = new Session('documents');
let browser: Browser;
beforeAll(() => {
  ({ browser } = session);
});

const PAGE = 'notes/red-light.md';
const TABLE = 'documents/bright-stars.csv';
const on = (path: string) => readFile(join(session.root, path), 'utf8');
const edit = (path: string) => session.go(`/documents?path=${encodeURIComponent(path)}`);
const text = (path: string) => browser.see(By.css(`[aria-label="Text of ${path}"]`), `the text of ${path}`);

/** As somebody else does in another window. */
async function saveElsewhere(path: string, change: (text: string) => string): Promise<void> {
  const { address } = session.server;
  const opened = (await (
    await fetch(`${address}/api/documents?path=${encodeURIComponent(path)}`)
  ).json()) as DocumentView;
  const post = async (to: string, body: object) =>
    (await (
      await fetch(`${address}/api${to}`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', Origin: address },
        body: JSON.stringify(body),
      })
    ).json()) as { id: string };
  const { id } = await post('/plans', {
    kind: 'document',
    path,
    base: opened.sha256,
    text: change(opened.text),
  });
  await post(`/plans/${id}/apply`, {});
}

test('a word of a Markdown page is corrected; every other byte stays; the version says what changed; undo', async () => {
  const before = await treeOf(session.root);
  const was = await on(PAGE);
  await session.go(`/pages?page=${encodeURIComponent(PAGE)}`);
  await browser.click('Edit the text');
  const area = await text(PAGE);
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
  await browser.clickAt(By.xpath("//button[normalize-space(.)='Undo']"), 'Undo of what was done');
  await browser.text('1 line changed');
  await session.applyPlan('Undo', 'Undo: Edit “red-light.md”');
  await browser.gone('Bring spare batteries.');
  expect(await treeOf(session.root)).toEqual(before);
});

test('headings, lists and an image from the library', async () => {
  await edit(PAGE);
  await (await text(PAGE)).click();
  await browser.hold(Key.CONTROL, Key.END);
  await browser.press(Key.ENTER, 'What to bring');
  await browser.choose('Style', 'Heading 2');
  await browser.press(Key.END, Key.ENTER);
  await browser.click('Bulleted list');
  await browser.press('a red torch', Key.ENTER, 'a blanket', Key.ENTER, Key.ENTER);
  await browser.click('Image …');
  await browser.fill('Words to find', 'dome snow');
  await browser.clickAt(
    By.xpath("//div[@role='dialog']//li/button[contains(., 'dome-snow.jpg')]"),
    'the image',
  );
  await browser.click('Save …');
  await session.applyPlan('Save document');
  expect(await on(PAGE)).toMatch(
    /\n## What to bring\n\n[-*] a red torch\n[-*] a blanket\n\n!\[[^\]]*\]\(\/images\/dome\/dome-snow\.jpg\)\n$/,
  );
});

test('rows and columns of a table come and go', async () => {
  await edit(PAGE);
  await (await text(PAGE)).click();
  await browser.hold(Key.CONTROL, Key.END);
  await browser.press(Key.ENTER);
  await browser.click('Table');
  await browser.press('Night', Key.TAB, 'Price');
  await browser.click('Add row');
  await browser.press(Key.TAB, Key.TAB, 'Friday');
  await browser.click('Add column');
  await browser.click('Delete row');
  await browser.click('Save …');
  await session.applyPlan('Save document');
  expect(await on(PAGE)).toMatch(/\| *Night *\| *\| *Price *\| *\|\n(?:\|[ -|:]*\|\n){3}$/);
  await browser.clickAt(By.xpath("//button[normalize-space(.)='Undo']"), 'Undo of what was done');
  await session.applyPlan('Undo', 'Undo: Edit “red-light.md”');
  await browser.gone('Night');
});

test('a table of text: one line is changed, and what is written survives a reload', async () => {
  const was = await on(TABLE);
  await edit(TABLE);
  await browser.click('Edit as text');
  await (await text(TABLE)).click();
  await browser.hold(Key.CONTROL, Key.END);
  await browser.press('Polaris,2.0');
  await browser.text('Draft kept at');
  await edit(TABLE);
  await browser.text('not on the site yet');
  await browser.click('Save …');
  await session.applyPlan('Save document');
  expect(await on(TABLE)).toBe(`${was}Polaris,2.0`);
});

test('two people: the second is told, sees both, and keeps both changes', async () => {
  await edit(PAGE);
  await (await text(PAGE)).click();
  await browser.hold(Key.CONTROL, Key.END);
  await browser.press(Key.ENTER, 'Mine, at the end.');
  await browser.text('not on the site yet');
  await saveElsewhere(PAGE, (words) => words.replace(/^# .*$/m, '# Their heading'));
  await browser.click('Save …');
  await browser.text('has changed on the site since you opened it');
  expect(await on(PAGE)).not.toContain('Mine, at the end.');
  await browser.click('Compare …');
  await browser.text('The two changes touch different lines');
  await browser.inDialog('Keep both changes');
  await browser.click('Save …');
  await session.applyPlan('Save document');
  const now = await on(PAGE);
  expect(now).toContain('# Their heading');
  expect(now).toContain('Mine, at the end.');
});

test('words are found and replaced, in running text and in lines', async () => {
  await edit(PAGE);
  await text(PAGE);
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
  await browser.click('Save …');
  await session.applyPlan('Save document');
  expect((await on(PAGE)).toLowerCase()).toBe(was.toLowerCase().replaceAll('red', 'dim'));

  await edit(TABLE);
  await browser.click('Edit as text');
  await text(TABLE);
  await browser.click('Find …');
  await browser.fill('Words in this document', 'april');
  await browser.text('line 4');
  await browser.press(Key.ENTER);
  await browser.text('line 6');
  await browser.fill('Replace with', 'May');
  const before = await on(TABLE);
  await browser.button('Replace').then((one) => one.click());
  await browser.text('1 of 1, line 4');
  await browser.click('Save …');
  await session.applyPlan('Save document');
  expect(await on(TABLE)).toBe(before.replace(/April(?!.*April)/s, 'May'));
});

test('the editor can be used with keys and read by screen readers', async () => {
  await edit(PAGE);
  await text(PAGE);
  expect(await session.faultsOfAccess()).toEqual([]);
});
