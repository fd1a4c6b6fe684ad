import { Key } from 'selenium-webdriver';
import { beforeAll, expect, test } from 'vitest';
import type { Browser } from './browser.ts';
import { Session } from './session.ts';

/** What is typed is never lost: not by a reload, not without a connection, not when someone else was there first. */
const session = new Session('drafts');
let browser: Browser;
beforeAll(() => {
  ({ browser } = session);
});

interface Shown {
  id: number;
  rowVersion: number;
  words: { alt: string; title: string };
}
async function itemOf(name: string): Promise<Shown> {
  const answer = await fetch(`${session.server.address}/api/items?where=name:${name}&limit=1`);
  return ((await answer.json()) as { items: Shown[] }).items[0]!;
}
async function undescribed(): Promise<number> {
  const answer = await fetch(`${session.server.address}/api/site`);
  return ((await answer.json()) as { counts: { undescribed: number } }).counts.undescribed;
}
async function valueOf(label: string): Promise<string> {
  return (await (await browser.field(label)).getAttribute('value'))!;
}
async function connection(offline: boolean): Promise<void> {
  const speed = { latency: 0, downloadThroughput: -1, uploadThroughput: -1 };
  await browser.command('Network.enable', {});
  await browser.command('Network.emulateNetworkConditions', { offline, ...speed });
}

test('half a sentence stays here and describes nothing; it outlives a reload and counts once one moves on', async () => {
  const before = await undescribed();
  await session.go('/library?folder=images/dome');
  await browser.click('dome-fog.jpg');
  await browser.fill('Alt text', 'The dome in the mor');
  await browser.text('Draft kept in this browser');
  // Longer than any pause after which the other fields are saved.
  await browser.driver.sleep(2000);
  expect(await undescribed()).toBe(before);
  expect((await itemOf('dome-fog.jpg')).words.alt).toBe('');

  await browser.driver.navigate().refresh();
  await browser.text('Restored what you typed');
  expect(await valueOf('Alt text')).toBe('The dome in the mor');
  await (await browser.field('Alt text')).sendKeys('ning fog', Key.TAB);
  await browser.text('Saved');
  expect((await itemOf('dome-fog.jpg')).words.alt).toBe('The dome in the morning fog');
  expect(await undescribed()).toBe(before - 1);
  await browser.driver.navigate().refresh();
  await browser.text('Move or rename');
  expect(await valueOf('Alt text')).toBe('The dome in the morning fog');
});

test('without a connection the text waits, also when another folder is chosen, and is saved when the server answers', async () => {
  await session.go('/library?folder=images/dome');
  await browser.click('dome-dusk.jpg');
  await browser.field('Alt text');
  await connection(true);
  await browser.fill('Alt text', 'The dome at dusk');
  await browser.press(Key.TAB);
  await browser.text('Not saved');
  await browser.click('Close the record');
  await browser.text('Your text for dome-dusk.jpg is not saved yet.');
  await connection(false);
  await browser.gone('is not saved yet');
  await expect.poll(async () => (await itemOf('dome-dusk.jpg')).words.alt).toBe('The dome at dusk');
});

test('what was typed before someone else changed the record is shown beside theirs', async () => {
  await session.go('/library?folder=images/dome');
  await browser.click('dome-dusk.jpg');
  await browser.field('Title');
  await connection(true);
  await browser.fill('Title', 'Dusk, as I see it');
  await browser.driver
    .navigate()
    .refresh()
    .catch(() => undefined);
  await connection(false);
  const { id, rowVersion } = await itemOf('dome-dusk.jpg');
  const changed = await fetch(`${session.server.address}/api/items/${id}`, {
    method: 'PATCH',
    headers: { Origin: session.server.address, 'Content-Type': 'application/json' },
    body: JSON.stringify({ rowVersion, words: { title: 'Dusk, as a colleague sees it' } }),
  });
  expect(changed.status).toBe(200);
  await session.go(`/library?folder=images/dome&item=${id}`);
  await browser.text('This record has changed since you typed this.');
  await browser.text('theirs: Dusk, as a colleague sees it');
  await browser.text('yours: Dusk, as I see it');
  await browser.click('Keep mine');
  await expect.poll(async () => (await itemOf('dome-dusk.jpg')).words.title).toBe('Dusk, as I see it');
});

test('a draft that nobody wants is discarded, once it was said twice; the record stays as it was', async () => {
  await session.go('/library?folder=images/dome');
  await browser.click('dome-night.jpg');
  await browser.field('Alt text');
  const { words } = await itemOf('dome-night.jpg');
  await connection(true);
  await browser.fill('Title', 'A night that I take back');
  await browser.press(Key.TAB);
  await browser.text('Not saved');
  await browser.click('Close the record');
  await browser.text('Your text for dome-night.jpg is not saved yet.');
  await browser.click('Discard …');
  await browser.text('Your text for dome-night.jpg is not saved yet.');
  await browser.click('Discard this text for good');
  await browser.gone('is not saved yet');
  await connection(false);
  await browser.driver.sleep(1500);
  expect((await itemOf('dome-night.jpg')).words).toEqual(words);
  await session.go('/library?folder=images/dome');
  await browser.click('dome-night.jpg');
  await browser.field('Alt text');
  expect(await valueOf('Title')).toBe(words.title);
});
