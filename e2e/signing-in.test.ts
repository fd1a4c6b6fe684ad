import type { Server } from 'node:http';
import { mkdtemp, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { generateSync } from 'otplib';
import { Key } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { ACCOUNT_GROUPS, ACCOUNTS_NAME, serveAccounts } from '../demo/accounts.ts';
import { By, type Browser } from './browser.ts';
import { freePort } from './server.ts';
import { Session } from './session.ts';

/** Coming in with more than a password, and without one: a second factor, and the organisation's provider. */
const PASSWORD = 'peat tea at nine';
const setting = { clientId: 'iconomos', clientSecret: 'between the two of them' };
let issuer = '';
let accounts: Server | undefined;
const session = new Session('signing-in', async () => {
  // Its address stands in what it says, so its port is chosen before it starts.
  issuer = `http://127.0.0.1:${await freePort()}`;
  const file = join(await mkdtemp(join(tmpdir(), 'iconomos-provider-')), 'provider.json');
  await writeFile(file, JSON.stringify({ name: ACCOUNTS_NAME, issuer, ...setting, groups: ACCOUNT_GROUPS }));
  return ['--asked', '--provider', file];
});
let browser: Browser;
beforeAll(() => {
  ({ browser } = session);
});
afterAll(() => {
  accounts?.closeAllConnections();
  accounts?.close();
});

async function signIn(): Promise<void> {
  await browser.fill('Name', 'Ottilie Marrow');
  await browser.fill('Password', PASSWORD);
  await browser.press(Key.ENTER);
}
async function signOut(): Promise<void> {
  await browser.click('Signed in as');
  await browser.click('Sign out');
  await browser.text(`Sign in with ${ACCOUNTS_NAME}`);
}
let secret = '';
let codes: string[] = [];
/** Codes work once: the next one is waited for where one of this half minute was used. */
let lastStep = 0;
async function code(): Promise<string> {
  const step = () => Math.floor(Date.now() / 30_000);
  if (step() <= lastStep) await browser.driver.sleep((lastStep + 1) * 30_000 - Date.now() + 500);
  lastStep = step();
  return generateSync({ secret });
}

test('a second factor is set up with the password and a code; its recovery codes are told once', async () => {
  await session.go(/(\/welcome#\S+)/.exec(session.server.said())![1]!);
  await browser.fill('Your name', 'Ottilie Marrow');
  await browser.fill('Password, at least 12 characters', PASSWORD);
  await browser.fill('The same password again', PASSWORD);
  await browser.click('Set the password');
  await browser.text('Ottilie Marrow, steward');
  await session.go('/account');
  const part = () => browser.see(By.css('section[aria-label="Second factor"]'), 'the second factor');
  const password = async (typed: string) =>
    (await (await part()).findElement(By.css('input[type="password"]'))).sendKeys(typed);
  await password('not the password');
  await browser.click('Set up a second factor');
  await browser.text('The current password is wrong.');
  await password(PASSWORD);
  await browser.click('Set up a second factor');
  const key = await browser.see(By.css('.key'), 'the key');
  secret = (await key.getText()).replace(/\s/g, '');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.fill('Code that the app shows', '000000');
  await browser.click('Turn on');
  await browser.text('This code doesn’t fit.');
  await browser.fill('Code that the app shows', await code());
  await browser.click('Turn on');
  codes = (await (await browser.see(By.css('.codes'), 'the codes')).getText()).split('\n');
  expect(codes).toHaveLength(10);
  await browser.text('10 recovery codes are left.');
  expect(await session.faultsOfAccess()).toEqual([]);
  await signOut();
});

test('the password alone lets nobody in; a recovery code does, once', async () => {
  await signIn();
  await browser.text('Code of your authenticator app, or a recovery code');
  expect(await session.faultsOfAccess()).toEqual([]);
  // The keyboard is there already.
  await browser.driver.switchTo().activeElement().sendKeys('000000', Key.ENTER);
  await browser.text('This code is wrong, or was used already.');
  await browser.fill('Code of your authenticator app, or a recovery code', codes[0]!);
  await browser.press(Key.ENTER);
  await browser.text('Ottilie Marrow, steward');
  await signOut();
  await signIn();
  await browser.fill('Code of your authenticator app, or a recovery code', codes[0]!);
  await browser.press(Key.ENTER);
  await browser.text('This code is wrong, or was used already.');
  await browser.fill('Code of your authenticator app, or a recovery code', await code());
  await browser.press(Key.ENTER);
  await browser.text('Ottilie Marrow, steward');
  await session.go('/people');
  await browser.text('Ottilie Marrow used a recovery code, 9 left');
  await browser.text('Ottilie Marrow was refused: wrong code');
  await signOut();
}, 90_000);

test('a provider that is away is told, and the way by password stays', async () => {
  await browser.click(`Sign in with ${ACCOUNTS_NAME}`);
  await browser.text(`${ACCOUNTS_NAME} can’t be reached, or gives no proper answer.`);
  await browser.field('Password');
});

test('who is in a group of the provider that may come in does, to where they wanted to go', async () => {
  const redirectUris = [`${session.server.address}/sign-in/back`];
  const provider = serveAccounts({ ...setting, issuer, redirectUris });
  accounts = provider;
  await new Promise<void>((done) => provider.listen(Number(new URL(issuer).port), '127.0.0.1', done));
  await session.go('/ledger');
  // For some seconds it isn’t asked again.
  await browser.driver.sleep(5500);
  await browser.click(`Sign in with ${ACCOUNTS_NAME}`);
  await browser.click('Sefa Quarrie');
  await browser.text('Sefa Quarrie, contributor');
  const address = () => browser.driver.getCurrentUrl();
  expect(await address()).toBe(`${session.server.address}/ledger`);
  // That they came is a change like any other.
  await browser.text('Add Sefa Quarrie as a contributor');
  await session.go('/account');
  await browser.text('Your groups there give your role here.');
  expect(await browser.screen()).not.toContain('Change your password');
  expect(await session.faultsOfAccess()).toEqual([]);
  await signOut();
});

test('who has a password connects their account there, and then comes in either way', async () => {
  await signIn();
  await browser.fill('Code of your authenticator app, or a recovery code', codes[1]!);
  await browser.press(Key.ENTER);
  await browser.text('Ottilie Marrow, steward');
  await session.go('/account');
  const part = await browser.see(By.css(`section[aria-label="${ACCOUNTS_NAME}"]`), 'the account there');
  await (await part.findElement(By.css('input[type="password"]'))).sendKeys(PASSWORD);
  await browser.click('Connect your account there');
  await browser.click('Ottil Brandreth');
  await browser.text(`You can sign in with ${ACCOUNTS_NAME}.`);
  await signOut();
  await browser.click(`Sign in with ${ACCOUNTS_NAME}`);
  await browser.click('Ottil Brandreth');
  // The groups there say editor; but she is the only one who answers for all.
  await browser.text('Ottilie Marrow, steward');
  await signOut();
});

test('who is in none reads why, and nothing of the answer stays in the address', async () => {
  await browser.click(`Sign in with ${ACCOUNTS_NAME}`);
  await browser.click('Perrin Lask');
  await browser.text(`None of your groups at ${ACCOUNTS_NAME} may come in here.`);
  expect(await browser.driver.getCurrentUrl()).toBe(`${session.server.address}/sign-in/back`);
  expect(await session.faultsOfAccess()).toEqual([]);
  // Once more with the same answer: it works no more.
  await browser.driver.navigate().refresh();
  await browser.text('This sign-in was begun elsewhere, or too long ago.');
});
