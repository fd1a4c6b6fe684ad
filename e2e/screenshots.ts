import { copyFile, mkdir, mkdtemp, readdir, rm, writeFile } from 'node:fs/promises';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { serveTagger } from '../demo/tagger/tagger.ts';
import { serveBank } from '../demo/bank/bank.ts';
import type { DocumentView } from '../api/documents.ts';
import { SEED } from '../demo/make.ts';
import { Browser, By } from './browser.ts';
import { settled } from './known-demo.ts';
import { RunningServer } from './server.ts';

/** Images of the main views for the README, from the demo site. Arguments: the demo's folder, where to put them. */
const [site = '', to = ''] = process.argv.slice(2);
const VIEWS: [string, string][] = [
  ['library', '/library?folder=images'],
  ['record', '/library?folder=images/events&item='],
  ['describe', '/describe?where=name:logo.svg'],
  ['names', '/describe/names'],
  ['pages', '/pages?page=index.html'],
  ['upkeep', '/upkeep'],
  ['ledger', '/ledger'],
];

await mkdir(to, { recursive: true });
const painted = await mkdtemp(join(tmpdir(), 'iconomos-bank-'));
const bank = serveBank(painted, SEED);
await new Promise<void>((done) => bank.listen(0, '127.0.0.1', done));
const bankAddress = `http://127.0.0.1:${(bank.address() as AddressInfo).port}`;
const tagger = serveTagger(join(painted, 'tagger'));
await new Promise<void>((done) => tagger.listen(0, '127.0.0.1', done));
const taggerAddress = `http://127.0.0.1:${(tagger.address() as AddressInfo).port}`;
const server = await RunningServer.start(site, [
  '--image-bank',
  bankAddress,
  '--tagging-service',
  taggerAddress,
]);
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
await browser.open(`${server.address}/documents?path=documents/price-list.xlsx`);
await browser.clickAt(
  By.xpath("//revo-grid//*[contains(@class, 'rgCell')][starts-with(., '£5,')]"),
  'the sum',
);
await browser.text('D10');
await shoot('sheet');
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
await browser.click('Find an image');
await browser.fill('Words to find', 'hill');
await browser.press(Key.ENTER);
await browser.text('Your library has');
await browser.driver.sleep(3000);
await shoot('find-image');
await browser.press(Key.ESCAPE);
const waiting = (await (await fetch(`${server.address}/api/arrivals`)).json()) as { ids: number[] };
for (const id of waiting.ids) {
  await fetch(`${server.address}/api/arrivals/${id}`, {
    method: 'DELETE',
    headers: { Origin: server.address },
  });
}
await rm(sent, { recursive: true });

await browser.open(`${server.address}/describe/tags?of=all`);
await browser.click('Suggest tags');
await browser.button('Suggest again');
await browser.text('Because it looks like');
await browser.driver.sleep(1500);
await shoot('suggested-tags');

await browser.open(`${server.address}/library?folder=uploads/2024&item=${await find('IMG_4317')}`);
await browser.click('Move or rename');
await browser.fill('New name', 'the-dome-on-a-clear-night.jpg');
await browser.fill('Folder', 'images/dome');
await browser.click('Review changes');
await browser.text('open-nights.html');
await browser.driver.sleep(600);
await shoot('plan');
await browser.click('Cancel');

// What somebody proposes, as those who approve see it.
const asWindow = <Answer>(path: string, body: object) =>
  browser.driver.executeAsyncScript<Answer>(
    `const [path, body, done] = arguments;
     fetch('/api' + path, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })
       .then(async (answer) => done(await answer.json()));`,
    path,
    body,
  );
type Member = { id: number; name: string };
const { people } = (await (await fetch(`${server.address}/api/site`)).json()) as { people: Member[] };
const workAs = (name: string) =>
  asWindow('/sign-in/as', { personId: people.find((one) => one.name === name)!.id });
const uploads = (await (await fetch(`${server.address}/api/items?folder=uploads/2024&sort=path`)).json()) as {
  items: { id: number; name: string }[];
};
const cameraNames = uploads.items.filter(({ name }) => /^(IMG|DSC)/.test(name)).slice(0, 6);
await workAs('Ines Cobbledale');
const proposed = await asWindow<{ id: string }>('/plans', {
  kind: 'names',
  names: cameraNames.map(({ id, name }, at) => ({
    itemId: id,
    name: `observatory-at-night-${at + 1}${name.slice(name.lastIndexOf('.'))}`,
  })),
});
const { submissionId } = await asWindow<{ submissionId: number }>(`/plans/${proposed.id}/submit`, {
  note: 'These are all from the winter open night.',
});
const comment = await asWindow<{ id: string }>('/plans', {
  kind: 'comment',
  itemId: await find('open-night.jpg'),
  say: { text: '@Ottilie Marrow, may we show the visitors’ faces?' },
});
const { entryId } = await asWindow<{ entryId: number }>(`/plans/${comment.id}/apply`, {});
await workAs('Ottilie Marrow');
await browser.open(`${server.address}/mine`);
await browser.text('Comments for you');
await browser.driver.sleep(800);
await shoot('mine');
await browser.click('Review: ');
await browser.text('Proposed by Ines Cobbledale');
await browser.driver.sleep(800);
await shoot('proposal');
await browser.click('Cancel');
const undo = await asWindow<{ id: string }>('/plans', { kind: 'undo', entryId });
await asWindow(`/plans/${undo.id}/apply`, {});
await browser.open(`${server.address}/people`);
await browser.text('Invite someone');
await browser.driver.sleep(800);
await shoot('people');
const note = 'notes/how-to-look.md';
const opened = (await (await fetch(`${server.address}/api/documents?path=${note}`)).json()) as DocumentView;
const edited = await asWindow<{ id: string }>('/plans', {
  kind: 'document',
  path: note,
  base: opened.sha256,
  text: `${opened.text.trimEnd()}\n\nBring a blanket: an hour is long on the hill.\n`,
});
await asWindow(`/plans/${edited.id}/apply`, { note: 'Asked for at the last open night' });
await browser.open(`${server.address}/documents?path=${note}`);
await (await browser.see(By.css('[aria-label^="Text of"]'), 'the text')).click();
await browser.hold(Key.CONTROL, Key.END);
await browser.press(' And a red torch.');
await browser.text('Draft kept at');
await browser.driver.sleep(800);
await shoot('document');
await workAs('Ines Cobbledale');
await asWindow(`/submissions/${submissionId}/withdraw`, {});

await browser.stop();
await server.stop();
bank.close();
bank.closeAllConnections();
tagger.close();
tagger.closeAllConnections();
await rm(painted, { recursive: true, force: true });
