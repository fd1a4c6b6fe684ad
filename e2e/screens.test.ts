import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { Key } from 'selenium-webdriver';
import { beforeAll, expect, test } from 'vitest';
import { PREVIEW_SCRIPT } from '../server/preview/preview-script.ts';
import { By, type Browser } from './browser.ts';
import { Session } from './session.ts';

const session = new Session('screens');
let browser: Browser;
beforeAll(() => {
  ({ browser } = session);
});

/** What stands on each screen once it is there. */
const SCREENS: [path: string, says: string][] = [
  ['/library?folder=images', 'Add all to tray'],
  ['/library?folder=images&view=table', 'Columns'],
  ['/library?folder=images/dome&item=24', 'Used in'],
  ['/describe', 'Save and next'],
  ['/describe/pages', 'Text on pages'],
  ['/describe/table', 'Download CSV'],
  ['/describe/names', 'Add part'],
  ['/intake', 'Choose files …'],
  ['/pages?page=index.html', 'Open the page as served'],
  ['/upkeep', 'can be freed'],
  ['/upkeep?queue=copies', 'Merge group …'],
  ['/export', 'Past exports'],
  ['/ledger', 'Undo restores files to the byte'],
];

/** What the browser's console holds since it was asked last. */
async function errors(): Promise<string[]> {
  const entries = await browser.driver.manage().logs().get('browser');
  return entries.filter((one) => one.level.name === 'SEVERE').map((one) => one.message);
}

test('a first visit has a tour of five steps, left at any of them, and never again unless it is asked for', async () => {
  await browser.open(`${session.server.address}/library`, true);
  await browser.text('Bring files in');
  expect(await session.faultsOfAccess()).toEqual([]);
  for (const title of ['Find and collect', 'Describe', 'Keep it clean']) {
    await browser.click('Next');
    await browser.text(title);
  }
  await browser.text('4 of 5');
  await browser.click('Skip tour');
  await browser.gone('Keep it clean');
  await session.go('/library');
  await browser.text('All folders');
  expect(await browser.screen()).not.toContain('Bring files in');
  await browser.click('Help');
  await browser.click('Show the tour');
  for (const title of ['Find and collect', 'Describe', 'Keep it clean', 'Undo anything']) {
    await browser.click('Next');
    await browser.text(title);
  }
  await browser.click('Start');
  await browser.gone('Undo anything');
  await browser.click('Help');
  await browser.click('Keyboard shortcuts');
  await browser.text('Show keyboard shortcuts');
});

test.each(['light', 'dark'])(
  'no screen has a fault of accessibility or an error in the console, in the %s scheme',
  async (scheme) => {
    await browser.command('Emulation.setEmulatedMedia', {
      features: [{ name: 'prefers-color-scheme', value: scheme }],
    });
    await errors();
    for (const [path, says] of SCREENS) {
      await session.go(path);
      await browser.text(says);
      expect(await session.faultsOfAccess(), path).toEqual([]);
      expect(await errors(), path).toEqual([]);
    }
  },
);

test('a spreadsheet and a text show what they are, without asking for a preview that is not there', async () => {
  await errors();
  await session.go('/library?where=kind:document');
  await browser.text('bright-stars.csv');
  await browser.text('volunteers.csv');
  await browser.settled();
  expect(await errors()).toEqual([]);
});

test('right click: on an item what can be done with it, on a folder what can be done with that; by keys too', async () => {
  await session.go('/library?folder=images/moon');
  const full = await browser.see(By.css('[data-item][title*="moon-full.jpg"]'), 'the full Moon');
  await browser.driver.actions().contextClick(full).perform();
  await browser.text('Find similar');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.click('Add to tray');
  await browser.text('1 item in the tray');
  await browser.driver.actions().contextClick(full).perform();
  await browser.click('Remove from tray');
  await browser.gone('1 item in the tray');

  const media = await browser.see(By.css('a[data-folder="media"]'), 'the folder media');
  await browser.driver.actions().contextClick(media).perform();
  await (
    await browser.see(By.xpath("//*[@role='menuitem'][contains(., 'New folder')]"), 'New folder')
  ).click();
  await browser.text('New folder in “media”');
  await browser.press('\uE00C');

  // Closed, a folder hides what lies in it, also after the page was loaded again.
  const branch = await browser.see(By.css('[data-key="uploads"] .el-tree-node__expand-icon'), 'its triangle');
  await browser.see(By.css('a[data-folder="uploads/2024"]'), 'a folder within');
  await branch.click();
  await browser.driver.wait(
    async () => !(await browser.driver.findElement(By.css('a[data-folder="uploads/2024"]')).isDisplayed()),
    10_000,
  );
  await session.go('/library?folder=images/moon');
  await browser.see(By.css('a[data-folder="images/moon"]'), 'the tree');
  expect(
    await browser.driver.executeScript(
      'return document.querySelector(\'a[data-folder="uploads/2024"]\')?.checkVisibility() ?? false',
    ),
  ).toBe(false);
});

test.each([
  [390, 844],
  [640, 400],
  [1024, 768],
  [1920, 1080],
])('at %i × %i nothing goes beyond the window, and what one came for is in sight', async (width, height) => {
  await browser.size(width, height);
  try {
    for (const [path, says] of SCREENS) {
      await session.go(path);
      await browser.text(says);
      const over = await browser.driver.executeScript<number[]>(
        'const { scrollWidth, scrollHeight } = document.documentElement; return [scrollWidth - innerWidth, scrollHeight - innerHeight]',
      );
      expect(Math.max(...over), path).toBeLessThanOrEqual(0);
    }
    const inSight = async (what: string) =>
      browser.driver.wait(
        () =>
          browser.driver.executeScript<boolean>(
            `const one = document.querySelector(arguments[0])?.getBoundingClientRect();
             return Boolean(one && one.width > 0 && one.top >= 0 && one.left >= 0 && Math.min(one.bottom, one.top + 40) <= innerHeight && one.right <= innerWidth);`,
            what,
          ),
        10_000,
        `${what} is out of sight`,
      );
    await session.go('/library?folder=images/dome');
    await browser.text('7 items');
    await inSight('.place .picture');
    await session.go('/describe');
    await browser.button('Save and next');
    await inSight('footer .main');
    await session.go('/library?folder=images/dome&where=name:dome-dusk');
    await browser.click('dome-dusk.jpg');
    await inSight('.record header h2');
    expect(await session.faultsOfAccess()).toEqual([]);
    await browser.click('Close the record');
  } finally {
    await browser.size(1280, 800);
  }
});

test('a narrow window has its folders in a drawer, which closes when one is chosen', async () => {
  await browser.size(1024, 768);
  try {
    await session.go('/library');
    await browser.click('Folders');
    await browser.text('Folders and tags');
    expect(await session.faultsOfAccess()).toEqual([]);
    await browser.click('dome');
    await browser.text('Items in “images/dome” or below');
    await browser.gone('Folders and tags');
  } finally {
    await browser.size(1280, 800);
  }
});

/** What has the focus, by its name or what stands on it. */
const focused = () =>
  browser.driver.executeScript<string>(
    `const one = document.activeElement;
     return one.getAttribute('aria-label') || one.labels?.[0]?.innerText || one.innerText.trim() || one.tagName;`,
  );
async function hasFocus(name: string): Promise<void> {
  await browser.driver.wait(
    async () => (await focused()).includes(name),
    5000,
    `the focus is not on “${name}”`,
  );
}

test('a dialog begins with its first field and gives the keyboard back; a new filter has it', async () => {
  await session.go('/library?folder=images/dome');
  await browser.click('Folder rules …');
  await hasFocus('Purpose');
  await browser.press(Key.ESCAPE);
  await session.alone();
  await hasFocus('Folder rules …');
  await browser.click('Add all to tray');
  await browser.click('Tags …');
  await hasFocus('Add tags');
  await browser.press(Key.ESCAPE);
  await session.alone();
  await hasFocus('Tags …');
  await browser.click('Empty tray');
  await browser.click('Add filter');
  await browser.click('File type');
  const image = By.xpath("//*[@aria-label='Add a filter']//button[starts-with(., 'image')]");
  await (await browser.see(image, 'the kind image')).click();
  await hasFocus('kind is image');
});

test('a placement leads from the record to its spot on the page, and back; its acts are there by right click', async () => {
  await session.go('/library?folder=images/dome&where=name:dome-fog');
  await browser.click('dome-fog.jpg');
  await browser.text('Used in');
  await browser.click('The dome in all weathers');
  await browser.text('Open the page as served');
  // Once the page is drawn the list stands in its order.
  const chosen = await browser.see(
    By.css('.placements .chosen'),
    'the chosen placement',
    /dome-fog[\s\S]*shown \d+/,
  );
  await browser.driver.actions().contextClick(chosen).perform();
  await browser.see(By.xpath("//*[@role='menuitem'][contains(., 'Remove from page')]"), 'its acts');
  expect(await session.faultsOfAccess()).toEqual([]);
  await browser.press(Key.ESCAPE);
  await browser.click('Back to the record');
  await browser.text('Move or rename');
  await browser.text('dome-fog.jpg');
});

test('an image that comes late is measured and scrolled to, though the page is as long as before', async () => {
  const page = `<body style="height: 3000px"><p style="height: 2000px"></p>
    <img data-look-at="7" loading="lazy" src="/late.svg" alt=""><script>(${PREVIEW_SCRIPT})({}, [], false)</script>`;
  const around = `<iframe src="/page" width="600" height="400"></iframe><script>
    onmessage = ({ data: { iconomos: said }, source }) => {
      if (said.ready) source.postMessage({ iconomos: { choose: 7 } }, '*');
      if (said.measured) document.title = said.complete + ' ' + said.measured.map((one) => one.width).join();
    }</script>`;
  const server = createServer((request, response) => {
    const late = request.url === '/late.svg';
    response.setHeader('content-type', late ? 'image/svg+xml' : 'text/html');
    const body = late
      ? '<svg xmlns="http://www.w3.org/2000/svg" width="120" height="80"/>'
      : request.url === '/page'
        ? page
        : around;
    setTimeout(() => response.end(body), late ? 1500 : 0);
  });
  await new Promise<void>((listens) => server.listen(0, '127.0.0.1', listens));
  try {
    await browser.driver.get(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`);
    await browser.until('the late image is measured', async () => {
      return (await browser.driver.getTitle()) === 'true 120';
    });
    const scrolled = 'return document.querySelector("iframe").contentWindow.scrollY';
    expect(await browser.driver.executeScript(scrolled)).toBeGreaterThan(1500);
  } finally {
    server.closeAllConnections();
    server.close();
  }
});

test('the panes are as wide as one makes them, by the pointer and by keys, and stay so', async () => {
  await session.go('/library?folder=images/dome');
  await browser.click('dome-fog.jpg');
  await browser.text('Used in');
  const width = async (what: string) =>
    Math.round((await (await browser.see(By.css(what), what)).getRect()).width);
  const [folders, record] = [await width('nav.drawer'), await width('.record')];
  for (const [at, by] of [
    [0, 60],
    [1, -50],
  ] as const) {
    const edge = (await browser.driver.findElements(By.css('.el-splitter-bar__dragger')))[at]!;
    const actions = browser.driver.actions({ async: true });
    await actions
      .move({ origin: edge })
      .press()
      .move({ origin: edge, x: by, duration: 200 })
      .release()
      .perform();
  }
  const about = async (what: string, wanted: number) =>
    browser.driver.wait(async () => Math.abs((await width(what)) - wanted) <= 3, 5000, `${what}: ${wanted}`);
  await about('nav.drawer', folders + 60);
  await about('.record', record + 50);
  await browser.driver.executeScript(
    'document.querySelector(\'[role=separator][aria-label="Width of the record"]\').focus()',
  );
  await browser.press(Key.ARROW_RIGHT, Key.ARROW_RIGHT);
  await about('.record', record + 50 - 32);
  await browser.driver.navigate().refresh();
  await browser.text('Used in');
  await about('nav.drawer', folders + 60);
  await about('.record', record + 50 - 32);
});

test('the first screen comes with less than 300 kB of code and styles, compressed', async () => {
  await browser.command('Network.clearBrowserCache', {});
  await session.go('/library');
  // What was asked for before all of that was there; the rest comes when there is nothing else to do.
  const [bytes, packed] = await browser.driver.executeScript<[number, boolean]>(
    `const { loadEventEnd } = performance.getEntriesByType('navigation')[0];
     const code = performance.getEntriesByType('resource').filter(({ name, startTime }) => /\\.(js|css)$/.test(name) && startTime < loadEventEnd);
     return [code.reduce((sum, one) => sum + one.encodedBodySize, 0), code.every((one) => one.encodedBodySize < one.decodedBodySize || one.decodedBodySize < 200)];`,
  );
  expect(packed).toBe(true);
  expect(bytes).toBeGreaterThan(50_000);
  expect(bytes).toBeLessThan(300_000);
});

test.each(['light', 'dark'])(
  'dialogs, menus and drawers have no fault of accessibility, in the %s scheme',
  async (scheme) => {
    await browser.command('Emulation.setEmulatedMedia', {
      features: [{ name: 'prefers-color-scheme', value: scheme }],
    });
    const faultless = async (what: string) => expect(await session.faultsOfAccess(), what).toEqual([]);
    const opened = async (...ways: [button: string, says: string][]) => {
      for (const [button, says] of ways) {
        await browser.click(button);
        await browser.text(says);
        await faultless(button);
        await browser.press(Key.ESCAPE);
        await session.alone();
      }
    };
    await session.go('/library?folder=images/dome');
    await opened(['Help', 'Show the tour'], ['Folder rules …', 'Purpose']);
    await browser.click('Add all to tray');
    await browser.text('7 items in the tray');
    await opened(['More …', 'Export'], ['Tags …', 'Add tags'], ['Move …', 'Folder']);
    await browser.click('Set aside');
    await browser.text('This can’t be done yet.');
    await faultless('a plan');
    await browser.press(Key.ESCAPE);
    await session.alone();
    await browser.click('Empty tray');
    await browser.click('dome-fog.jpg');
    await browser.text('Used in');
    await opened(['Replace', 'Upload a file'], ['Focal point', 'wide screen'], ['Snippet', 'Copy']);
    await session.go('/intake');
    await opened(['Folder rules …', 'Purpose']);
  },
);
