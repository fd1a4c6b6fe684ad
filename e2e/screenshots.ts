import { copyFile, mkdir, mkdtemp, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { Browser, By } from './browser.ts';
import { settled } from './known-demo.ts';
import { RunningServer } from './server.ts';

/** Images of the main views for the README, from the demo site. Arguments: the demo's folder, where to put them. */
const [site = '', to = ''] = process.argv.slice(2);
const VIEWS: [string, string][] = [
  ['library', '/library?folder=images'],
  ['record', '/library?folder=images/events&item='],
  ['describe', '/describe?where=name:logo.svg'],
  ['page-words', '/describe/pages'],
  ['names', '/describe/names'],
  ['pages', '/pages?page=index.html'],
  ['upkeep', '/upkeep'],
  ['doubles', '/upkeep?queue=copies'],
  ['ledger', '/ledger'],
];

await mkdir(to, { recursive: true });
const server = await RunningServer.start(site);
await settled(server);
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
  await browser.driver.sleep(name === 'describe' ? 6000 : 2500);
  await shoot(name);
}
await browser.open(`${server.address}/upkeep?queue=look-alikes`);
await browser.text('cropped');
await browser.click('Compare');
await browser.click('Show differences');
await browser.text('a part of the first');
await browser.driver.sleep(800);
await shoot('differences');
await browser.open(`${server.address}/pages?page=visit.html`);
await browser.text('Open the page as served');
await browser.driver.sleep(1500);
await browser.press('g');
await browser.text('Choose a spot on the page');
await browser.driver.sleep(800);
await browser.driver.actions().move({ x: 637, y: 226 }).click().perform();
await browser.text('Place a gallery');
await browser.choose('Folder of the gallery', 'images/planets');
await browser.text('will be made');
await browser.driver.sleep(2500);
await shoot('gallery');
await browser.open(`${server.address}/library?where=kind:image,no:alt`);
await browser.text('no alt text');
await browser.click('Add filter');
await browser.click('Main colour');
await browser.text('black');
await browser.driver.sleep(800);
await shoot('find');
await browser.open(`${server.address}/library?folder=images&view=table&sort=path`);
await browser.driver.sleep(1500);
await shoot('table');
await browser.open(`${server.address}/library/edit/${await find('dome-dusk.jpg')}`);
await browser.text('This is the original.');
await browser.choose('Ratio', '1:1 (square)');
await (await browser.field('Automatic')).click();
await browser.choose('Resize', 'longest side');
await browser.choose('Quality', 'as small as looks the same');
await browser.text('px, JPEG');
await browser.driver.sleep(2500);
await shoot('bench');
await browser.click('Discard and close');
await browser.open(`${server.address}/library?folder=images/shop/autumn-shots`);
await browser.click('Add all to tray');
await browser.press('p');
await (await browser.field('Square shop image on white')).click();
await browser.click('Look at the framing …');
await browser.text('1 image framed as a whole');
await browser.driver.wait(
  () =>
    browser.driver.executeScript<boolean>(
      "return [...document.querySelectorAll('.set img')].every((one) => one.naturalWidth > 0)",
    ),
  30_000,
);
await browser.driver.sleep(800);
await shoot('framing');
await browser.click('Back to the settings');
await browser.click('Review changes');
await browser.text('Together');
await browser.driver.sleep(2500);
await shoot('prepare');
await browser.click('Cancel');
await browser.text('Look at the framing');
await browser.press('\uE00C');
await browser.click('Empty tray');
await browser.open(`${server.address}/library?where=tag:moon&view=sheet&item=${await find('moon-full.jpg')}`);
await browser.text('Add spelling');
await browser.text('Versions');
await browser.driver.executeScript(
  "[...document.querySelectorAll('.record h3')].find((one) => one.textContent === 'Versions').scrollIntoView()",
);
await browser.driver.sleep(1200);
await shoot('tags');
await browser.open(`${server.address}/library?view=sheet`);
// Files of the demo itself, sent again: some new under other bytes, one that is here already, one cut off.
const sent = await mkdtemp(join(tmpdir(), 'iconomos-shots-'));
const perseids = sharp(join(site, 'images/events/perseids.jpg'));
await perseids.clone().resize(1200).jpeg().toFile(join(sent, 'IMG_2201.JPG'));
await sharp(join(site, 'images/planets/mars-june.jpg'))
  .resize(500)
  .png()
  .toFile(join(sent, 'Mars im Fernrohr (Kopie).png'));
await sharp(join(site, 'images/dome/dome-dusk.jpg'))
  .resize(4600)
  .modulate({ hue: 30 })
  .flop()
  .withExif({
    IFD0: { Artist: 'Ines Cobbledale', ImageDescription: 'Last light behind the dome' },
    IFD3: {
      GPSLatitudeRef: 'N',
      GPSLatitude: '54/1 31/1 0/1',
      GPSLongitudeRef: 'W',
      GPSLongitude: '2/1 20/1 0/1',
    },
  })
  .jpeg()
  .toFile(join(sent, 'DSC_0871.JPG'));
await writeFile(join(sent, 'cut-off.jpg'), (await perseids.clone().jpeg().toBuffer()).subarray(0, 9000));
await copyFile(join(site, 'images/moon/moon-full.jpg'), join(sent, 'moon again.jpg'));
await browser.open(`${server.address}/intake`);
await browser.text('No files waiting');
const names = await readdir(sent);
await browser.driver
  .findElement(By.css('input[type=file]'))
  .sendKeys(names.map((name) => join(sent, name)).join('\n'));
await browser.text('ends too early');
await browser.text('This file already exists');
await browser.text('It contains the place where it was taken');
await browser.driver.sleep(1500);
await shoot('intake');
const waiting = (await (await fetch(`${server.address}/api/arrivals`)).json()) as { ids: number[] };
for (const id of waiting.ids) {
  await fetch(`${server.address}/api/arrivals/${id}`, {
    method: 'DELETE',
    headers: { Origin: server.address },
  });
}
await rm(sent, { recursive: true });

await browser.open(`${server.address}/library?folder=uploads/2024&item=${await find('IMG_4317')}`);
await browser.click('Move or rename');
await browser.fill('New name', 'the-dome-on-a-clear-night.jpg');
await browser.fill('Folder', 'images/dome');
await browser.click('Review changes');
await browser.text('open-nights.html');
await browser.driver.sleep(600);
await shoot('plan');
await browser.stop();
await server.stop();
