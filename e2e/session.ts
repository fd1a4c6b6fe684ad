import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { Key } from 'selenium-webdriver';
import { afterAll, afterEach, beforeAll } from 'vitest';
import { buildFolder } from '../server/built.ts';
import { copySite } from '../server/test/site.ts';
import { Browser, By } from './browser.ts';
import { KNOWN_DEMO } from './known-demo.ts';
import { RunningServer } from './server.ts';

/** One server on a copy of the demo's pages and one browser, for the tests of a file. */
export class Session {
  folder = '';
  /** The site's folder. */
  root = '';
  server!: RunningServer;
  browser!: Browser;

  /**
   * Starts before the tests of the calling file and ends after them; of a failed test an image is kept.
   * @param from the site that is copied
   */
  constructor(
    name: string,
    serverFlags: () => Promise<string[]> = () => Promise.resolve([]),
    from = KNOWN_DEMO,
  ) {
    beforeAll(async () => {
      this.folder = await mkdtemp(join(tmpdir(), `iconomos-${name}-`));
      this.root = join(this.folder, 'corvane-hill');
      await copySite(from, this.root);
      await mkdir(join(this.folder, 'downloads'));
      this.server = await RunningServer.start(this.root, await serverFlags());
      this.browser = await Browser.start(join(this.folder, 'downloads'));
    });
    afterAll(async () => {
      await this.browser?.stop();
      await this.server?.stop();
      await rm(this.folder, { recursive: true, force: true });
    });
    afterEach(async ({ task }) => {
      if (task.result?.state !== 'fail') return;
      await this.browser.picture(join(buildFolder(), `failed-${task.id}.png`));
      // The next test starts with an empty intake list all the same.
      const waiting = await fetch(`${this.server.address}/api/arrivals`).then(
        async (answer) => ((await answer.json()) as { changed?: { id: number }[] }).changed ?? [],
        () => [],
      );
      for (const { id } of waiting)
        await fetch(`${this.server.address}/api/arrivals/${id}`, {
          method: 'DELETE',
          headers: { Origin: this.server.address },
        });
    });
  }

  go(path: string): Promise<void> {
    return this.browser.open(this.server.address + path);
  }

  /** Writes a file beside the site, to be dropped or chosen. */
  async put(name: string, bytes: Uint8Array): Promise<string> {
    const path = join(this.folder, name);
    await mkdir(dirname(path), { recursive: true });
    await writeFile(path, bytes);
    return path;
  }

  /** An image that is in the clipboard, as a screen grab is, pasted by the keyboard. */
  async paste(png: Buffer): Promise<void> {
    await this.browser.command('Browser.grantPermissions', {
      origin: this.server.address,
      permissions: ['clipboardReadWrite', 'clipboardSanitizedWrite'],
    });
    await this.browser.command('Page.bringToFront', {});
    await this.browser.see(By.css('main'), 'the window');
    const written = await this.browser.driver.executeAsyncScript(
      `const done = arguments[1];
       const bytes = Uint8Array.from(atob(arguments[0]), (char) => char.charCodeAt(0));
       navigator.clipboard.write([new ClipboardItem({ 'image/png': new Blob([bytes], { type: 'image/png' }) })])
         .then(done, (error) => done(String(error)));`,
      png.toString('base64'),
    );
    if (written !== null) throw new Error(`The clipboard took no image: ${String(written)}`);
    await this.browser.hold(Key.CONTROL, 'v');
  }

  /** Drops files and folders of this machine on the window, as a file manager does. */
  async drop(...paths: string[]): Promise<void> {
    const data = { items: [], files: paths, dragOperationsMask: 1 };
    const { driver } = this.browser;
    await this.browser.see(By.css('main > *'), 'the section');
    await driver.executeScript(
      "window.letGo = false; document.addEventListener('drop', () => (window.letGo = true), { capture: true, once: true })",
    );
    // What hangs over a window that has not answered yet is not let go in it: it is held over it once more.
    const letGo = async () => {
      for (const type of ['dragEnter', 'dragOver', 'drop'])
        await this.browser.command('Input.dispatchDragEvent', { type, x: 640, y: 500, data });
      return driver
        .wait(() => driver.executeScript<boolean>('return window.letGo'), 5_000)
        .catch(() => false);
    };
    for (let times = 0; times < 4; times++) if (await letGo()) return;
    throw new Error('what was dropped did not reach the window');
  }

  /** Presses a plan's one button, whatever it says, and waits until it is done. */
  async applyPlan(says: string, done = ''): Promise<void> {
    const at = By.xpath(`//div[@role='dialog']//button[starts-with(normalize-space(.), '${says}')]`);
    await (await this.browser.see(at, `“${says}”`)).click();
    await this.browser.text(`Done. ${done}`.trim());
    await this.alone();
  }

  /** Waits until no dialog stands over the window any more. */
  async alone(): Promise<void> {
    await this.browser.driver.wait(
      () =>
        this.browser.driver.executeScript<boolean>(
          `return !document.querySelector('.el-overlay:not([style*="display: none"])')`,
        ),
      10_000,
    );
  }

  /** What axe-core finds wrong on the screen as it is, one line a rule. */
  async faultsOfAccess(): Promise<string[]> {
    await this.browser.settled();
    const axe = join(buildFolder(), '..', 'node_modules', 'axe-core', 'axe.min.js');
    await this.browser.driver.executeScript(await readFile(axe, 'utf8'));
    const faults = await this.browser.driver.executeAsyncScript<
      { id: string; nodes: { target: string[] }[] }[]
    >(
      'axe.run({ runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"] }).then((result) => arguments[0](result.violations))',
    );
    return faults.map(
      (fault) =>
        `${fault.id} at ${fault.nodes
          .slice(0, 3)
          .map((node) => node.target.join(' '))
          .join(', ')}`,
    );
  }
}

export { painted } from '../server/test/media.ts';
