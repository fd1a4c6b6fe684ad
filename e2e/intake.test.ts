import { cp, mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { afterAll, afterEach, beforeAll, expect, test } from 'vitest';
import { ZipFile } from 'yazl';
import { SMALL_DEMO } from '../demo/test-setup.ts';
import { buildFolder } from '../server/built.ts';
import { treeOf } from '../server/test/site.ts';
import { Browser } from './browser.ts';
import { RunningServer } from './server.ts';

/** Intake as a person uses it: drop, paste, choose, look, decide, bring in. */
let folder: string;
let root: string;
let server: RunningServer;
let browser: Browser;

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'iconomos-intake-'));
  root = join(folder, 'corvane-hill');
  await cp(SMALL_DEMO, root, { recursive: true });
  server = await RunningServer.start(root);
  browser = await Browser.start();
});
afterAll(async () => {
  await browser?.stop();
  await server?.stop();
  await rm(folder, { recursive: true, force: true });
});
afterEach(async ({ task }) => {
  if (task.result?.state !== 'fail') return;
  await browser.picture(join(buildFolder(), `failed-${task.id}.png`));
  // The next test starts with an empty list all the same.
  const waiting = (await (await fetch(`${server.address}/api/arrivals`)).json()) as { id: number }[];
  for (const { id } of waiting) await fetch(`${server.address}/api/arrivals/${id}`, { method: 'DELETE' });
});

const go = (path: string) => browser.open(server.address + path);

/** A picture that looks like no other: stripes and noise by its number. */
function painted(number: number, width = 600, height = 400): Promise<Buffer> {
  const stripes = Array.from({ length: 12 }, (_, i) => {
    const x = (i * 83 + number * 131) % 600;
    const y = (i * 47 + number * 71) % 400;
    return `<rect x="${x}" y="${y}" width="${30 + ((i * number) % 90)}" height="${20 + ((i + number) % 7) * 20}" fill="hsl(${(i * 40 + number * 57) % 360} 60% 50%)"/>`;
  }).join('');
  return sharp(
    Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" width="600" height="400">${stripes}</svg>`),
  )
    .resize(width, height, { fit: 'fill' })
    .flatten({ background: `hsl(${number * 40}, 30%, 80%)` })
    .jpeg({ quality: 92 })
    .toBuffer();
}

/** Drops files and folders of this machine on the window, as a file manager does. */
async function drop(...paths: string[]): Promise<void> {
  const data = { items: [], files: paths, dragOperationsMask: 1 };
  for (const type of ['dragEnter', 'dragOver', 'drop'])
    await browser.command('Input.dispatchDragEvent', { type, x: 640, y: 500, data });
}

async function put(name: string, bytes: Uint8Array): Promise<string> {
  const path = join(folder, name);
  await mkdir(join(path, '..'), { recursive: true });
  await writeFile(path, bytes);
  return path;
}

test('a dropped folder tree keeps its nesting; one bad file among twenty stops nothing; the batch is undone as a whole', async () => {
  for (let i = 1; i <= 19; i++)
    await put(`Open Nights/${i % 2 ? 'Spring Term' : ''}/Guests ${i}.jpg`, await painted(i));
  await put('Open Nights/Spring Term/broken.jpg', (await painted(40)).subarray(0, 5000));
  const before = await treeOf(root);
  await go('/library?folder=images/events');
  await browser.text('The whole site');
  await drop(join(folder, 'Open Nights'));
  await browser.text('Bring in 19 items');
  await browser.text('ends too early');
  await browser.text('1 file refused');
  expect(await (await browser.field('Folder for all 19')).getAttribute('value')).toBe('images/events');
  await browser.fill('Tags for all', 'open night, guests');
  await browser.fill('Credit for all', 'Corvane Hill Observatory');
  await (await browser.field('Credit for all')).sendKeys(Key.TAB);
  expect(await treeOf(root)).toEqual(before);
  await browser.click('Bring in 19 items');
  await browser.text('Done. Bring in 19 items to 2 folders');
  const after = await treeOf(root);
  const added = Object.keys(after).filter((path) => !(path in before));
  expect(added).toHaveLength(21);
  expect(added).toContain('images/events/open-nights/guests-2.jpg');
  expect(added).toContain('images/events/open-nights/spring-term/guests-1.jpg');
  expect(added.some((path) => path.includes('broken'))).toBe(false);

  await browser.click('See them');
  await browser.text('of one change in the Ledger');
  await browser.text('19 items');
  await browser.click('guests-2.jpg');
  await browser.text('open night');
  expect(await (await browser.field('Credit')).getAttribute('value')).toBe('Corvane Hill Observatory');

  await browser.click('Intake');
  await browser.click('Undo all of it');
  await browser.inDialog('Undo');
  await browser.text('Done. Undo: Bring in 19 items');
  expect(await treeOf(root)).toEqual(before);
  await browser.click('Take them off the list');
  await browser.text('Nothing waits here');
});

test('a picture pasted from the clipboard arrives under a name that says when', async () => {
  await go('/intake');
  await browser.text('Nothing waits here');
  await browser.command('Browser.grantPermissions', {
    origin: server.address,
    permissions: ['clipboardReadWrite', 'clipboardSanitizedWrite'],
  });
  const png = (
    await sharp(await painted(50))
      .png()
      .toBuffer()
  ).toString('base64');
  const written = await browser.driver.executeAsyncScript(
    `const done = arguments[1];
     const bytes = Uint8Array.from(atob(arguments[0]), (char) => char.charCodeAt(0));
     navigator.clipboard.write([new ClipboardItem({ 'image/png': new Blob([bytes], { type: 'image/png' }) })])
       .then(done, (error) => done(String(error)));`,
    png,
  );
  expect(written).toBeNull();
  await browser.driver.actions().keyDown(Key.CONTROL).sendKeys('v').keyUp(Key.CONTROL).perform();
  await browser.text('pasted-picture-');
  await browser.text('600 × 400 px');
  await browser.click('Leave out: pasted-picture-');
  await browser.text('Nothing waits here');
});

test('sending goes on by itself after a reload in the middle, and nothing is sent twice', async () => {
  const bytes = await sharp({
    create: {
      width: 1500,
      height: 1000,
      channels: 3,
      background: '#222',
      noise: { type: 'gaussian', mean: 120, sigma: 60 },
    },
  })
    .png({ compressionLevel: 0 })
    .toBuffer();
  const path = await put('big-noise.png', bytes);
  await go('/intake');
  await browser.text('Nothing waits here');
  await browser.command('Network.enable', {});
  const speed = (upload: number) =>
    browser.command('Network.emulateNetworkConditions', {
      offline: false,
      latency: 5,
      downloadThroughput: -1,
      uploadThroughput: upload,
    });
  await speed(400_000);
  await drop(path);
  await browser.text('is being sent');
  const sent = async () => {
    const { upload } = (await (await fetch(`${server.address}/api/arrivals`)).json())[0] as {
      upload: string;
    };
    const head = await fetch(`${server.address}/api/uploads/${upload}`, {
      method: 'HEAD',
      headers: { 'Tus-Resumable': '1.0.0' },
    });
    return Number(head.headers.get('upload-offset'));
  };
  await browser.driver.wait(async () => (await sent()) > 200_000, 30_000);
  // Leaving the page with bytes still to be sent asks first; the person goes.
  await browser.driver.executeScript('setTimeout(() => location.reload(), 0)');
  await browser.driver.wait(async () => {
    try {
      await (await browser.driver.switchTo().alert()).accept();
      return true;
    } catch {
      return (await browser.driver.executeScript('return performance.now() < 5000')) as boolean;
    }
  }, 10_000);
  await browser.text('is being sent');
  const kept = await sent();
  expect(kept).toBeGreaterThan(200_000);
  expect(kept).toBeLessThan(bytes.length);
  await speed(-1);
  await browser.text('Bring in 1 item');
  expect(await browser.screen()).not.toContain('is being sent');
  await browser.click('Bring in 1 item');
  await browser.text('Done. Bring in “big-noise.png”');
  expect((await readFile(join(root, 'big-noise.png'))).equals(bytes)).toBe(true);
});

test('a look-alike is compared side by side and takes the place of the item; undo brings the old bytes back', async () => {
  const before = await treeOf(root);
  const larger = await sharp(join(root, 'images/moon/moon-full.jpg'))
    .resize(1700)
    .jpeg({ quality: 95 })
    .toBuffer();
  await go('/intake');
  await browser.text('Nothing waits here');
  await drop(await put('Vollmond.jpg', larger));
  await browser.text('It looks like “images/moon/moon-full.jpg”');
  await browser.click('Compare');
  await browser.text('Compare “vollmond.jpg”');
  await browser.text('Coming in');
  await browser.text('Stands on');
  await browser.inDialog('Replace that one');
  await browser.text('takes the place of the item');
  await browser.click('Bring in 1 item');
  await browser.text('Done. Replace “moon-full.jpg”');
  const after = await treeOf(root);
  expect(Object.keys(after)).toEqual(Object.keys(before));
  expect((await readFile(join(root, 'images/moon/moon-full.jpg'))).equals(larger)).toBe(true);
  await browser.click('Undo all of it');
  await browser.inDialog('Undo');
  await browser.text('Done. Undo: Replace “moon-full.jpg”');
  expect(await treeOf(root)).toEqual(before);
});

test('an archive asks; unpacked, its files take its place, with their folders', async () => {
  const zip = new ZipFile();
  zip.addBuffer(await painted(60), 'Supplier/Dome One.jpg');
  zip.addBuffer(Buffer.from('junk'), '__MACOSX/._Dome One.jpg');
  zip.addBuffer(Buffer.from('<script>'), 'Supplier/evil.html');
  zip.end();
  const chunks: Buffer[] = [];
  for await (const chunk of zip.outputStream) chunks.push(chunk as Buffer);
  await go('/intake');
  await browser.text('Nothing waits here');
  await drop(await put('Supplier pictures.zip', Buffer.concat(chunks)));
  await browser.text('An archive with 3 files');
  await browser.text('1 file wait for an answer');
  await browser.click('Unpack into this folder');
  await browser.text('dome-one.jpg');
  await browser.text('in supplier');
  await browser.text('It is a page or a script');
  await browser.gone('An archive with');
  await browser.click('Leave out: Dome One.jpg');
  await browser.click('Take them off the list');
  await browser.text('Nothing waits here');
});

test('a folder’s rule: too large is shrunk at the door, too small is told; the place is taken out', async () => {
  const large = await sharp(await painted(70, 3000, 2000))
    .withExif({
      IFD0: { Artist: 'Ines Cobbledale', ImageDescription: 'The great dome by day' },
      IFD3: {
        GPSLatitudeRef: 'N',
        GPSLatitude: '54/1 10/1 0/1',
        GPSLongitudeRef: 'W',
        GPSLongitude: '2/1 5/1 0/1',
      },
    })
    .jpeg({ quality: 95 })
    .toBuffer();
  await go('/intake');
  await browser.text('Nothing waits here');
  await drop(await put('IMG_7001.JPG', large), await put('tiny.jpg', await painted(71, 300, 200)));
  await browser.text('It holds the place where it was taken');
  await browser.text('the-great-dome-by-day.jpg');
  await browser.fill('Folder for all 2', 'images/hero');
  await (await browser.field('Folder for all 2')).sendKeys(Key.TAB);
  await browser.text('in images/hero');
  await browser.click('what it is for');
  await browser.text('What pictures in “images/hero” are for');
  await browser.fill('Purpose', 'the head of a page');
  await browser.fill('Least width', '1200');
  await browser.fill('Longer side at most', '1800');
  await browser.click('Save the rule');
  await browser.text('Larger than useful: 3000 × 2000 px');
  await browser.text('1800 × 1200 px');
  await browser.text(
    'Smaller than its folder needs: 300 × 200 px, a width of 1200 px wanted for the head of a page',
  );
  await browser.click('Skip it');
  await browser.text('will not be stored');
  await browser.click('Bring in 1 item');
  await browser.text('Done. Bring in “the-great-dome-by-day.jpg”');
  const stored = await sharp(join(root, 'images/hero/the-great-dome-by-day.jpg')).metadata();
  expect([stored.width, stored.height]).toEqual([1800, 1200]);
  expect(stored.exif!.includes('Ines Cobbledale')).toBe(true);
  const bytes = await readFile(join(root, 'images/hero/the-great-dome-by-day.jpg'));
  const original = await readFile(join(folder, 'IMG_7001.JPG'));
  const place = Buffer.from([0x36, 0, 0, 0, 1, 0, 0, 0, 10, 0, 0, 0, 1]);
  expect([original.includes(place), bytes.includes(place)]).toEqual([true, false]);
  await browser.click('See them');
  await browser.click('the-great-dome-by-day.jpg');
  expect(await (await browser.field('Creator')).getAttribute('value')).toBe('Ines Cobbledale');
});

test('the intake list by axe-core: no fault of accessibility', async () => {
  await go('/intake');
  await drop(
    await put('Moon again.jpg', await readFile(join(root, 'images/moon/moon-full.jpg'))),
    await put('New One.jpg', await painted(80)),
  );
  await browser.text('Bring in 1 item');
  await browser.click('Words of New One.jpg');
  await browser.click('More');
  await browser.settled();
  await browser.driver.executeScript(
    await readFile(join(buildFolder(), '..', 'node_modules', 'axe-core', 'axe.min.js'), 'utf8'),
  );
  const faults = await browser.driver.executeAsyncScript<{ id: string; nodes: { target: string[] }[] }[]>(
    'axe.run({ runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"] }).then((result) => arguments[0](result.violations))',
  );
  expect(
    faults.map((fault) => `${fault.id} at ${fault.nodes.map((node) => node.target.join(' ')).join(', ')}`),
  ).toEqual([]);
});
