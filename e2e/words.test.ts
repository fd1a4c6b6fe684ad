import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { strFromU8, unzipSync } from 'fflate';
import { By, Key } from 'selenium-webdriver';
import { beforeAll, expect, test } from 'vitest';
import { wordAsText } from '../core/word/read-word.ts';
import { treeOf } from '../server/test/site.ts';
import type { Browser } from './browser.ts';
import { DocumentsSession } from './documents-session.ts';

/** Word-processor documents are edited where they lie: what nobody touches keeps its bytes. */
const session = new DocumentsSession('words');
let browser: Browser;
beforeAll(() => {
  ({ browser } = session);
});

const PATH = 'documents/booking-form.docx';
const on = async () => new Uint8Array(await readFile(join(session.root, PATH)));
const main = (bytes: Uint8Array) => strFromU8(unzipSync(bytes)['word/document.xml']!);

test('a date is corrected by find and replace: nothing else of the file changes; versions; undo', async () => {
  const before = await treeOf(session.root);
  const was = await on();
  await session.go('/library?q=booking-form');
  await browser.click('booking-form.docx');
  await browser.click('Edit text');
  await session.inEditor(PATH);
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.hold(Key.CONTROL, 'f');
  await browser.fill('Words in this document', 'October to March');
  await browser.text('1 of 1');
  await browser.fill('Replace with', 'September to April');
  await browser.click('Replace all');
  await browser.text('not on the site yet');
  expect(await on()).toEqual(was);
  await browser.click('Save …');
  await browser.text('held from September to April, on weekdays');
  await browser.fill('Note', 'New season');
  await session.applyPlan('Save document');
  await browser.text('1 line changed');
  await browser.text('New season');
  // The words keep their look, and all else of the file is as it was.
  expect(main(await on())).toBe(main(was).replace('October to March', 'September to April'));
  await browser.click('Show what changed');
  await browser.see(By.css('[role=dialog] ins'), 'the line as it is now', /September to April/);
  await browser.press(Key.ESCAPE);
  await session.alone();
  await session.undo('Edit “booking-form.docx”');
  await browser.gone('September to April');
  expect(await treeOf(session.root)).toEqual(before);
});

test('headings, lists, a row of the table and an image of the library with its alt text; kept across a reload', async () => {
  await session.edit(PATH);
  await session.atTheEnd(PATH);
  await session.writeList();
  await browser.clickAt(By.css('.ProseMirror img[data-src]'), 'the image in the text');
  await browser.click('Alt text …');
  await browser.fill('What the image shows', 'The dome in snow');
  await browser.inDialog('Set alt text');
  await session.alone();
  await browser.clickAt(
    By.xpath("//*[contains(@class, 'ProseMirror')]//td[contains(., 'A second choice')]"),
    'a cell',
  );
  await browser.click('Add row');
  await browser.press(Key.TAB, Key.TAB, 'Telephone');
  await browser.until('the draft is kept', async () => {
    return (await session.opened(PATH)).mine?.text.includes('Telephone') ?? false;
  });
  await session.edit(PATH);
  await browser.text('a blanket');
  await browser.text('Telephone');
  await browser.click('Save …');
  await session.applyPlan('Save document');
  await browser.text('added');
  const now = await on();
  expect(wordAsText(now)).toMatch(
    /A second choice \| \nTelephone \| \nBefore you come\n[^]*What to bring\na red torch\na blanket\n\[image: The dome in snow\]\n$/,
  );
  expect(main(now)).toMatch(/<w:pStyle w:val="Heading2"\/><\/w:pPr><w:r><w:t[^>]*>What to bring/);
  const parts = unzipSync(now);
  expect(Buffer.from(parts['word/media/added1.jpg']!)).toEqual(
    await readFile(join(session.root, 'images/dome/dome-snow.jpg')),
  );
});

test('a new text is begun with its title, written, and saved', async () => {
  await session.go('/intake');
  await browser.click('New document …');
  await browser.fill('Title', 'Leaflet for winter');
  await browser.fill('Folder of the document', 'documents');
  await browser.inDialog('Create');
  await browser.text('leaflet-for-winter.docx');
  await browser.click('Bring in 1 item');
  await browser.text('Last import');
  await session.edit('documents/leaflet-for-winter.docx');
  await (await browser.see(By.css('.ProseMirror'), 'the text', /Leaflet for winter/)).click();
  await browser.hold(Key.CONTROL, Key.END);
  await browser.press('Doors open at 19:00.');
  await browser.text('not on the site yet');
  await browser.click('Save …');
  await session.applyPlan('Save document');
  await browser.text('1 line changed');
  const bytes = new Uint8Array(await readFile(join(session.root, 'documents/leaflet-for-winter.docx')));
  expect(wordAsText(bytes)).toBe('Leaflet for winter\nDoors open at 19:00.\n');
});
