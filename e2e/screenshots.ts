import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { Browser } from './browser.ts';
import { RunningServer } from './server.ts';

/** Pictures of the main views for the README, from the demo site. Arguments: the demo's folder, where to put them. */
const [site = '', to = ''] = process.argv.slice(2);
const VIEWS: [string, string][] = [
  ['library', '/library?folder=images'],
  ['record', '/library?folder=images/events&item='],
  ['describe', '/describe'],
  ['pages', '/pages?page=open-nights.html'],
  ['upkeep', '/upkeep?queue=copies'],
  ['export', '/export'],
  ['ledger', '/ledger'],
];

await mkdir(to, { recursive: true });
const server = await RunningServer.start(site);
const browser = await Browser.start();
const shoot = async (name: string) => {
  await browser.settled();
  await browser.picture(join(to, `${name}.png`));
};
const find = async (words: string) =>
  ((await (await fetch(`${server.address}/api/items?q=${words}`)).json()) as { items: { id: number }[] })
    .items[0]!.id;
for (const [name, path] of VIEWS) {
  await browser.open(server.address + path + (name === 'record' ? await find('open-night.jpg') : ''));
  await browser.driver.sleep(2500);
  await shoot(name);
}
await browser.open(`${server.address}/library?folder=uploads/2024&item=${await find('IMG_4317')}`);
await browser.click('Name or move');
await browser.fill('New name', 'the-dome-on-a-clear-night.jpg');
await browser.fill('Folder', 'images/dome');
await browser.click('Show the plan');
await browser.text('open-nights.html');
await browser.driver.sleep(600);
await shoot('plan');
await browser.stop();
await server.stop();
