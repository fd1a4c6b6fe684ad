import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { By, Key } from 'selenium-webdriver';
import { beforeAll, expect, test } from 'vitest';
import type { Browser } from './browser.ts';
import { Session } from './session.ts';

/** A PDF of a document, beside it, made anew when the document has changed. */
const session = new Session('pdf');
let browser: Browser;
beforeAll(() => {
  ({ browser } = session);
});

const PATH = 'documents/booking-form.docx';
const pdf = () => readFile(join(session.root, 'documents/booking-form.pdf'));

test('a leaflet’s date is corrected, and its PDF made and made anew; read in place', async () => {
  await session.go('/library?q=booking-form');
  await browser.click('booking-form.docx');
  await browser.click('Make PDF …');
  await browser.text('Make “booking-form.pdf” from “booking-form.docx”');
  await session.applyPlan('Save PDF', 'Make “booking-form.pdf”');
  const first = await pdf();
  expect(first.subarray(0, 5).toString()).toBe('%PDF-');
  await browser.text('is up to date.');
  expect(await session.faultsOfAccess()).toEqual([]);

  await browser.click('Edit text');
  await browser.see(By.css(`[aria-label="Text of ${PATH}"]`), 'the text');
  await browser.hold(Key.CONTROL, 'f');
  await browser.fill('Words in this document', 'October to March');
  await browser.text('1 of 1');
  await browser.fill('Replace with', 'September to April');
  await browser.click('Replace all');
  await browser.press(Key.ESCAPE);
  await browser.click('Save …');
  await session.applyPlan('Save document');
  await browser.text('was made from an earlier version.');
  expect(await pdf()).toEqual(first);
  await browser.click('Remake PDF …');
  await session.applyPlan('Save PDF', 'Remake “booking-form.pdf”');
  await browser.text('is up to date.');
  expect(await pdf()).not.toEqual(first);

  await session.go('/library?q=booking-form.pdf');
  await browser.click('booking-form.pdf');
  await browser.text('Made from');
  await browser.click('Read');
  await browser.see(By.css('.textLayer'), 'the page', /September to April/);
  await browser.press(Key.ESCAPE);
  await session.alone();
});
