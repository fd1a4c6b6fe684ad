import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import { beforeAll, expect, test } from 'vitest';
import { treeOf } from '../server/test/site.ts';
import { By, type Browser } from './browser.ts';
import { Session } from './session.ts';

/** Fields of the site's own, words written into files and beside them, redirects handed out. */
const session = new Session('fields');
let browser: Browser;
let root: string;
beforeAll(() => {
  ({ browser, root } = session);
});

async function ownOf(name: string): Promise<Record<string, string>> {
  const answer = await fetch(`${session.server.address}/api/items?where=name:${name}`);
  const { items } = (await answer.json()) as { items: { words: { own: Record<string, string> } }[] };
  return items[0]!.words.own;
}
async function openRecord(name: string): Promise<void> {
  await session.go('/library?folder=images/dome');
  await browser.click(name);
  await browser.text('Move or rename');
}

test('fields of our own are made, filled in by their kind, kept, and found', async () => {
  await openRecord('dome-dusk.jpg');
  await browser.click('More fields');
  await browser.click('Custom fields');
  for (const [name, kind, choices] of [
    ['Room', 'choice from a list', 'dome, museum, office'],
    ['Checked', 'a day', ''],
    ['Exposure', 'a number', ''],
    ['Box', 'text', ''],
  ] as const) {
    const dialog = "//div[@role='dialog']";
    const at = (label: string, tag: string) =>
      browser.see(By.xpath(`${dialog}//label[contains(., '${label}')]//${tag}`), label);
    await (await at('Name', 'input')).sendKeys(name);
    await browser.choose('Type', kind);
    if (choices) await (await at('Options', 'input')).sendKeys(choices);
    await browser.inDialog('Add field');
    await browser.see(By.xpath(`${dialog}//td[normalize-space(.)='${name}']`), `the field “${name}”`);
  }
  expect(await session.faultsOfAccess()).toEqual([]);
  await (
    await browser.see(By.xpath("//div[@role='dialog']//button[contains(@aria-label, 'lose')]"), 'close')
  ).click();
  await session.alone();
  await browser.choose('Room', 'museum');
  // Day and month are the same: which comes first is the language's own.
  await (await browser.field('Checked')).sendKeys('08082026');
  await (await browser.field('Exposure')).sendKeys('2.5');
  await (await browser.field('Box')).sendKeys('Lantern slides 7');
  await browser.fill('Alt text', 'The dome against an orange evening sky');
  await (await browser.field('Title')).click();
  const wanted = { Room: 'museum', Checked: '2026-08-08', Exposure: '2.5', Box: 'Lantern slides 7' };
  await expect.poll(() => ownOf('dome-dusk.jpg'), { timeout: 10_000 }).toEqual(wanted);
  await session.go('/library?q=lantern+slides');
  await browser.text('1 item');
  await browser.text('dome-dusk.jpg');

  // They are conditions too, with what stands in them.
  await session.go('/library?view=sheet');
  await browser.text('All folders');
  await browser.click('Add filter');
  await browser.click('Custom field');
  await browser.click('Room: museum');
  await browser.text('1 item');
  await browser.text('dome-dusk.jpg');

  // In the table they are columns, written in place and held to their kind.
  await session.go('/library?folder=images/dome&view=table');
  await browser.click('Columns');
  await (
    await browser.see(By.xpath("//label[normalize-space(.)='Exposure']//input"), 'the column Exposure')
  ).click();
  await browser.press(Key.ESCAPE);
  await browser.button('Exposure of dome-dusk.jpg: 2.5');
  await browser.click('Exposure of dome-fog.jpg: empty');
  await browser.press('bright', Key.TAB);
  await browser.text('Exposure needs a number like 12 or 3.5, not “bright”.');
  await browser.click('Exposure of dome-fog.jpg: empty');
  await browser.press('4', Key.TAB);
  await browser.button('Exposure of dome-fog.jpg: 4');
  expect(await ownOf('dome-fog.jpg')).toEqual({ Exposure: '4' });
  expect(await ownOf('dome-dusk.jpg')).toEqual(wanted);
});

test('words are written into the files, and beside them; each undone to the byte', async () => {
  const before = await treeOf(root);
  await session.go('/library?where=name:dome-dusk');
  await browser.text('1 item');
  await browser.click('Add all to tray');
  await browser.text('1 item in the tray');
  await browser.press('i');
  await browser.text('Alt text “The dome against an orange evening sky”');
  await session.applyPlan('Write');
  const changed = Object.entries(await treeOf(root)).filter(([path, hash]) => before[path] !== hash);
  expect(changed.map(([path]) => path).sort()).toEqual([
    'images/dome/dome-dusk-640.jpg',
    'images/dome/dome-dusk.jpg',
  ]);
  const bytes = await readFile(join(root, 'images/dome/dome-dusk.jpg'), 'utf8');
  expect(bytes).toContain('The dome against an orange evening sky');
  await browser.click('Undo');
  await session.applyPlan('Undo');
  expect(await treeOf(root)).toEqual(before);

  await browser.press('x');
  await session.applyPlan('Write');
  const beside = (await readdir(join(root, 'images/dome'))).filter((name) => name.endsWith('.xmp')).sort();
  expect(beside).toEqual(['dome-dusk-640.jpg.xmp', 'dome-dusk.jpg.xmp']);
  expect(await readFile(join(root, 'images/dome', beside[1]!), 'utf8')).toContain(
    'against an orange evening sky',
  );
  await browser.click('Undo');
  await session.applyPlan('Undo');
  expect(await treeOf(root)).toEqual(before);
});

test('the redirects are handed out as rules of a web server', async () => {
  await session.go('/export');
  await browser.text('0 old addresses redirect');
  await openRecord('dome-dusk.jpg');
  await browser.click('Move or rename');
  await browser.fill('New name', 'dome-at-dusk.jpg');
  await browser.click('Review changes');
  await session.applyPlan('Rename');
  await session.go('/export');
  // Its smaller size goes with it.
  await browser.text('2 old addresses redirect');
  await browser.choose('For', 'nginx');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.click('Download rules');
  const file = join(session.folder, 'downloads', 'redirects.nginx.conf');
  await browser.driver.wait(
    async () => (await readdir(join(session.folder, 'downloads'))).includes('redirects.nginx.conf'),
    10_000,
  );
  expect((await readFile(file, 'utf8')).split('\n').sort()).toEqual([
    '',
    'location = "/images/dome/dome-dusk-640.jpg" { return 301 "/images/dome/dome-at-dusk-640.jpg"; }',
    'location = "/images/dome/dome-dusk.jpg" { return 301 "/images/dome/dome-at-dusk.jpg"; }',
  ]);
});
