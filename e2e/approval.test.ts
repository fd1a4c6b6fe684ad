import { readdir, readFile, stat } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { beforeAll, expect, test } from 'vitest';
import { wordAsText } from '../core/word/read-word.ts';
import { besideSite } from '../server/files/data-folder.ts';
import { painted } from '../server/test/media.ts';
import { treeOf } from '../server/test/site.ts';
import { By, type Browser } from './browser.ts';
import { Session } from './session.ts';

/** What one brings in or proposes, another looks at: drafts, approval, comments. */
const session = new Session('approval');
let browser: Browser;
let root: string;
beforeAll(async () => {
  ({ browser, root } = session);
  const { address } = session.server;
  for (const [name, role] of [
    ['Ines Cobbledale', 'contributor'],
    ['Piet Larkspur', 'reader'],
  ]) {
    const invited = await fetch(`${address}/api/people`, {
      method: 'POST',
      headers: { Origin: address, 'Content-Type': 'application/json' },
      body: JSON.stringify({ name, role }),
    });
    expect(invited.status).toBe(200);
  }
});

/** In the demo anybody may work as anybody, in two clicks. */
async function workAs(name: string, role: string): Promise<void> {
  // The window is loaded anew for them; what it tells of them before that is not yet theirs.
  await browser.driver.executeScript('window.ofBefore = true');
  await browser.click('Signed in as');
  await browser.click(`Work as ${name}`);
  const anew = () => browser.driver.executeScript<boolean>('return window.ofBefore === undefined');
  await browser.driver.wait(() => anew().catch(() => false), 30_000, 'the window of another person');
  await browser.text(`${name}, ${role}`);
}
const note = (text: string, label: string) => browser.fill(label, text);

test('a contributor brings in a draft; an editor sends it back with a reason, it is mended, and published', async () => {
  const before = await treeOf(root);
  const file = await session.put(
    'Night Kite.png',
    await sharp(await painted(81, 900, 600))
      .png()
      .toBuffer(),
  );
  await session.go('/intake');
  await workAs('Ines Cobbledale', 'contributor');
  await browser.text('What you bring in becomes a draft.');
  await session.drop(file);
  await browser.text('900 × 600 px');
  await browser.click('Bring in 1 draft');
  await browser.text('as a draft');
  await browser.text('No files waiting');
  expect(await treeOf(root)).toEqual(before);

  await session.go('/library');
  await browser.click('Drafts');
  await browser.click('night-kite.png');
  await browser.text('draft, not on the site yet');
  // What stands lower in the record scrolls in it, and nothing around it does.
  const scrolls = await browser.driver.executeScript<boolean[]>(
    "return [...document.querySelectorAll('.el-splitter-panel')].map((one) => one.scrollHeight > one.clientHeight)",
  );
  expect(scrolls.length).toBeGreaterThan(0);
  expect(scrolls).not.toContain(true);
  expect(await session.faultsOfAccess()).toEqual([]);
  // It is prepared before anybody publishes it.
  await browser.click('Edit image');
  await browser.text('Original 900 × 600 px');
  await browser.choose('Ratio', '1:1 (square)');
  await browser.text('Saved 600 × 600 px');
  await browser.click('Save …');
  await session.applyPlan('Save image', 'Edit the draft “night-kite.png”');
  await browser.text('600 × 600');
  expect(await treeOf(root)).toEqual(before);
  await browser.click('Propose to publish');
  await browser.text('As a contributor you can propose this. Then an editor or a steward approves it.');
  expect(await session.faultsOfAccess()).toEqual([]);
  await note('For the kite festival.', 'Note for those who approve');
  await browser.inDialog('Propose');
  await browser.text('Proposed. Publish “night-kite.png”. It waits for approval.');
  await browser.text('Waits for approval, proposed by Ines Cobbledale');
  expect(await treeOf(root)).toEqual(before);

  await workAs('Ben Thistlewick', 'editor');
  await session.go('/mine');
  await browser.text('Waits for your approval');
  await browser.text('For the kite festival.');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.click('Review: Publish “night-kite.png”');
  await browser.text('Proposed by Ines Cobbledale');
  await note('It has no alt text yet.', 'Note for Ines Cobbledale');
  await browser.inDialog('Send back');
  await browser.gone('Waits for your approval');
  expect(await treeOf(root)).toEqual(before);

  await workAs('Ines Cobbledale', 'contributor');
  await session.go('/mine');
  await browser.text('sent back by Ben Thistlewick');
  await browser.text('It has no alt text yet.');
  await (await browser.see(By.xpath("//a[normalize-space(.)='night-kite.png']"), 'the item')).click();
  await browser.fill('Alt text', 'A kite in the night sky');
  await browser.press(Key.TAB);
  await browser.text('Saved');
  await session.go('/mine');
  await browser.click('Review: Publish “night-kite.png”');
  await browser.text('Sent back by Ben Thistlewick');
  await browser.inDialog('Propose again');
  await browser.text('waits for approval');

  await workAs('Ben Thistlewick', 'editor');
  await session.go('/mine');
  await browser.click('Review: Publish “night-kite.png”');
  await browser.text('Proposed by Ines Cobbledale');
  // Who approves sees the image and what stands for it.
  await browser.text('A kite in the night sky');
  await browser.driver.wait(
    () =>
      browser.driver.executeScript<boolean>(
        "return document.querySelector('[role=dialog] .pictures img')?.naturalWidth > 0",
      ),
    10_000,
  );
  expect(await session.faultsOfAccess()).toEqual([]);
  await session.applyPlan('Publish 1 item', 'Publish “night-kite.png”');
  const added = Object.keys(await treeOf(root)).filter((path) => !(path in before));
  expect(added).toEqual(['night-kite.png']);
  await session.go('/ledger');
  await browser.text('Approved by Ben Thistlewick');
  await session.go('/library?where=name:night-kite');
  await browser.click('night-kite.png');
  expect(await (await browser.field('Alt text')).getAttribute('value')).toBe('A kite in the night sky');
});

test('forty new names are proposed by one and approved by another; pages follow', async () => {
  const before = await treeOf(root);
  await session.go('/ledger');
  await browser.driver.executeScript('sessionStorage.clear()');
  await session.go('/library?where=kind:image&sort=path');
  await browser.click('Add all to tray');
  await browser.text('in the tray');
  await browser.press('n');
  await browser.text('Proof');
  await browser.click('Add part');
  await (await browser.see(By.xpath("//button[normalize-space(.)='Text']"), 'the part Text')).click();
  await browser.fill('Text', 'Corvane');
  await browser.text('-corvane');
  const changing = Number(/(\d+) names will change/.exec(await browser.screen())![1]);
  expect(changing).toBeGreaterThanOrEqual(40);
  await browser.click(`Review ${changing} new names`);
  await browser.text('References updated on');
  await browser.inDialog('Propose');
  await browser.text('It waits for approval.');
  expect(await treeOf(root)).toEqual(before);
  // Whoever made it does not approve it.
  await session.go('/mine');
  await browser.text('waits for approval');
  expect(await browser.screen()).not.toContain('Waits for your approval');

  await workAs('Ottilie Marrow', 'steward');
  await session.go('/mine');
  await browser.click('Review: Change the addresses');
  await browser.text('Proposed by Ben Thistlewick');
  await browser.text('References updated on');
  await session.applyPlan('Rename', 'Change the addresses');
  const names = await readdir(join(root, 'images', 'dome'));
  expect(names.filter((name) => name.includes('-corvane.')).length).toBeGreaterThan(3);
  const page = await readFile(join(root, 'index.html'), 'utf8');
  expect(page).toContain('-corvane.');
  await session.go('/ledger');
  await browser.text('Approved by Ottilie Marrow');
});

test('a contributor begins a document: it is written as a draft, proposed, and then published', async () => {
  const before = await treeOf(root);
  await session.go('/intake');
  await workAs('Ines Cobbledale', 'contributor');
  await browser.click('New document …');
  await browser.fill('Title', 'Kite rules');
  await browser.fill('Folder of the document', 'documents');
  await browser.inDialog('Create');
  await browser.text('kite-rules.docx');
  await browser.click('Bring in 1 draft');
  await browser.text('as a draft');
  await session.go('/library?state=draft');
  await browser.click('kite-rules.docx');
  await browser.click('Edit text');
  await (await browser.see(By.css('.ProseMirror'), 'the text', /Kite rules/)).click();
  await browser.hold(Key.CONTROL, Key.END);
  await browser.press('Kites stay below the dome.');
  await browser.text('not saved yet');
  await browser.click('Save …');
  await session.applyPlan('Save document', 'Edit the draft “kite-rules.docx”');
  await browser.gone('not saved yet');
  expect(await treeOf(root)).toEqual(before);

  await workAs('Ben Thistlewick', 'editor');
  await session.go('/library?state=draft');
  await browser.click('kite-rules.docx');
  await browser.click('Publish …');
  await session.applyPlan('Publish');
  const bytes = new Uint8Array(await readFile(join(root, 'documents/kite-rules.docx')));
  expect(wordAsText(bytes)).toBe('Kite rules\nKites stay below the dome.\n');
  await workAs('Ottilie Marrow', 'steward');
});

test('a comment calls somebody by name: they find it among theirs, and its author takes it away again', async () => {
  await session.go('/library?folder=images/press');
  await (await browser.see(By.css('[data-item]'), 'an item')).click();
  await browser.text('Comments');
  await browser.fill('Comment', 'Who took this, @Ines Cobbledale?');
  await (await browser.see(By.xpath("//form//button[normalize-space(.)='Comment']"), 'the button')).click();
  await browser.text('Who took this, @Ines Cobbledale?');
  await workAs('Ines Cobbledale', 'contributor');
  await session.go('/mine');
  await browser.text('Comments for you');
  await browser.text('Who took this, @Ines Cobbledale?');
  expect(await session.faultsOfAccess()).toEqual([]);
  await workAs('Ottilie Marrow', 'steward');
  await session.go('/library?folder=images/press');
  await (await browser.see(By.css('[data-item]'), 'an item')).click();
  await browser.text('Who took this, @Ines Cobbledale?');
  await browser.click('Delete the comment of Ottilie Marrow');
  await browser.gone('Who took this, @Ines Cobbledale?');
});

test('what is taken back to the drafts is off the site; a reader does not get to see it', async () => {
  const before = await treeOf(root);
  await session.go('/library?where=use:unused,kind:image');
  const item = await browser.see(By.css('[data-item]'), 'an item');
  await item.click();
  await browser.text('unused');
  await browser.press(Key.SPACE);
  await browser.text('in the tray');
  await browser.click('More …');
  await browser.click('Return to drafts');
  await session.applyPlan('Return 1 item to draft', 'Return');
  const after = await treeOf(root);
  const gone = Object.keys(before).filter((path) => !(path in after) && !path.endsWith('/'));
  expect(gone).toHaveLength(1);
  await session.go('/library?state=draft');
  await browser.text(basename(gone[0]!));
  await workAs('Piet Larkspur', 'reader');
  await session.go('/library');
  await browser.text('All items');
  expect(await browser.screen()).not.toContain('Drafts');
  await session.go('/library?state=draft');
  await browser.text('0 items');
});

test('the web server can read all of the site; of the data folder nobody but the server’s user reads anything', async () => {
  await session.go('/library');
  await workAs('Ben Thistlewick', 'editor');
  const ask = (path: string, body?: object) =>
    browser.driver.executeAsyncScript<{ id: string; items: { id: number }[] }>(
      `const [path, body, done] = arguments;
       fetch(path, body ? { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) } : {})
         .then((answer) => answer.json()).then(done);`,
      path,
      body,
    );
  const { items } = await ask('/api/items?where=kind:image&limit=1');
  const plan = await ask('/api/plans', { kind: 'move', itemIds: [items[0]!.id], folder: 'new-here/deep' });
  await ask(`/api/plans/${plan.id}/apply`, {});
  const rights = async (folder: string) => {
    const all = await readdir(folder, { recursive: true, withFileTypes: true });
    const some = all.map(async (one) => {
      const path = join(one.parentPath, one.name);
      const { mode } = await stat(path);
      return { path, folder: one.isDirectory(), mode: mode & 0o777 };
    });
    return Promise.all(some);
  };
  const site = await rights(root);
  expect(site.filter(({ path }) => path.includes('new-here'))).toHaveLength(3);
  expect(
    site.filter(({ folder, mode }) => (folder ? mode & 0o055 : mode & 0o044) !== (folder ? 0o055 : 0o044)),
  ).toEqual([]);
  const data = await rights(besideSite(root));
  expect(data.length).toBeGreaterThan(50);
  expect(data.filter(({ mode }) => (mode & 0o077) !== 0)).toEqual([]);
});

test('what somebody leaves behind is handed on by a change of the ledger', async () => {
  await session.go('/library');
  await workAs('Ines Cobbledale', 'contributor');
  // She proposes another name, and is asked no more.
  const status = await browser.driver.executeAsyncScript<number>(`(async (done) => {
    const ask = (path, body) => fetch('/api' + path, { method: 'POST', body: JSON.stringify(body),
      headers: { 'Content-Type': 'application/json' } });
    const { items } = await (await fetch('/api/items?where=use:placed,kind:image')).json();
    const one = items.find((item) => item.state === 'here');
    const names = [{ itemId: one.id, name: one.name.replace('.', '-anew.') }];
    const plan = await (await ask('/plans', { kind: 'names', names })).json();
    done((await ask('/plans/' + plan.id + '/submit', { note: '' })).status);
  })(arguments[arguments.length - 1])`);
  expect(status).toBe(200);
  await workAs('Ottilie Marrow', 'steward');
  await session.go('/people');
  await browser.click('End access of Ines Cobbledale');
  await browser.click('Hand on what Ines Cobbledale had');
  await browser.text('1 open proposal');
  await browser.choose('Who takes over', 'Ben Thistlewick');
  await browser.inDialog('Hand on');
  await browser.text('Hand on what Ines Cobbledale had to Ben Thistlewick');
  await browser.text('Author of proposal');
  await session.applyPlan('Apply');
  await session.go('/ledger');
  await browser.text('Hand on what Ines Cobbledale had to Ben Thistlewick');
  await workAs('Ben Thistlewick', 'editor');
  await session.go('/mine');
  await browser.text('waits for approval');
});
