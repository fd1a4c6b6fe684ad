import { Key } from 'selenium-webdriver';
import { spawn } from 'node:child_process';
import { appendFile, mkdir, readFile, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { builtFile } from '../server/built.ts';
import { smallSite, treeOf } from '../server/test/site.ts';
import { Browser } from './browser.ts';
import { RunningServer } from './server.ts';

/** What a person sees when others interfere: a change that was interrupted, files that others took away or moved. */
let browser: Browser;
let server: RunningServer;
let root: string;

/** Renames an image in a process that is killed when its first page has been written. */
function renameHalfWay(): Promise<void> {
  return new Promise((done, failed) => {
    const child = spawn(process.execPath, [builtFile('crash-driver.js'), root, 'rename', '14']);
    child.on('close', (_code, signal) =>
      signal === 'SIGKILL' ? done() : failed(new Error('it was not killed')),
    );
  });
}

beforeAll(async () => {
  root = await smallSite();
  await renameHalfWay();
  browser = await Browser.start();
});
afterAll(async () => {
  await browser.stop();
  await server.stop();
  await rm(join(root, '..'), { recursive: true, force: true });
});

test('a change that can neither be completed nor taken back is told on every screen; settled, work goes on', async () => {
  const pages = ['index.html', 'css/s.css', 'sub/page.html'];
  const written = [];
  for (const page of pages)
    if ((await readFile(join(root, page), 'utf8')).includes('hill.png')) written.push(page);
  expect(written.length).toBeGreaterThan(0);
  // Somebody writes on in a page that the change had written to already.
  for (const page of written) await appendFile(join(root, page), '\n/* theirs */');
  const tree = await treeOf(root);
  server = await RunningServer.start(root);
  expect(server.said()).toContain('Still not resolved');
  await browser.open(server.address);
  await browser.text('was interrupted');
  await browser.text('was changed by another program');
  await browser.click('Try again');
  await browser.text('was interrupted');
  // Nothing else is changed meanwhile, and the reason is told.
  await browser.open(`${server.address}/library`);
  await browser.click('c.png');
  await browser.fill('Alt text', 'A ridge');
  await browser.press(Key.TAB);
  await browser.text('Nothing can be changed now');
  await browser.open(server.address);
  await browser.click('Leave the files as they are …');
  await browser.text('References to them may be broken.');
  await browser.click('Leave the files as they are');
  await browser.gone('was interrupted');
  for (const page of written) expect(await readFile(join(root, page), 'utf8')).toContain('/* theirs */');
  expect(Object.values(await treeOf(root))).toEqual(expect.arrayContaining([tree['img/b.png']!]));
});

test('files that others take away and move: the record waits in Upkeep, is given to its file, and references follow', async () => {
  await browser.open(`${server.address}/library`);
  await browser.click('b.png');
  await browser.fill('Alt text', 'A bee');
  await browser.press(Key.TAB);
  await browser.text('Saved');
  await mkdir(join(root, 'moved'), { recursive: true });
  await rename(join(root, 'img/b.png'), join(root, 'moved/bee.png'));
  await rename(join(root, 'old/copy-of-b.png'), join(root, 'moved/also.png'));
  await browser.open(`${server.address}/upkeep?queue=missing`);
  await browser.text('have identical content');
  await browser.click('Use “moved/bee.png” as its file …');
  await browser.text('Record of');
  await browser.inDialog('Apply');
  await browser.text('Give “moved/bee.png” the record of “img/b.png”');
  await browser.open(`${server.address}/upkeep?queue=moved`);
  await browser.text('It was moved from “img/b.png”');
  await browser.click('Select all');
  await browser.click('Update references to');
  await browser.inDialog('Repair 8 references');
  await browser.text('Nothing to do here');
  expect(await readFile(join(root, 'index.html'), 'utf8')).toContain("src='moved/bee.png'");
});
