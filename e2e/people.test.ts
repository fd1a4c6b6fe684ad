import { existsSync } from 'node:fs';
import { mkdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import { beforeAll, expect, test } from 'vitest';
import { besideSite } from '../server/files/data-folder.ts';
import { Browser as Another, By, type Browser } from './browser.ts';
import { RunningServer } from './server.ts';
import { Session } from './session.ts';

/** Nobody is anybody without signing in: the first link, the steward's invitations, what each role sees. */
const session = new Session('people', () => Promise.resolve(['--asked']));
let browser: Browser;
beforeAll(() => {
  ({ browser } = session);
});
const PASSWORD = 'peat tea at nine';
const address = async () => (await browser.driver.getCurrentUrl()).replace(session.server.address, '');
const at = (path: string) => browser.driver.wait(async () => (await address()) === path, 10_000, path);
async function signIn(name: string, password = PASSWORD): Promise<void> {
  await browser.fill('Name', name);
  await browser.fill('Password', password);
  await browser.press(Key.ENTER);
}
async function signOut(): Promise<void> {
  await browser.click('Signed in as');
  await browser.click('Sign out');
  await browser.text('Sign in');
}
/** With another browser, in which the steward looks at the people. */
async function withSteward(work: (second: Browser) => Promise<void>): Promise<void> {
  const second = await Another.start();
  try {
    await second.open(`${session.server.address}/people`);
    await second.fill('Name', 'Ottilie Marrow');
    await second.fill('Password', PASSWORD);
    await second.press(Key.ENTER);
    await second.text('People and access');
    await work(second);
  } finally {
    await second.stop();
  }
}
/** Asked by the window itself, with all that its person has. */
const asked = (method: string, path: string, body: unknown) =>
  browser.driver.executeAsyncScript<{ status: number; text: string }>(
    `const [method, path, body, done] = arguments;
     fetch(path, { method, headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })
       .then(async (answer) => done({ status: answer.status, text: await answer.text() }));`,
    method,
    path,
    body,
  );

let invitation = '';

test('the printed link makes the first steward; it lies where only the server’s user reads it, and works once', async () => {
  const link = /(\/welcome#\S+)/.exec(session.server.said())![1]!;
  const kept = join(besideSite(session.root), 'first-link.txt');
  expect((await stat(kept)).mode & 0o777).toBe(0o600);
  await session.go('/library');
  await at('/sign-in?back=/library');
  await browser.text('Nobody has set a password yet.');
  await session.go(link);
  await browser.text('You come in as a steward.');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.fill('Your name', 'Ottilie Marrow');
  await browser.fill('Password, at least 12 characters', 'aaaaaaaaaaaa');
  await browser.fill('The same password again', 'aaaaaaaaaaaa');
  await browser.click('Set the password');
  await browser.text('Many people use this password');
  await browser.fill('Password, at least 12 characters', PASSWORD);
  await browser.fill('The same password again', `${PASSWORD}!`);
  await browser.click('Set the password');
  await browser.text('The two passwords differ.');
  await browser.fill('The same password again', PASSWORD);
  await browser.click('Set the password');
  await browser.text('Ottilie Marrow, steward');
  await browser.driver.wait(() => Promise.resolve(!existsSync(kept)), 5000, 'the kept link to be gone');
  await session.go(link);
  await browser.text('This link doesn’t work any more');
});

test('the steward invites somebody by a link that is shown once', async () => {
  await session.go('/people');
  await browser.text('People and access');
  expect(await session.faultsOfAccess()).toEqual([]);
  const form = await browser.see(By.css('main form'), 'the form');
  await (await form.findElement(By.css('input'))).sendKeys('Ines Cobbledale');
  await browser.click('Make a link');
  await browser.text('A link to hand on');
  invitation = /\/welcome#\S+/.exec(await (await browser.see(By.css('p.link'), 'the link')).getText())![0];
  await browser.press(Key.ESCAPE);
  await session.alone();
  await browser.text('Ottilie Marrow made a link for Ines Cobbledale');
  await browser.text('has no password yet');
  expect(await browser.screen()).not.toContain(invitation);
  await signOut();
  await session.go('/people');
  await at('/sign-in?back=/people');
});

test('a wrong password is told without saying what was wrong; the right one leads to where one wanted to go', async () => {
  expect(await session.faultsOfAccess()).toEqual([]);
  await signIn('Ottilie Marrow', 'not the password');
  await browser.text('The name or the password is wrong.');
  await signIn('Nobody at all', 'not the password');
  await browser.text('The name or the password is wrong.');
  await signIn('ottilie marrow');
  await at('/people');
  await browser.text('Ottilie Marrow was refused: wrong name or password');
  await browser.text('Somebody with an unknown name was refused');
  await signOut();
});

test('a contributor sees what contributors do, and is refused the rest by the server too', async () => {
  await session.go(invitation);
  await browser.text('You come in as a contributor.');
  await browser.fill('Password, at least 12 characters', PASSWORD);
  await browser.fill('The same password again', PASSWORD);
  await browser.click('Set the password');
  await browser.text('Ines Cobbledale, contributor');
  const rail = await (await browser.see(By.css('nav[aria-label="Sections"]'), 'the rail')).getText();
  expect(rail).toContain('Intake');
  expect(rail).not.toContain('Upkeep');
  await browser.click('Signed in as');
  await browser.text('Your account');
  expect(await browser.screen()).not.toContain('People and access');
  await browser.press(Key.ESCAPE);
  const answer = await asked('POST', '/api/plans', { kind: 'rule', folder: 'x', rule: null });
  expect(answer.status).toBe(403);
  expect(answer.text).toContain(
    'As a contributor you can’t do this: set rules, patterns, fields and the layout of the site.',
  );
  expect(answer.text).toContain('Ask a steward.');
});

test('what changes for somebody shows in their open window; whose access ends sees the door', async () => {
  await withSteward(async (second) => {
    await second.choose('Role of Ines Cobbledale', 'editor');
    await browser.text('Ines Cobbledale, editor');
    await browser.text('Upkeep');
    await second.click('End access of Ines Cobbledale');
    await browser.text('Sign in');
    await second.text('Ottilie Marrow ended the access of Ines Cobbledale');
    // Nobody would be left.
    await second.click('End access of Ottilie Marrow');
    await second.text('Nobody would be left who can invite people');
    await second.click('Bring Ines Cobbledale back');
    await second.choose('Role of Ines Cobbledale', 'reader');
    await second.text('from editor to reader');
  });
});

test('another password ends the sessions elsewhere', async () => {
  await session.go('/account');
  await signIn('Ines Cobbledale');
  await browser.text('Where you are signed in');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.fill('Current password', PASSWORD);
  await browser.fill('New password, at least 12 characters', 'bramble juice at ten');
  await browser.click('Change password');
  await browser.text('Your password is changed.');
  await signOut();
  await signIn('Ines Cobbledale');
  await browser.text('The name or the password is wrong.');
  await signIn('Ines Cobbledale', 'bramble juice at ten');
  await browser.text('Ines Cobbledale, reader');
});

test('rights end at the folders that a steward names; elsewhere one proposes', async () => {
  await withSteward(async (second) => {
    await second.choose('Role of Ines Cobbledale', 'editor');
    await second.text('Make Ines Cobbledale an editor');
    await browser.text('Ines Cobbledale, editor');
    await (
      await second.see(By.css('[aria-label="Folders of Ines Cobbledale: whole site"]'), 'the folders')
    ).click();
    await (
      await second.see(By.css('.app-tags input'), 'the field')
    ).sendKeys('images/moon', Key.ENTER, Key.TAB);
    await second.inDialog('Save');
    await second.text('Ottilie Marrow narrowed the rights of Ines Cobbledale to images/moon');
    await session.go('/library?folder=images/dome&where=name:dome-dusk');
    await browser.click('dome-dusk.jpg');
    await browser.text('You work in images/moon only. Other changes you can propose.');
    expect(await (await browser.field('Title')).isEnabled()).toBe(false);
    await browser.click('Move or rename');
    await browser.fill('New name', 'dusk');
    await browser.press(Key.ENTER);
    await browser.text('As an editor you can propose this.');
    await browser.text('who works in “images/dome” approves it.');
    expect(await session.faultsOfAccess()).toEqual([]);
    await browser.press(Key.ESCAPE);
    // Undone, they are one of the whole site again, in their open window.
    await second.click('Undo');
    await second.inDialog('Undo');
    await second.text('Ottilie Marrow gave Ines Cobbledale rights on the whole site');
    await browser.gone('You work in images/moon only.');
    await second.choose('Role of Ines Cobbledale', 'reader');
    await browser.text('Ines Cobbledale, reader');
  });
});

test('a reader reads: fields are off and say who may write, acts are not there', async () => {
  await session.go('/library?folder=images/dome&where=name:dome-dusk');
  await browser.click('dome-dusk.jpg');
  await browser.text('Only a contributor, an editor or a steward can change this.');
  expect(await (await browser.field('Title')).isEnabled()).toBe(false);
  expect(await session.faultsOfAccess()).toEqual([]);
  const screen = await browser.screen();
  for (const act of [
    'Move or rename',
    'Replace …',
    'Edit image',
    'New folder',
    'Folder rules',
    'Intake',
    'Upkeep',
    'Add a size',
    'Separate',
    'Restore previous version',
    'Add note',
    'Save search',
  ])
    expect(screen, act).not.toContain(act);
  expect(screen).toContain('Download');
  expect(screen).toContain('can change owner, status and due date.');
  // Its keys do nothing either.
  await browser.driver.executeScript('document.activeElement.blur()');
  await browser.press('b');
  await browser.press('n');
  await browser.driver.sleep(400);
  expect(await address()).toContain('/library');
  expect(await browser.screen()).not.toContain('New name');
  // In the table there is nothing to write in.
  await browser.click('Table');
  await browser.text('Columns');
  expect(await browser.driver.findElements(By.css('.cell button'))).toEqual([]);
  // Broken references are told, not repaired.
  await session.go('/pages');
  await browser.click('About the observatory');
  await browser.text('Likely images/');
  expect(await browser.screen()).not.toMatch(/Repair|Choose an item/);
});

test('a section that is not for a reader says whose it is, also by its address', async () => {
  for (const [path, who] of [
    ['/intake', 'a contributor, an editor or a steward'],
    ['/describe/names', 'a contributor, an editor or a steward'],
    ['/upkeep', 'an editor or a steward'],
    ['/people', 'a steward'],
  ]) {
    await session.go(path!);
    await browser.text(`Only ${who} can open this page.`);
  }
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.click('Go to Library');
  await browser.text('items,');
});

test('beyond this machine it is not served before a password is set, nor where one would cross the network in the clear', async () => {
  await session.server.stop();
  const start = (root: string, ...flags: string[]) =>
    RunningServer.start(root, ['--asked', '--host', '0.0.0.0', ...flags]).then(
      () => 'it started',
      (error: Error) => error.message,
    );
  expect(await start(session.root)).toContain(
    'On 0.0.0.0 passwords would cross the network for anyone to read.',
  );
  const fresh = join(session.folder, 'fresh');
  await mkdir(fresh);
  expect(await start(fresh, '--behind-proxy')).toContain(
    'On 0.0.0.0 anyone could come in before a steward has set a password.',
  );
  expect(await start(fresh, '--demo')).toContain('it is served on this machine only');
});
